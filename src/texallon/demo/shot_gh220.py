"""Shot GH220, *ember smoke*: smoke over the stove, so hot near the iron that it glows as a black body, and steam beside it from a file of voxels."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, made, shot, value
from texallon.demo.looks import plain_stone
from texallon.demo.shot_gh090 import hot_iron
from texallon.demo.signals import shared_signals


def gh220(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH220",
        "ember smoke",
        camera={"position": [0.35, 0.6, 1.75], "target": [0.0, 0.46, -0.05], "focal_length": 42, "exposure": 1.4},
        environment=demo.sky(0.5, 60),
        lights=[lantern((-1.2, 1.2, 0.9), (0.0, 0.4, 0.0), 5)],
        bloom={"intensity": 0.14, "threshold": 1.0, "size": 0.05},
        objects=[
            demo.item("iron", "hot iron", geometry="stove-iron"),
            demo.item("floor", "dark stone", geometry="flagstones"),
            {
                "name": "smoke", "look": "ember smoke", "position": [0, 0.06, -0.02],
                "geometry": {"shape": "box", "width": 0.9, "height": 1.1, "depth": 0.9, "rounding": 0.0},
            },
            {
                "name": "steam", "look": "steam", "position": [0.52, 0, 0.22],
                "geometry": {"shape": "box", "width": 0.56, "height": 0.95, "depth": 0.56, "rounding": 0.0},
            },
        ],
        signals=shared_signals(),
        looks=[ember_smoke(), steam(demo), hot_iron(), plain_stone()],
    )  # fmt: skip


def ember_smoke() -> Json:
    """Rising swirls within a column that widens; the hotter the nearer to the iron."""
    column = {"steps": [
        {"op": "formula", "params": {"expression":
            "clamp(1.25 - sqrt(object_position.x * object_position.x + object_position.z * object_position.z) / (0.1 + 0.26 * object_position.y), 0, 1)"
        }},
    ]}  # fmt: skip
    thinner = {"steps": [
        {"op": "height", "params": {"origin": "object"}},
        {"op": "remap", "params": {"from_start": 0.0, "from_end": 1.05, "to_start": 1.0, "to_end": 0.0, "ease": "smooth"}},
    ]}  # fmt: skip
    swirls: list[tuple[str, Any]] = [
        ("move", {"space": "object", "by": [0, -0.25, 0]}),
        (
            "noise",
            {
                "size": 0.22, "octaves": 5, "gain": 0.55, "seed": 221, "space": "object", "distortion": 0.9, "speed": 0.7,
                "scale": [1, 1.5, 1], "spread": "full",
            },
        ),
        ("remap", {"from_start": 0.42, "from_end": 0.95, "ease": "smooth"}),
        ("multiply", {"by": column}),
        ("multiply", {"by": thinner}),
    ]  # fmt: skip
    return {
        "name": "ember smoke",
        "domain": "volume",
        "layers": [
            layer(
                "smoke",
                density=made(*swirls, ("multiply", {"by": 42.0})),
                scattering_color=value([0.45, 0.42, 0.4]),
                absorption_color=value([0.4, 0.45, 0.5]),
                scattering_anisotropy=value(0.4),
                temperature=made(
                    ("height", {"origin": "object"}),
                    ("add", {"by": {"steps": [
                        {"op": "noise", "params": {"size": 0.12, "octaves": 4, "low": -0.2, "high": 0.2, "seed": 222, "space": "object"}},
                    ]}}),
                    ("remap", {"from_start": 0.0, "from_end": 0.62, "to_start": 1120.0, "to_end": 600.0}),
                ),
            )
        ],
    }  # fmt: skip


def steam(demo: Demo) -> Json:
    """As its file has it, broken up a little more finely than its voxels are."""
    grid: list[tuple[str, Any]] = [
        ("voxels", {"file": demo.ref("voxels/steam.npz"), "grid": "density", "space": "object"}),
        ("multiply", {"by": {"steps": [
            {"op": "noise", "params": {"size": 0.05, "octaves": 4, "low": 0.2, "high": 1.8, "seed": 224, "space": "object", "speed": 0.6}},
        ]}}),
    ]  # fmt: skip
    return {
        "name": "steam",
        "domain": "volume",
        "layers": [
            layer(
                "steam",
                density=made(*grid, ("multiply", {"by": 6.0})),
                scattering_color=value([0.95, 0.96, 1.0]),
                absorption_color=value([0.0, 0.0, 0.0]),
                scattering_anisotropy=value(0.3),
            )
        ],
    }
