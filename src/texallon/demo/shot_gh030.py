"""Shot GH030, *night flower*: flat self-lit colour from a stretched three-channel noise, a dark outline at the silhouette."""

from texallon.demo.document import Demo, Json, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals


def gh030(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH030",
        "night flower",
        camera={"position": [0.26, 0.86, 0.62], "target": [0.0, 0.5, 0.0], "focal_length": 50, "exposure": 1.6},
        environment=demo.sky(0.7),
        lights=[],
        objects=[
            demo.item("petals", "night flower", position=[0, 0.45, 0]),
            demo.item("stem", "flower stem", position=[0, 0.45, 0]),
            demo.item("floor", "dark stone", geometry="flagstones"),
        ],
        signals=shared_signals(),
        looks=[night_flower(), flower_stem(), plain_stone()],
    )


def night_flower() -> Json:
    """No light falls on it: its colour drifts along the petals, and darkens where they turn from the eye."""
    return look(
        "night flower",
        layer(
            "self-lit",
            self_lit=value(1.0),
            base_color=made(
                (
                    "noise",
                    {
                        "size": 0.3, "octaves": 3, "fields": "colour", "scale": [0.75, 2.6, 1], "seed": 4,
                        "space": "uv", "speed": 0.35, "distortion": 0.25,
                    },
                ),
                ("contrast", {"amount": 2.0, "pivot": 0.52}),
                ("multiply", {"by": [0.8, 0.22, 1.0]}),
            ),
        ),
        layer(
            "vein",
            steps(
                ("uv", {"read": "u"}),
                ("subtract", {"by": 0.5}),
                ("absolute", {}),
                ("remap", {"from_start": 0.035, "from_end": 0.0, "ease": "smooth"}),
                ("multiply", {"by": 0.65}),
            ),
            base_color=value([1.0, 0.72, 0.86], "lighter"),
        ),
        layer(
            "heart",
            steps(("attribute", {"attribute": "along"}), ("remap", {"from_start": 0.34, "from_end": 0.0, "ease": "smooth"})),
            base_color=made(
                ("attribute", {"attribute": "along"}),
                ("ramp", {"stops": stops((0.0, [1.0, 0.8, 0.3]), (0.34, [0.9, 0.22, 0.3])), "colours": "perceptual"}),
            ),
        ),
        layer(
            "outline",
            steps(
                ("view angle", {"exponent": 1.0}),
                ("remap", {"from_start": 0.55, "from_end": 0.72, "ease": "smooth"}),
            ),
            base_color=value([0.012, 0.006, 0.03]),
        ),
    )  # fmt: skip


def flower_stem() -> Json:
    """Flat too, in one green that goes pale at the stamens' tips."""
    return look(
        "flower stem",
        layer(
            "self-lit",
            self_lit=value(1.0),
            base_color=made(
                ("height", {"origin": "object"}),
                (
                    "ramp",
                    {"stops": stops((-0.4, [0.01, 0.05, 0.06]), (0.0, [0.05, 0.3, 0.2]), (0.07, [1.0, 0.86, 0.5]))},
                ),
            ),
        ),
        layer(
            "outline",
            steps(
                ("view angle", {"exponent": 1.0}),
                ("remap", {"from_start": 0.7, "from_end": 0.85, "ease": "smooth"}),
            ),
            base_color=value([0.008, 0.008, 0.02]),
        ),
    )
