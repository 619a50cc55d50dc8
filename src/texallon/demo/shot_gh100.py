"""Shot GH100, *spore pods*: many small glowing spheres, opaque only at the rim, inside glass that splits colours."""

from texallon.demo.document import Demo, Json, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals


def gh100(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH100",
        "spore pods",
        camera={
            "position": [0.1, 0.36, 1.25], "target": [0.0, 0.165, 0.03], "focal_length": 50, "exposure": 1.4,
            "f_stop": 4.0, "focus_distance": 1.22,
        },
        environment={**demo.sky(1.1, 30), "group": "night"},
        lights=[
            {
                "name": "moon", "shape": "disc", "position": [-1.1, 1.5, -0.8], "target": [0, 0.15, 0], "width": 0.3,
                "colour": [0.62, 0.78, 1.0], "power": 9.0, "visible": False, "group": "night",
            }
        ],
        light_groups=[{"name": "night"}, {"name": "spores"}],
        bloom={"intensity": 0.2, "threshold": 1.2, "size": 0.05},
        bounces=14,
        limits={"transmission": 24, "transparency": 48},
        objects=[
            demo.item("spores", "spores", group="spores"),
            demo.item("pods", "pod glass", geometry="glass-pods", priority=1),
            demo.item("stalks", "stalk", geometry="pod-stalks"),
            demo.item("floor", "dark stone", geometry="flagstones"),
        ],
        signals=shared_signals(),
        looks=[spores(), pod_glass(), stalk(), plain_stone()],
    )  # fmt: skip


def spores() -> Json:
    """Each in a colour of its own, there only where its side is seen."""
    rim = steps(
        ("view angle", {}), ("remap", {"from_start": 0.35, "from_end": 0.8, "to_start": 0.04, "ease": "smooth"})
    )
    return look(
        "spores",
        layer(
            "glow",
            base_weight=value(0.0),
            specular_weight=value(0.0),
            emission_luminance=value(0.85),
            emission_exposure=made(("attribute", {"attribute": "spore"}), ("remap", {"to_start": -1.0, "to_end": 0.8})),
            emission_color=made(
                ("attribute", {"attribute": "spore"}),
                (
                    "ramp",
                    {
                        "stops": stops(
                            (0.0, [1.0, 0.32, 0.05]), (0.3, [1.0, 0.75, 0.2]), (0.6, [0.35, 1.0, 0.45]), (1.0, [0.1, 0.65, 1.0])
                        ),
                        "colours": "perceptual",
                    },
                ),
            ),
            geometry_opacity={"recipe": rim, "blend": "replace"},
        ),
    )  # fmt: skip


def pod_glass() -> Json:
    """Heavy glass, a little green where it is thick."""
    return look(
        "pod glass",
        layer(
            "glass",
            specular_roughness=value(0.0),
            specular_ior=value(1.55),
            transmission_weight=value(1.0),
            transmission_color=value([0.82, 0.95, 0.88]),
            transmission_depth=value(0.5),
            transmission_dispersion_scale=value(1.0),
            transmission_dispersion_abbe_number=value(14.0),
        ),
    )


def stalk() -> Json:
    """Downy green."""
    return look(
        "stalk",
        layer(
            "skin",
            base_color=value([0.07, 0.11, 0.05]),
            specular_roughness=value(0.45),
            fuzz_weight=value(0.8),
            fuzz_color=value([0.75, 0.85, 0.7]),
            fuzz_roughness=value(0.35),
        ),
    )
