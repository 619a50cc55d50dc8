"""Shot GH250, *rain rings*: drops fall onto the pond; where each has hit a ring runs out, meets others, and dies."""

from texallon.demo.document import Demo, Json, layer, look, made, shot, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals


def gh250(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH250",
        "rain rings",
        camera={"position": [0.0, 0.55, 1.35], "target": [0.0, 0.0, 0.05], "focal_length": 40, "exposure": 2.4},
        environment=demo.sky(1.6, 30),
        lights=[{"name": "lantern", "shape": "sphere", "position": [0.55, 0.9, -3.2], "target": [0, 0, 0], "width": 0.14, "colour": [1.0, 0.52, 0.2], "power": 60.0, "visible": True}],
        objects=[
            {
                "name": "pond", "look": "rained pond", "geometry": {"shape": "plane", "width": 2.4, "depth": 2.0, "segments": 340},
                "subdivision": {"scheme": "midpoint", "levels": 0}, "displacement": {"most": 0.05},
                "remembers": [
                    {
                        "kind": "springs", "name": "ring", "signal": "hits", "frequency": 0.0, "damping": 0.16, "spread": 0.42,
                        "strength": -9.0,
                    }
                ],
            },
            {
                "name": "rain", "look": "drop", "geometry": {"shape": "rain", "width": 2.2, "depth": 1.8, "height": 1.6, "rate": 24, "radius": 0.005, "rests": 0.05},
            },
            {"name": "bank", "look": "dark stone", "geometry": {"shape": "box", "width": 3.4, "height": 0.2, "depth": 0.5}, "position": [0, -0.06, -1.2]},
        ],
        signals=shared_signals(),
        looks=[rained_pond(), drop(), plain_stone()],
    )  # fmt: skip


def rained_pond() -> Json:
    """Dark water that is as high as its rings say."""
    return look(
        "rained pond",
        layer(
            "water",
            base_color=value([0.01, 0.018, 0.022]),
            specular_roughness=value(0.03),
            specular_ior=value(1.333),
            displacement=made(("attribute", {"attribute": "ring"})),
        ),
    )


def drop() -> Json:
    """Clear water in the air."""
    return look(
        "drop",
        layer(
            "water",
            transmission_weight=value(1.0),
            specular_ior=value(1.333),
            specular_roughness=value(0.0),
        ),
    )
