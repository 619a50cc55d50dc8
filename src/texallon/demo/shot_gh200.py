"""Shot GH200, *glasshouse mist*: mist over the pond at night, with shafts of lantern light between pillars, and of moonlight between the glazing bars."""

from typing import Any

from texallon.demo.document import Demo, Json, layer, look, made, shot, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals


def gh200(demo: Demo) -> Json:
    """The document."""
    bars = [
        {
            "name": f"glazing bar {number}", "look": "iron bar", "position": [-2.6 + 0.45 * number, 2.25, -2.4],
            "rotation": [0, 0, 0],
            "geometry": {"shape": "box", "width": 0.3, "height": 0.04, "depth": 4.0, "rounding": 0.0},
        }
        for number in range(9)
    ]  # fmt: skip
    pillars = [
        {
            "name": f"pillar {number}", "look": "dark stone", "position": [-1.35 + 0.62 * number, 0.0, -1.1],
            "geometry": {"shape": "cylinder", "radius": 0.07, "height": 2.4, "rounding": 0.01},
        }
        for number in range(5)
    ]  # fmt: skip
    return shot(
        "GH200",
        "glasshouse mist",
        camera={"position": [0.3, 0.75, 3.0], "target": [-0.1, 0.72, 0.0], "focal_length": 26, "exposure": 1.0},
        environment={**demo.sky(0.09, 120)},
        atmosphere={"look": "mist", "ceiling": 2.6, "floor": -0.3, "reach": 7.0},
        lights=[
            {
                "name": "lantern", "shape": "sphere", "position": [0.2, 0.75, -1.75], "target": [0, 0, 0], "width": 0.12,
                "colour": [1.0, 0.5, 0.18], "power": 60.0, "visible": True,
            },
            {
                "name": "moon", "shape": "sun", "position": [1.6, 6.0, -4.6], "target": [-0.2, 0, 0.2], "angle": 0.6,
                "colour": [0.55, 0.72, 1.0], "power": 0.9,
            },
        ],
        bloom={"intensity": 0.12, "threshold": 1.2, "size": 0.05},
        objects=[
            *bars, *pillars,
            {"name": "floor", "look": "dark stone", "geometry": {"shape": "plane", "width": 9, "depth": 9}, "position": [0, -0.02, 0]},
            {"name": "pond", "look": "still water", "geometry": {"shape": "plane", "width": 3.4, "depth": 2.0}, "position": [0, 0.0, 0.55]},
        ],
        signals=shared_signals(),
        looks=[mist(), plain_stone(), iron_bar(), still_water()],
    )  # fmt: skip


def mist() -> Json:
    """Thick over the water and thin above, in slowly drifting swathes, with a clearing before the lens."""
    drift: list[tuple[str, Any]] = [
        (
            "noise",
            {
                "size": 0.9,
                "octaves": 4,
                "gain": 0.5,
                "seed": 201,
                "scale": [1.6, 0.7, 1.6],
                "speed": 0.12,
                "spread": "full",
            },
        ),
        ("remap", {"from_start": 0.2, "from_end": 0.9, "to_start": 0.15, "to_end": 1.0}),
    ]
    height = {"steps": [
        {"op": "height", "params": {}},
        {"op": "remap", "params": {"from_start": 2.4, "from_end": 0.0, "to_start": 0.12, "to_end": 1.0, "ease": "smooth"}},
    ]}  # fmt: skip
    clearing = {"steps": [
        {"op": "falloff", "params": {"shape": "sphere", "origin": "camera", "width": 0.8, "border": 1.4}}, {"op": "invert"},
    ]}  # fmt: skip
    return {
        "name": "mist",
        "domain": "volume",
        "layers": [
            layer(
                "swathes",
                density=made(
                    *drift, ("multiply", {"by": height}), ("multiply", {"by": clearing}), ("multiply", {"by": 0.34})
                ),
                scattering_color=value([0.86, 0.9, 0.95]),
                absorption_color=value([0.05, 0.04, 0.03]),
                scattering_anisotropy=value(0.7),
                second_anisotropy=value(-0.3),
                second_share=value(0.2),
            )
        ],
    }


def iron_bar() -> Json:
    """Dark painted iron."""
    return look("iron bar", layer("paint", base_color=value([0.03, 0.035, 0.035]), specular_roughness=value(0.5)))


def still_water() -> Json:
    """A dark mirror."""
    return look(
        "still water",
        layer(
            "water", base_color=value([0.004, 0.006, 0.008]), specular_roughness=value(0.02), specular_ior=value(1.33)
        ),
    )
