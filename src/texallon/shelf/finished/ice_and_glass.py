"""Snow, ice, glass, milk glass and water."""

from texallon.demo.document import layer, look, made, steps, value
from texallon.shelf.finished import Finished


def snow() -> Finished:
    drift = made(
        ("noise", {"size": 0.2, "octaves": 4, "seed": 601, "space": "object"}),
        ("multiply", {"by": 0.05}),
        (
            "add",
            {
                "by": steps(
                    ("noise", {"size": 0.008, "octaves": 4, "gain": 0.7, "seed": 602, "space": "object"}),
                    ("multiply", {"by": 0.005}),
                )
            },
        ),
    )
    sparkle = steps(
        ("cellular", {"size": 0.005, "result": "cell", "seed": 603, "space": "object"}), ("threshold", {"level": 0.975})
    )
    return Finished(
        look(
            "snow",
            layer("snow", base_color=value([0.93, 0.95, 0.98]), base_diffuse_roughness=value(0.8), subsurface_weight=value(0.7), subsurface_color=value([0.94, 0.96, 0.985]), subsurface_radius=value(0.006), subsurface_radius_scale=value([0.55, 0.8, 1.0]), specular_weight=value(0.3), specular_roughness=value(0.5), bump=drift),
            layer("glitter", sparkle, specular_weight=value(1.0), specular_roughness=value(0.12)),
        ),
        ("winter", "white", "soft"),
        "Fresh snow, bluish where light has gone far through it, with grains that glitter.",
    )  # fmt: skip


def ice() -> Finished:
    cracks = steps(
        (
            "cellular",
            {"size": 0.24, "result": "edge", "distortion": 0.5, "distortion_size": 0.6, "seed": 611, "space": "object"},
        ),
        ("remap", {"from_start": 0.035, "from_end": 0.0, "ease": "smooth"}),
    )
    clouded = steps(
        ("noise", {"size": 0.25, "octaves": 6, "seed": 612, "space": "object", "spread": "full"}),
        ("remap", {"from_start": 0.55, "from_end": 0.95, "to_end": 0.8, "ease": "smooth"}),
    )
    return Finished(
        look(
            "ice",
            layer("clear", transmission_weight=value(1.0), transmission_color=value([0.62, 0.85, 0.93]), transmission_depth=value(0.5), transmission_scatter=value([0.05, 0.07, 0.08]), specular_ior=value(1.31), specular_roughness=value(0.05), bump=made(("noise", {"size": 0.09, "octaves": 5, "seed": 613, "space": "object"}), ("multiply", {"by": 0.006}))),
            layer("clouded", clouded, transmission_weight=value(0.35), subsurface_weight=value(1.0), subsurface_color=value([0.84, 0.92, 0.96]), subsurface_radius=value(0.03), specular_roughness=value(0.25)),
            layer("cracks", cracks, transmission_weight=value(0.2), subsurface_weight=value(1.0), subsurface_color=value([0.92, 0.96, 0.99]), subsurface_radius=value(0.01), specular_roughness=value(0.4)),
        ),
        ("winter", "frozen", "translucent"),
        "Ice, clear and clouded by turns, with white cracks.",
    )  # fmt: skip


def glass() -> Finished:
    return Finished(
        look(
            "glass",
            layer("glass", transmission_weight=value(1.0), transmission_color=value([0.84, 0.95, 0.9]), transmission_depth=value(0.6), specular_ior=value(1.52), specular_roughness=value(0.0)),
            layer("smudges", steps(("noise", {"size": 0.08, "octaves": 7, "gain": 0.65, "seed": 621, "space": "object", "spread": "full"}), ("remap", {"from_start": 0.6, "from_end": 1.0, "to_end": 0.6})), specular_roughness=value(0.16)),
        ),
        ("transparent", "smooth", "clear"),
        "Old greenish glass, here and there smudged. Needs a closed body.",
    )  # fmt: skip


def milk_glass() -> Finished:
    return Finished(
        look(
            "milk glass",
            layer("glass", subsurface_weight=value(1.0), subsurface_color=value([0.94, 0.93, 0.9]), subsurface_radius=value(0.05), subsurface_radius_scale=value([1.0, 0.75, 0.5]), specular_ior=value(1.5), specular_roughness=value(0.06)),
        ),
        ("lamp", "white", "translucent"),
        "Opal glass as of a lamp's shade: put a lamp inside.",
    )  # fmt: skip


def water() -> Finished:
    waves = made(
        ("noise", {"size": 0.22, "octaves": 4, "gain": 0.45, "speed": 0.35, "seed": 631, "space": "world"}),
        ("multiply", {"by": 0.028}),
    )
    return Finished(
        look("water", layer("water", transmission_weight=value(1.0), transmission_color=value([0.35, 0.68, 0.66]), transmission_depth=value(1.2), specular_ior=value(1.333), specular_roughness=value(0.0), bump=waves)),
        ("wet", "clear", "moving"),
        "Clear water; its waves change in time by the noise's speed.",
    )  # fmt: skip
