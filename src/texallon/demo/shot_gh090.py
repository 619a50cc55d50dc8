"""Shot GH090, *hot stove iron*: a temperature that the mesh carries drives the glow, its colour, and a lowered metalness; the crust shines."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals

HEAT: list[tuple[str, Any]] = [
    ("attribute", {"attribute": "temperature"}),
    ("add", {"by": {"steps": [{"op": "noise", "params": {"size": 0.12, "octaves": 5, "low": -160.0, "high": 160.0, "seed": 91, "space": "object"}}]}}),
    ("remap", {"from_start": 700.0, "from_end": 1650.0, "ease": "smooth"}),
]  # fmt: skip
"""0 at a temperature that does not glow, 1 where it is bright orange, broken up by scale."""


def gh090(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH090",
        "hot stove iron",
        camera={"position": [0.45, 0.6, 1.05], "target": [0.0, 0.08, 0.0], "focal_length": 42, "exposure": 1.6},
        environment=demo.sky(1.2, 60),
        lights=[lantern((-1.2, 1.2, 0.9), (0.0, 0.1, 0.0), 6)],
        bloom={"intensity": 0.15, "threshold": 1.0, "size": 0.05},
        objects=[
            demo.item("iron", "hot iron", geometry="stove-iron"),
            demo.item("iron, all metal", "hot iron, all metal", geometry="stove-iron", position=[0, 0, -0.22]),
            demo.item("floor", "dark stone", geometry="flagstones"),
        ],
        signals=shared_signals(),
        looks=[hot_iron(), hot_iron("hot iron, all metal", lowered=False), plain_stone()],
    )  # fmt: skip


def hot_iron(name: str = "hot iron", lowered: bool = True) -> Json:
    """Cast iron; where it is hot it glows by its temperature, and, where `lowered`, is no mirror any more."""
    duller = {"base_metalness": value(0.0), "specular_weight": value(0.25)} if lowered else {}
    return look(
        name,
        layer(
            "cast iron",
            base_color=made(
                ("noise", {"size": 0.08, "octaves": 6, "gain": 0.6, "seed": 92, "space": "object"}),
                ("ramp", {"stops": stops((0.3, [0.10, 0.10, 0.105]), (0.7, [0.26, 0.25, 0.24]))}),
            ),
            emission_color=made(
                *HEAT,
                ("remap", {"to_start": 800.0, "to_end": 1500.0}),
                ("black body", {}),
                ("multiply", {"by": 0.35}),
                ("clamp", {"low": 0.0, "high": 1.0}),
            ),
            base_metalness=value(1.0),
            specular_roughness=value(0.42),
            bump=made(
                ("noise", {"size": 0.014, "octaves": 4, "gain": 0.6, "seed": 93, "space": "object"}),
                ("multiply", {"by": 0.0016}),
            ),
        ),
        layer(
            "hot",
            steps(*HEAT),
            emission_luminance=made(*HEAT, ("power", {"exponent": 3.0}), ("multiply", {"by": 1.5})),
            **duller,
        ),
    )
