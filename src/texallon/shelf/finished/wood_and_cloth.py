"""Bark, painted wood, leather, cloth and paper."""

from texallon.demo.document import layer, look, made, steps, stops, value
from texallon.shelf.finished import Finished


def bark() -> Finished:
    # The furrows are wider where a slow field says so: the size itself varies.
    furrows = steps(
        (
            "ridged",
            {
                "size": {
                    "steps": [
                        {
                            "op": "noise",
                            "params": {
                                "size": 0.5,
                                "octaves": 1,
                                "low": 0.07,
                                "high": 0.16,
                                "seed": 340,
                                "space": "object",
                            },
                        }
                    ]
                },
                "scale": [1, 3.2, 1],
                "octaves": 7,
                "dimension": 0.7,
                "seed": 341,
                "space": "object",
                "distortion": 0.35,
                "spread": "full",
            },
        ),
    )
    paint = made(
        *[(each["op"], each["params"]) for each in furrows["steps"]],
        (
            "ramp",
            {"stops": stops((0.0, [0.16, 0.11, 0.075]), (0.55, [0.075, 0.05, 0.036]), (0.95, [0.02, 0.014, 0.011]))},
        ),
    )
    relief = made(
        *[(each["op"], each["params"]) for each in furrows["steps"]], ("invert", {}), ("multiply", {"by": 0.022})
    )
    moss = steps(
        ("slope", {"direction": [0.4, 1, -0.1], "full": 25, "none": 75}),
        (
            "multiply",
            {
                "by": steps(
                    (
                        "noise",
                        {"size": 0.12, "octaves": 6, "gain": 0.6, "seed": 342, "space": "object", "spread": "full"},
                    )
                )
            },
        ),
        ("threshold", {"level": 0.42, "width": 0.12}),
    )
    return Finished(
        look(
            "bark",
            layer("furrows", base_color=paint, base_diffuse_roughness=value(1.0), specular_weight=value(0.2), specular_roughness=value(0.7), bump=relief),
            layer("moss", moss, base_color=made(("noise", {"size": 0.02, "octaves": 4, "seed": 343, "space": "object"}), ("ramp", {"stops": stops((0.2, [0.03, 0.05, 0.012]), (0.8, [0.1, 0.14, 0.035]))})), fuzz_weight=value(0.5), fuzz_color=value([0.3, 0.4, 0.12]), specular_weight=value(0.05)),
        ),
        ("wood", "tree", "moss"),
        "Furrowed bark along the object's y axis, mossy where it faces up. The furrows' size varies by a slow noise.",
    )  # fmt: skip


def painted_wood() -> Finished:
    wood = made(
        (
            "noise",
            {
                "size": 0.035,
                "scale": [1, 9, 1],
                "octaves": 6,
                "gain": 0.6,
                "seed": 351,
                "space": "object",
                "spread": "full",
            },
        ),
        ("ramp", {"stops": stops((0.0, [0.17, 0.11, 0.065]), (0.6, [0.36, 0.26, 0.17]), (1.0, [0.46, 0.37, 0.27]))}),
    )
    grain = made(
        ("noise", {"size": 0.02, "scale": [1, 12, 1], "octaves": 5, "seed": 352, "space": "object"}),
        ("multiply", {"by": 0.0016}),
    )
    kept = steps(
        ("noise", {"size": 0.19, "octaves": 8, "gain": 0.66, "seed": 353, "space": "object", "spread": "full"}),
        (
            "add",
            {
                "by": steps(
                    (
                        "noise",
                        {
                            "size": 0.03,
                            "scale": [1, 8, 1],
                            "octaves": 4,
                            "seed": 354,
                            "space": "object",
                            "low": -0.16,
                            "high": 0.16,
                        },
                    )
                )
            },
        ),
        ("threshold", {"level": 0.36, "width": 0.025}),
    )
    return Finished(
        look(
            "painted wood",
            layer("wood", base_color=wood, base_diffuse_roughness=value(0.8), specular_weight=value(0.3), specular_roughness=value(0.6), bump=grain),
            layer("paint", kept, base_color=made(("noise", {"size": 0.3, "octaves": 4, "seed": 355, "space": "object"}), ("ramp", {"stops": stops((0.2, [0.02, 0.13, 0.17]), (0.8, [0.035, 0.2, 0.24]))})), specular_weight=value(0.9), specular_roughness=made(("noise", {"size": 0.1, "octaves": 4, "seed": 356, "space": "object"}), ("remap", {"to_start": 0.2, "to_end": 0.45})), bump=value(0.0012)),
        ),
        ("wood", "worn", "paint"),
        "Old paint that has come off at random, wood showing along the grain. The level of the paint's mask is how much is left.",
    )  # fmt: skip


def leather() -> Finished:
    cells = steps(
        (
            "cellular",
            {
                "size": {
                    "steps": [
                        {
                            "op": "noise",
                            "params": {
                                "size": 0.3,
                                "octaves": 2,
                                "low": 0.011,
                                "high": 0.03,
                                "seed": 360,
                                "space": "object",
                            },
                        }
                    ]
                },
                "result": "edge",
                "distortion": 0.4,
                "seed": 361,
                "space": "object",
            },
        )
    )
    tone = made(
        ("noise", {"size": 0.25, "octaves": 5, "seed": 362, "space": "object", "spread": "full"}),
        ("ramp", {"stops": stops((0.0, [0.1, 0.032, 0.014]), (1.0, [0.24, 0.085, 0.034]))}),
    )
    first = [(each["op"], each["params"]) for each in cells["steps"]]
    return Finished(
        look(
            "leather",
            layer(
                "hide",
                base_color=tone,
                specular_roughness=made(*first, ("remap", {"from_end": 0.4, "to_start": 0.6, "to_end": 0.36})),
                specular_weight=value(0.8),
                bump=made(*first, ("remap", {"from_end": 0.3, "ease": "smooth"}), ("multiply", {"by": 0.0024})),
            ),
            layer("dark in the folds", steps(*first, ("remap", {"from_start": 0.16, "from_end": 0.0, "ease": "smooth"})), base_color=value([0.45, 0.4, 0.38], blend="multiply")),
        ),
        ("hide", "skin", "upholstery"),
        "Grained hide, the grain's size varying over the skin; darker in the folds.",
    )  # fmt: skip


def cloth() -> Finished:
    def threads(axis: str) -> list[tuple[str, dict[str, object]]]:
        return [("stripes", {"spacing": 0.0062, "axis": axis, "space": "object", "profile": "wave"})]

    weave = steps(*threads("x"), ("multiply", {"by": steps(*threads("y"))}))
    first = [(each["op"], each["params"]) for each in weave["steps"]]
    return Finished(
        look(
            "cloth",
            layer(
                "weave",
                base_color=made(*first, ("ramp", {"stops": stops((0.0, [0.055, 0.02, 0.05]), (1.0, [0.2, 0.075, 0.17]))})),
                base_diffuse_roughness=value(1.0),
                specular_weight=value(0.15),
                specular_roughness=value(0.6),
                fuzz_weight=value(0.7),
                fuzz_color=value([0.42, 0.26, 0.38]),
                fuzz_roughness=value(0.4),
                bump=made(*first, ("multiply", {"by": 0.0014})),
            ),
            layer("worn", steps(("noise", {"size": 0.2, "octaves": 5, "seed": 371, "space": "object", "spread": "full"}), ("remap", {"from_start": 0.5, "to_end": 0.35})), base_color=value([0.26, 0.17, 0.23])),
        ),
        ("fabric", "textile", "wool"),
        "Woven wool with a soft edge of light. The spacing of both stripes is the thread's.",
    )  # fmt: skip


def paper() -> Finished:
    fibres = steps(
        (
            "noise",
            {
                "size": 0.012,
                "scale": [6, 1, 1],
                "octaves": 5,
                "gain": 0.7,
                "seed": 381,
                "space": "object",
                "distortion": 1.2,
            },
        )
    )
    first = [(each["op"], each["params"]) for each in fibres["steps"]]
    return Finished(
        look(
            "paper",
            layer("sheet", base_color=made(*first, ("ramp", {"stops": stops((0.2, [0.6, 0.5, 0.33]), (0.8, [0.76, 0.68, 0.5]))})), base_diffuse_roughness=value(1.0), specular_weight=value(0.15), specular_roughness=value(0.7), bump=made(*first, ("multiply", {"by": 0.0006}))),
            layer("foxing", steps(("spots", {"size": 0.05, "density": 0.35, "variation": 0.9, "irregular": 0.8, "soft": 0.9, "flat": False, "seed": 382, "space": "object"}), ("multiply", {"by": 0.55})), base_color=value([0.36, 0.21, 0.08])),
        ),
        ("sheet", "old", "document"),
        "Old laid paper with fibres and brown spots.",
    )  # fmt: skip
