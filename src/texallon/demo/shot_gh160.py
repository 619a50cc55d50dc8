"""Shot GH160, *dusty pillars*: soot where a pillar shuts itself in, dust where it falls from above; and beside it the wrong way round."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import flagstones
from texallon.demo.signals import shared_signals

SHUT_IN: list[tuple[str, Any]] = [
    ("occlusion", {"distance": 0.06}),
    ("remap", {"from_start": 0.04, "from_end": 0.30, "ease": "smooth"}),
]
FALLS: list[tuple[str, Any]] = [
    ("occlusion", {"distance": 1.2, "spread": 70.0, "way": "upwards"}),
    ("remap", {"from_start": 0.52, "from_end": 0.3}),
    ("multiply", {"by": {"steps": [{"op": "slope", "params": {"full": 30.0, "none": 75.0}}]}}),
    ("add", {"by": {"steps": [{"op": "noise", "params": {"size": 0.05, "octaves": 5, "gain": 0.6, "low": -0.25, "high": 0.25, "seed": 161}}]}}),
    ("remap", {"from_start": 0.15, "from_end": 0.6, "ease": "smooth"}),
]  # fmt: skip


def gh160(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH160",
        "dusty pillars",
        camera={"position": [0.25, 0.72, 1.55], "target": [0.02, 0.30, 0.0], "focal_length": 36, "exposure": 2.3},
        environment=demo.sky(1.6, 120),
        lights=[lantern((-1.0, 1.1, 1.1), (0.0, 0.3, 0.0), 20)],
        objects=[
            demo.item("pillar", "sooty pillar", geometry="moulded-pillar", position=[-0.36, 0.0, 0.0]),
            demo.item("pillar, the wrong way round", "sooty pillar, the wrong way round", geometry="moulded-pillar", position=[0.42, 0.0, -0.1]),
            demo.item("floor", "flagstones", geometry="flagstones"),
        ],
        signals=shared_signals(),
        looks=[sooty_pillar(), sooty_pillar("sooty pillar, the wrong way round", wrong=True), flagstones()],
    )  # fmt: skip


def sooty_pillar(name: str = "sooty pillar", wrong: bool = False) -> Json:
    """Pale stone; where `wrong`, soot lies on what stands out and dust hangs below, as no soot and no dust does."""
    turned = [("invert", {})] if wrong else []
    return look(
        name,
        layer(
            "stone",
            base_color=made(
                ("noise", {"size": 0.16, "octaves": 7, "gain": 0.58, "seed": 162}),
                ("ramp", {"stops": stops((0.25, [0.20, 0.165, 0.125]), (0.75, [0.36, 0.31, 0.24]))}),
            ),
            specular_roughness=value(0.6),
            specular_weight=value(0.4),
            bump=made(("noise", {"size": 0.02, "octaves": 5, "gain": 0.55, "seed": 163}), ("multiply", {"by": 0.0012})),
        ),
        layer(
            "soot",
            steps(*SHUT_IN, *turned),
            base_color=value([0.018, 0.016, 0.015]),
            specular_weight=value(0.1),
        ),
        layer(
            "dust",
            steps(*FALLS, *turned),
            base_color=made(
                ("noise", {"size": 0.03, "octaves": 4, "seed": 164}),
                ("ramp", {"stops": stops((0.3, [0.58, 0.56, 0.52]), (0.7, [0.74, 0.72, 0.68]))}),
            ),
            specular_weight=value(0.0),
            fuzz_weight=value(0.4),
            fuzz_color=value([0.8, 0.76, 0.7]),
        ),
    )
