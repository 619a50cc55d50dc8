"""Shot GH270, *stove cools*: glowing slag runs out before the stove onto the flagstones, spreads, and stiffens as its rim cools."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, stops
from texallon.demo.looks import plain_stone
from texallon.demo.shot_gh090 import hot_iron
from texallon.demo.signals import shared_signals


def gh270(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH270",
        "stove cools",
        camera={"position": [0.28, 0.5, 1.05], "target": [0.0, 0.02, 0.02], "focal_length": 42, "exposure": 1.2},
        environment=demo.sky(0.5, 60),
        lights=[lantern((-1.2, 1.2, 0.9), (0.0, 0.1, 0.0), 6)],
        bloom={"intensity": 0.1, "threshold": 1.0, "size": 0.04},
        objects=[
            demo.item("iron", "hot iron", geometry="stove-iron", position=[0, 0, -0.42]),
            demo.item("floor", "dark stone", geometry="flagstones"),
            {
                "name": "slag", "look": "slag", "position": [0, 0.012, 0.1],
                "geometry": {
                    "shape": "flow", "volume": 0.005, "pours": 1.2, "viscosity": 0.006, "hot": 1480.0, "cools": 0.8,
                    "stiffens": 2.2, "lobes": 0.2, "segments": 192, "seed": 4, "seconds": 0.3,
                },
            },
        ],
        signals=shared_signals(),
        looks=[slag(), hot_iron(), plain_stone()],
    )  # fmt: skip


def slag() -> Json:
    """A dark crust that has cooled, and the glow of a black body where it has not; through cracks the inside shows."""
    hotter = {"steps": [
        {"op": "cellular", "params": {"size": 0.05, "result": "edge", "seed": 271}},
        {"op": "remap", "params": {"from_start": 0.0, "from_end": 0.006, "to_start": 260.0, "to_end": 0.0, "ease": "smooth"}},
    ]}  # fmt: skip
    patchy = {"steps": [
        {"op": "noise", "params": {"size": 0.09, "octaves": 5, "gain": 0.6, "low": -230.0, "high": 120.0, "seed": 272, "spread": "full"}},
    ]}  # fmt: skip
    heat: list[tuple[str, Any]] = [
        ("attribute", {"attribute": "temperature"}),
        ("add", {"by": patchy}),
        ("add", {"by": hotter}),
    ]
    return look(
        "slag",
        layer(
            "slag",
            base_color=made(
                ("noise", {"size": 0.05, "octaves": 5, "gain": 0.6, "seed": 273}),
                ("ramp", {"stops": stops((0.25, [0.018, 0.016, 0.016]), (0.75, [0.07, 0.06, 0.055]))}),
            ),
            specular_roughness=made(("noise", {"size": 0.03, "octaves": 4, "seed": 274}), ("remap", {"to_start": 0.3, "to_end": 0.75})),
            emission_color=made(*heat, ("black body", {}), ("clamp", {"low": 0.0, "high": 1.0})),
            emission_luminance=made(*heat, ("remap", {"from_start": 800.0, "from_end": 1500.0, "ease": "linear"}), ("power", {"exponent": 3.0}), ("multiply", {"by": 7.0})),
            bump=made(
                ("noise", {"size": 0.035, "octaves": 5, "gain": 0.62, "seed": 275}),
                ("multiply", {"by": 0.008}),
            ),
        ),
    )  # fmt: skip
