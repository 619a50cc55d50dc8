"""Shot GH190, *pollen cloud*: the air above the night beds, full of glowing pollen, flown through."""

from math import cos, pi, sin
from typing import Any

from texallon.demo.document import Demo, Json, layer, made, shot, stops, value
from texallon.demo.signals import shared_signals

FRAMES = 48


def gh190(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH190",
        "pollen cloud",
        camera=along_path(0.0),
        views=[{"name": f"flight {frame:02d}", "camera": along_path((frame - 1) / (FRAMES - 1))} for frame in range(1, FRAMES + 1)],
        tracks=flight(),
        environment={**demo.sky(0.1, 200), "tilt": [24, 0, 12]},
        lights=[],
        bloom={"intensity": 0.16, "threshold": 0.8, "size": 0.05},
        objects=[
            {
                "name": "cloud", "look": "pollen", "geometry": {"shape": "sphere", "radius": 4.0}, "position": [0, -4, 0],
                "stretch": [1.3, 0.8, 1.0],
            },
            {
                "name": "seed head", "look": "seed head", "geometry": {"shape": "sphere", "radius": 0.12},
                "position": [0.55, -0.25, 0.2],
            },
        ],
        signals=shared_signals(),
        looks=[pollen(), seed_head()],
    )  # fmt: skip


def flight() -> list[Json]:
    """The camera's way as keys, every eighth frame."""
    moments = (1, 9, 17, 25, 33, 41, 48)
    way = [along_path((frame - 1) / (FRAMES - 1)) for frame in moments]
    return [
        {"at": f"/camera/{what}/{axis}", "keys": [{"frame": f, "value": each[what][axis]} for f, each in zip(moments, way, strict=True)]}
        for what in ("position", "target")
        for axis in range(3)
    ]  # fmt: skip


def along_path(share: float) -> Json:
    """The camera at a share of its way through the cloud."""
    turn = pi * (0.2 + 0.5 * share)
    position = [2.6 * cos(turn), -0.4 + 0.5 * share, 2.6 * sin(turn) - 0.6 * share]
    target = [0.35 * cos(2 * turn), -0.1 + 0.1 * share, -0.2 * share]
    return {
        "position": [round(each, 4) for each in position], "target": [round(each, 4) for each in target],
        "focal_length": 17, "exposure": 0.6,
    }  # fmt: skip


def pollen() -> Json:
    """Filaments that glow, in gas that shines faintly, with bright grains; what it scatters is the opposite of what it takes."""
    tints = stops(
        (0.0, [1.0, 0.22, 0.06]), (0.4, [1.0, 0.62, 0.14]), (0.62, [0.3, 0.9, 0.42]), (1.0, [0.08, 0.42, 1.0])
    )
    glow: list[tuple[str, Any]] = [
        ("signal", {"signal": "pollen threads"}),
        ("multiply", {"by": 1.6e-4}),
        (
            "add",
            {
                "by": {
                    "steps": [
                        {"op": "signal", "params": {"signal": "pollen gas"}},
                        {"op": "multiply", "params": {"by": 0.008}},
                    ]
                }
            },
        ),
    ]
    grains = ("signal", {"signal": "pollen gas"}), ("remap", {"from_start": 0.1, "from_end": 0.7, "to_end": 900.0})
    made_look = {
        "name": "pollen",
        "domain": "volume",
        "layers": [
            layer(
                "haze",
                density=made(("signal", {"signal": "pollen gas"}), ("multiply", {"by": 0.12})),
                scattering_color=value([0.35, 0.6, 0.9]),
                absorption_color=value([0.65, 0.4, 0.1]),
                scattering_anisotropy=value(0.45),
            ),
            layer(
                "glow",
                volume_emission=made(*glow),
                volume_emission_color=made(
                    ("noise", {"size": 3.4, "octaves": 1, "seed": 191, "spread": "full"}), ("ramp", {"stops": tints})
                ),
            ),
            layer(
                "grains",
                point_emission=made(*grains),
                point_color=made(
                    ("noise", {"size": 0.9, "octaves": 1, "seed": 197, "spread": "full"}), ("ramp", {"stops": tints})
                ),
                point_radius=value(0.0035),
            ),
        ],
        "points": {"spacing": 0.13, "seed": 19},
    }
    return made_look


def seed_head() -> Json:
    """A pale ball that the cloud lights."""
    return {
        "name": "seed head",
        "layers": [
            layer(
                "down", base_color=value([0.75, 0.72, 0.65]), base_diffuse_roughness=value(1.0), fuzz_weight=value(0.8)
            )
        ],
    }
