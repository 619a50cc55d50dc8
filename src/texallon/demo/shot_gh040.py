"""Shot GH040, *drain whirl*: a pattern of leaves pulled round and round into a drain."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, value
from texallon.demo.signals import shared_signals


def gh040(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH040",
        "drain whirl",
        camera={"position": [0.45, 1.25, 1.15], "target": [0.0, -0.03, 0.02], "focal_length": 34, "exposure": 2.3},
        environment=demo.sky(),
        lights=[lantern((-1.7, 1.0, 0.5), (0.0, 0.0, 0.0), 20)],
        locators=[{"name": "drain", "position": [0.0, -0.05, 0.0]}],
        numbers=[{"name": "whirl", "id": "whirl", "value": 14.0, "unit": "°"}],
        tracks=[
            {
                "at": "/numbers/whirl/value",
                "keys": [{"frame": 1, "value": 14.0}, {"frame": 25, "value": 40.0}],
                "before": "ping-pong",
                "after": "ping-pong",
            }
        ],
        objects=[demo.item("floor", "drain floor", geometry="drain-floor")],
        signals=shared_signals(),
        looks=[drain_floor(demo.ref("pictures/fallen-leaves.png"))],
    )


def drain_floor(leaves: Json) -> Json:
    """Leaves from a picture, twirled and swirled about the drain; wet and dark towards it."""
    whirl: list[tuple[str, Any]] = [
        ("swirl", {"space": "uv", "angle": 330, "radius": 1.0, "power": 1.8}),
        ("twirl", {"space": "uv", "angle": {"number": "whirl"}}),
    ]
    return look(
        "drain floor",
        layer(
            "silt",
            base_color=made(
                ("noise", {"size": 0.25, "octaves": 6, "seed": 40}),
                ("remap", {"from_start": 0.3, "from_end": 0.7, "to_start": 0.02, "to_end": 0.05}),
            ),
            specular_roughness=value(0.3),
        ),
        layer(
            "leaves",
            steps(*whirl, ("image", {"file": leaves, "role": "mask", "channel": "alpha", "size": 1.25})),
            base_color=made(*whirl, ("image", {"file": leaves, "role": "colour", "size": 1.25})),
            specular_roughness=value(0.42),
        ),
        layer(
            "wet",
            steps(
                ("gradient", {"shape": "radial", "origin": {"locator": "drain"}, "length": 1.0}),
                ("add", {"by": {"steps": [{"op": "noise", "params": {"size": 0.3, "octaves": 4, "low": -0.2, "high": 0.2, "seed": 41}}]}}),
                ("remap", {"from_start": 0.8, "from_end": 0.45, "ease": "smooth"}),
            ),
            base_color=value(0.55, "multiply"),
            specular_roughness=value(0.22),
            specular_weight=value(0.8),
        ),
        layer(
            "drain",
            steps(
                ("gradient", {"shape": "radial", "origin": {"locator": "drain"}, "length": 1.0}),
                ("threshold", {"level": 0.045, "width": 0.012, "keep": "below"}),
            ),
            base_color=value(0.008),
            specular_weight=value(0.0),
        ),
    )  # fmt: skip
