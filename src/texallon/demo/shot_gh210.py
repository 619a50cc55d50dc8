"""Shot GH210, *fog lane*: a row of posts that vanish by their distance from the eye."""

from texallon.demo.document import Demo, Json, layer, look, made, shot, stops, value
from texallon.demo.signals import shared_signals


def gh210(demo: Demo) -> Json:
    """The document."""
    posts = [
        {
            "name": f"post {number} {side}", "look": "old wood",
            "position": [(-1.1 if side == "left" else 1.1), 0.0, -1.9 * number], "rotation": [0, 17 * number, 1.5 * (number % 3 - 1)],
            "geometry": {"shape": "box", "width": 0.16, "height": 1.5, "depth": 0.16, "rounding": 0.015},
        }
        for number in range(12)
        for side in ("left", "right")
    ]  # fmt: skip
    return shot(
        "GH210",
        "fog lane",
        camera={"position": [0.0, 1.15, 2.4], "target": [0.0, 0.82, -6.0], "focal_length": 30, "exposure": 0.4},
        environment={"colour": [0.55, 0.66, 0.8], "intensity": 1.5, "visible": True},
        atmosphere={"look": "fog", "ceiling": 6.0, "floor": -0.5, "reach": 40.0},
        lights=[],
        objects=[
            *posts,
            {"name": "lane", "look": "gravel", "geometry": {"shape": "plane", "width": 80, "depth": 80}},
        ],
        signals=shared_signals(),
        looks=[fog(), old_wood(), gravel()],
    )  # fmt: skip


def fog() -> Json:
    """From two metres on, all by twenty."""
    return {
        "name": "fog",
        "domain": "volume",
        "layers": [
            layer(
                "bank",
                density=made(("fog", {"near": 2.5, "far": 22.0, "curve": 0.8})),
                scattering_color=value([0.97, 0.97, 0.97]),
                absorption_color=value([0.03, 0.03, 0.03]),
                scattering_anisotropy=value(0.3),
            )
        ],
    }


def old_wood() -> Json:
    """Grey, with darker grain and a green foot."""
    return look(
        "old wood",
        layer(
            "grain",
            base_color=made(
                ("noise", {"size": 0.12, "octaves": 5, "seed": 211, "scale": [0.2, 3.0, 0.2], "space": "object"}),
                ("ramp", {"stops": stops((0.25, [0.05, 0.042, 0.036]), (0.75, [0.17, 0.15, 0.13]))}),
            ),
            specular_roughness=value(0.75),
        ),
    )


def gravel() -> Json:
    """Damp and dark."""
    return look(
        "gravel",
        layer(
            "stones",
            base_color=made(
                ("cellular", {"size": 0.09, "result": "cell", "seed": 212}),
                ("ramp", {"stops": stops((0.0, [0.03, 0.03, 0.032]), (1.0, [0.13, 0.125, 0.12]))}),
            ),
            specular_roughness=value(0.45),
        ),
    )
