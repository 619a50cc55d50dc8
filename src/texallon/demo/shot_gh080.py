"""Shot GH080, *flame shell*: two nested sheets cut out by drifting noise, seen through each other, with bloom."""

from typing import Any

from texallon.demo.document import Demo, Json, layer, look, made, shot, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals


def gh080(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH080",
        "flame shell",
        camera={
            "position": [0.35, 0.5, 1.15], "target": [0.0, 0.24, 0.0], "focal_length": 50, "exposure": 1.2,
            "f_stop": 1.4, "focus_distance": 1.15,
        },
        environment=demo.sky(0.6),
        lights=[
            {
                "name": "wick", "shape": "sphere", "position": [0, 0.16, 0], "target": [0, 0, 0], "width": 0.05,
                "colour": [1.0, 0.46, 0.14], "power": 3.0, "visible": False,
            }
        ],
        bloom={"intensity": 0.35, "threshold": 0.8, "size": 0.04},
        objects=[
            demo.item("flame", "flame shell", geometry="flame-shell"),
            demo.item("floor", "dark stone", geometry="flagstones"),
        ],
        signals=shared_signals(),
        looks=[flame_shell(), plain_stone()],
    )  # fmt: skip


def flame_shell() -> Json:
    """Tongues that rise: bright where the noise is high, cut away where it is low and towards the tip."""
    rising: list[tuple[str, Any]] = [
        ("move", {"space": "object", "by": [0, 0.2, 0]}),
        (
            "noise",
            {
                "size": 0.09, "octaves": 4, "seed": 81, "scale": [1, 2.8, 1], "space": "object", "speed": 1.2,
                "distortion": 0.35,
            },
        ),
    ]  # fmt: skip
    fade = {"steps": [
        {"op": "height", "params": {"origin": "object"}},
        {"op": "remap", "params": {"from_start": 0.5, "from_end": 0.1, "to_start": -0.28, "to_end": 0.12}},
    ]}  # fmt: skip
    return look(
        "flame shell",
        layer(
            "tongues",
            base_weight=value(0.0),
            specular_weight=value(0.0),
            emission_luminance=made(
                *rising, ("add", {"by": fade}), ("remap", {"from_start": 0.42, "from_end": 0.72, "to_end": 1.7, "ease": "smooth"}),
            ),
            emission_color=made(
                *rising,
                ("add", {"by": fade}),
                ("remap", {"from_start": 0.4, "from_end": 0.75}),
                (
                    "ramp",
                    {"stops": stops((0.0, [0.8, 0.05, 0.01]), (0.5, [1.0, 0.3, 0.04]), (1.0, [1.0, 0.72, 0.28])), "colours": "perceptual"},
                ),
            ),
            geometry_opacity=made(
                *rising, ("add", {"by": fade}), ("remap", {"from_start": 0.44, "from_end": 0.56, "ease": "smooth"})
            ),
        ),
    )  # fmt: skip
