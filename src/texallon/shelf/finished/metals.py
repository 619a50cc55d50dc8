"""Cast iron, brass, copper gone green, and gold leaf. Base colours are linear reflectances at normal incidence, from memory."""

from texallon.demo.document import layer, look, made, steps, stops, value
from texallon.shelf.finished import Finished


def cast_iron() -> Finished:
    skin = made(
        ("noise", {"size": 0.011, "octaves": 6, "gain": 0.7, "seed": 401, "space": "object"}),
        ("multiply", {"by": 0.0022}),
    )
    rust = steps(
        ("noise", {"size": 0.14, "octaves": 9, "gain": 0.68, "seed": 402, "space": "object", "spread": "full"}),
        ("remap", {"from_start": 0.68, "from_end": 0.86, "ease": "smooth"}),
    )
    return Finished(
        look(
            "cast iron",
            layer("iron", base_color=value([0.2, 0.2, 0.21]), base_metalness=value(1.0), specular_roughness=made(("noise", {"size": 0.05, "octaves": 6, "seed": 403, "space": "object"}), ("remap", {"to_start": 0.35, "to_end": 0.68})), bump=skin),
            layer("rust", rust, base_color=made(("noise", {"size": 0.02, "octaves": 5, "seed": 404, "space": "object"}), ("ramp", {"stops": stops((0.2, [0.09, 0.026, 0.01]), (0.8, [0.3, 0.1, 0.03]))})), base_metalness=value(0.0), specular_roughness=value(0.85), specular_weight=value(0.3)),
        ),
        ("metal", "rust", "iron"),
        "Sand-cast iron, rusting in places.",
    )  # fmt: skip


def brass() -> Finished:
    tarnish = steps(
        ("noise", {"size": 0.22, "octaves": 7, "gain": 0.62, "seed": 411, "space": "object", "spread": "full"}),
        ("remap", {"from_start": 0.35, "from_end": 0.95, "to_end": 0.75, "ease": "smooth"}),
    )
    return Finished(
        look(
            "brass",
            layer("polished", base_color=value([0.89, 0.66, 0.29]), base_metalness=value(1.0), specular_roughness=value(0.14)),
            layer("tarnish", tarnish, base_color=value([0.36, 0.22, 0.09]), specular_roughness=value(0.42)),
            layer("fingered", steps(("noise", {"size": 0.03, "octaves": 4, "seed": 412, "space": "object", "spread": "full"}), ("remap", {"from_start": 0.55, "from_end": 0.9})), specular_roughness=value(0.3)),
        ),
        ("metal", "polished", "tarnish"),
        "Polished brass, dull where nobody rubs it.",
    )  # fmt: skip


def copper_green() -> Finished:
    green = steps(
        ("noise", {"size": 0.2, "octaves": 9, "gain": 0.64, "seed": 421, "space": "object", "spread": "full"}),
        (
            "add",
            {
                "by": steps(
                    ("stripes", {"spacing": 0.06, "axis": "x", "space": "object", "profile": "wave"}),
                    ("multiply", {"by": 0.12}),
                )
            },
        ),
        ("remap", {"from_start": 0.35, "from_end": 0.56, "ease": "smooth"}),
    )
    return Finished(
        look(
            "copper green",
            layer("copper", base_color=value([0.55, 0.25, 0.14]), base_metalness=value(1.0), specular_roughness=value(0.38)),
            layer("brown", steps(("noise", {"size": 0.15, "octaves": 6, "seed": 422, "space": "object", "spread": "full"}), ("remap", {"from_start": 0.2, "from_end": 0.7})), base_color=value([0.16, 0.07, 0.04])),
            layer("green", green, base_color=made(("noise", {"size": 0.04, "octaves": 6, "gain": 0.65, "seed": 423, "space": "object", "spread": "full"}), ("ramp", {"stops": stops((0.0, [0.07, 0.22, 0.18]), (0.6, [0.2, 0.45, 0.37]), (1.0, [0.42, 0.62, 0.53]))})), base_metalness=value(0.0), base_diffuse_roughness=value(1.0), specular_weight=value(0.3), specular_roughness=value(0.75), bump=made(("noise", {"size": 0.012, "octaves": 5, "gain": 0.7, "seed": 424, "space": "object"}), ("multiply", {"by": 0.0015}))),
        ),
        ("metal", "patina", "weathered"),
        "Copper under brown and green, as roofs and statues have it. The green's range says how far it has come.",
    )  # fmt: skip


def gold_leaf() -> Finished:
    seams = steps(
        (
            "bricks",
            {
                "width": 0.085,
                "height": 0.085,
                "joint": 0.0016,
                "edge": 0.003,
                "shift": 0.3,
                "space": "object",
                "seed": 431,
                "result": "face",
            },
        ),
        ("invert", {}),
        (
            "multiply",
            {
                "by": steps(
                    ("noise", {"size": 0.03, "octaves": 5, "seed": 432, "space": "object", "spread": "full"}),
                    ("threshold", {"level": 0.55, "width": 0.2}),
                )
            },
        ),
    )
    worn = steps(
        ("noise", {"size": 0.09, "octaves": 9, "gain": 0.68, "seed": 433, "space": "object", "spread": "full"}),
        ("threshold", {"level": 0.86, "width": 0.04}),
    )
    return Finished(
        look(
            "gold leaf",
            layer("leaf", base_color=value([1.0, 0.71, 0.29]), base_metalness=value(1.0), specular_roughness=made(("noise", {"size": 0.06, "octaves": 6, "seed": 434, "space": "object"}), ("remap", {"to_start": 0.16, "to_end": 0.42})), bump=made(("noise", {"size": 0.035, "octaves": 6, "gain": 0.6, "seed": 435, "space": "object"}), ("multiply", {"by": 0.0022}))),
            layer("red ground", worn, base_color=value([0.22, 0.035, 0.02]), base_metalness=value(0.0), specular_roughness=value(0.5), specular_weight=value(0.5)),
            layer("overlaps", seams, base_color=value([0.72, 0.46, 0.15])),
        ),
        ("metal", "gilding", "worn"),
        "Leaf laid in squares over red clay ground, which shows where it is worn.",
    )  # fmt: skip
