"""The film's shared signals: written once, used by its looks in every shot."""

from texallon.demo.document import Json, Step, signal
from texallon.demo.moving_signals import moving_signals

FALLEN = ((-0.55, 0.30, 24.0, 2.6), (0.62, -0.25, 21.0, 2.2), (0.10, 0.55, 29.0, 4.5))
"""Where drops fell: x and z in metres, how close the waves follow each other, and how soon they die."""

RUNS = 4.5
"""Radians a second by which rings run on."""


def ring(x: float, z: float, waves: float, dies: float) -> str:
    """Rings that run out about a place on the floor, as a formula: how high, −1…1."""
    away = f"sqrt((position.x - {x}) ** 2 + (position.z - {z}) ** 2)"
    return f"cos({away} * {waves} - time * {RUNS}) * exp(-{away} * {dies})"


def trodden_by(feet: str) -> Step:
    """Where feet have stood."""
    return ("contact", {"to": {"object": feet}, "end": 0.04, "falloff": "smooth"})


def _step(given: Step) -> Json:
    return {"op": given[0], "params": given[1]}


def shared_signals() -> list[Json]:
    """In the order in which the project lists them."""
    waterline = {"locator": "waterline"}
    return [
        signal(
            "splash noise",
            ("noise", {"size": 0.16, "octaves": 5, "gain": 0.55, "seed": 7, "scale": [1, 1.7, 1]}),
            ("remap", {"from_start": 0.34, "from_end": 0.52, "ease": "smooth"}),
        ),
        signal("bowl", ("attribute", {"attribute": "inside"})),
        signal(
            "waterline wetness",
            ("height", {"origin": waterline, "axis": "y"}),
            ("remap", {"from_start": 0.12, "from_end": 0.0, "ease": "smooth"}),
            ("multiply", {"by": {"signal": "splash noise"}}),
        ),
        signal(
            "puddles",
            ("offset", {"by": {"steps": [{"op": "noise", "params": {"size": 0.2, "octaves": 3, "fields": "colour", "seed": 21}}]}, "amount": 0.16}),
            ("spots", {"size": 1.15, "density": 0.72, "variation": 0.55, "irregular": 0.7, "soft": 0.55, "seed": 12}),
        ),
        signal(
            "burning edge",
            ("height", {"origin": {"locator": "burn"}}),
            ("add", {"by": {"steps": [{"op": "noise", "params": {"size": 0.06, "octaves": 6, "gain": 0.6, "low": -0.05, "high": 0.05, "seed": 110}}]}}),
        ),
        signal("rings", ("formula", {"expression": " + ".join(ring(*each) for each in FALLEN)})),
        signal("trodden", trodden_by("left feet"), ("maximum", {"by": {"steps": [_step(trodden_by("right feet"))]}})),
        signal(
            "mossy",
            ("noise", {"size": 0.34, "octaves": 4, "gain": 0.5, "seed": 171}),
            ("remap", {"from_start": 0.46, "from_end": 0.66, "ease": "smooth"}),
        ),
        signal(
            "above water",
            ("height", {"origin": waterline, "axis": "y"}),
            ("remap", {"from_start": 0.012, "from_end": 0.13, "ease": "smooth"}),
            ("multiply", {"by": {"steps": [
                {"op": "slope", "params": {"full": 35.0, "none": 100.0}},
                {"op": "multiply", "params": {"by": {"steps": [
                    {"op": "noise", "params": {"size": 0.16, "octaves": 4, "seed": 185}},
                    {"op": "remap", "params": {"from_start": 0.4, "from_end": 0.6, "ease": "smooth"}},
                ]}}},
            ]}}),
        ),
        signal("stone kinds", ("noise", {"size": 0.5, "octaves": 2, "seed": 186}), ("remap", {"from_start": 0.35, "from_end": 0.65})),
        signal(
            "pollen threads",
            ("ridged", {
                "size": 3.0, "octaves": 16, "dimension": 0.0, "gain": 40.0, "offset": -0.06, "lacunarity": 1.9, "distortion": 0.5,
                "seed": 19,
            }),
            ("invert", {}),
            ("remap", {"from_start": 0.3, "from_end": 1.3, "to_start": 0.0, "to_end": 420.0, "clamp": False}),
            ("multiply", {"by": {"signal": "pollen drifts"}}),
            ("power", {"exponent": 1.98}),
        ),
        signal(
            "pollen gas",
            ("noise", {"size": 2.6, "octaves": 3, "gain": 0.5, "seed": 193, "spread": "full"}),
            ("remap", {"from_start": 0.35, "from_end": 1.0, "ease": "smooth"}),
            ("multiply", {"by": {"signal": "in the cloud"}}),
        ),
        signal(
            "pollen drifts",
            ("noise", {"size": 1.9, "octaves": 2, "gain": 0.4, "distortion": 0.5, "seed": 198, "spread": "full"}),
            ("remap", {"from_start": 0.45, "from_end": 0.95, "ease": "smooth"}),
            ("multiply", {"by": {"signal": "in the cloud"}}),
        ),
        signal("in the cloud", ("falloff", {"shape": "sphere", "width": 4.6, "border": 1.5})),
        signal("bare", ("signal", {"signal": "mossy"}), ("remap", {"from_start": 0.5, "from_end": 0.05})),
        *moving_signals(),
    ]  # fmt: skip
