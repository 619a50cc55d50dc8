"""Stone, brick, soil and sand."""

from texallon.demo.document import layer, look, made, steps, stops, value
from texallon.shelf.finished import Finished


def stone() -> Finished:
    paint = made(
        ("noise", {"size": 0.16, "octaves": 8, "gain": 0.62, "seed": 301, "space": "object", "spread": "full"}),
        ("ramp", {"stops": stops((0.0, [0.13, 0.125, 0.12]), (0.55, [0.27, 0.26, 0.245]), (1.0, [0.42, 0.405, 0.37]))}),
    )
    veins = steps(
        ("ridged", {"size": 0.34, "octaves": 6, "seed": 302, "space": "object", "distortion": 0.3, "spread": "full"}),
        ("threshold", {"level": 0.93, "width": 0.16}),
    )
    grain = made(
        ("hybrid", {"size": 0.09, "octaves": 8, "dimension": 0.55, "seed": 303, "space": "object", "spread": "full"}),
        ("multiply", {"by": 0.008}),
    )
    return Finished(
        look(
            "stone",
            layer("body", base_color=paint, base_diffuse_roughness=value(0.6), specular_roughness=value(0.62), specular_weight=value(0.6), bump=grain),
            layer("veins", veins, base_color=value([0.62, 0.6, 0.55]), specular_roughness=value(0.4)),
        ),
        ("stone", "mineral", "wall"),
        "A dense grey stone with pale veins. The veins' level makes them fewer or more; the grain's multiplier is its depth in metres.",
    )  # fmt: skip


BRICKS = {"width": 0.21, "height": 0.07, "joint": 0.011, "edge": 0.008, "space": "object", "seed": 311}


def brick() -> Finished:
    face = made(
        ("bricks", {**BRICKS, "result": "brick"}),
        (
            "ramp",
            {
                "stops": stops(
                    (0.0, [0.24, 0.07, 0.04]),
                    (0.4, [0.4, 0.12, 0.06]),
                    (0.75, [0.5, 0.19, 0.1]),
                    (1.0, [0.3, 0.13, 0.1]),
                )
            },
        ),
    )
    speckle = made(
        ("noise", {"size": 0.02, "octaves": 6, "gain": 0.65, "seed": 312, "space": "object", "low": 0.55, "high": 1.4}),
        blend="multiply",
    )
    relief = made(
        ("bricks", {**BRICKS, "result": "height"}),
        ("multiply", {"by": 0.008}),
        (
            "add",
            {
                "by": steps(
                    (
                        "noise",
                        {
                            "size": 0.025,
                            "octaves": 6,
                            "gain": 0.6,
                            "seed": 313,
                            "space": "object",
                            "low": -0.0025,
                            "high": 0.0025,
                        },
                    )
                )
            },
        ),
    )
    joints = steps(("bricks", {**BRICKS, "result": "face"}), ("invert", {}))
    return Finished(
        look(
            "brick",
            layer("bricks", base_color=face, base_diffuse_roughness=value(0.8), specular_roughness=value(0.75), specular_weight=value(0.35), bump=relief),
            layer("burnt unevenly", base_color=speckle),
            layer("mortar", joints, base_color=made(("noise", {"size": 0.03, "octaves": 5, "seed": 314, "space": "object"}), ("ramp", {"stops": stops((0.2, [0.34, 0.33, 0.3]), (0.8, [0.52, 0.5, 0.46]))})), base_diffuse_roughness=value(1.0), specular_weight=value(0.1)),
        ),
        ("stone", "wall", "fired clay"),
        "Fired bricks in running bond, each with a colour of its own. Laid in the object's x and y: turn it with the object.",
    )  # fmt: skip


def soil() -> Finished:
    crumbs = made(
        ("cellular", {"size": 0.03, "distortion": 0.8, "distortion_size": 0.7, "seed": 321, "space": "object"}),
        ("remap", {"from_start": 0.75, "from_end": 0.1, "ease": "smooth"}),
        ("multiply", {"by": 0.011}),
        (
            "add",
            {
                "by": steps(
                    (
                        "hybrid",
                        {
                            "size": 0.12,
                            "octaves": 9,
                            "dimension": 0.5,
                            "seed": 322,
                            "space": "object",
                            "spread": "full",
                        },
                    ),
                    ("multiply", {"by": 0.02}),
                )
            },
        ),
    )
    paint = made(
        ("noise", {"size": 0.07, "octaves": 7, "gain": 0.65, "seed": 323, "space": "object", "spread": "full"}),
        ("ramp", {"stops": stops((0.0, [0.028, 0.018, 0.011]), (0.6, [0.08, 0.05, 0.03]), (1.0, [0.16, 0.11, 0.07]))}),
    )
    damp = steps(
        ("noise", {"size": 0.3, "octaves": 4, "seed": 324, "space": "object", "spread": "full"}),
        ("remap", {"from_start": 0.5, "from_end": 0.8, "to_end": 0.7, "ease": "smooth"}),
    )
    return Finished(
        look(
            "soil",
            layer("crumbs", base_color=paint, base_diffuse_roughness=value(1.0), specular_weight=value(0.25), specular_roughness=value(0.7), bump=crumbs),
            layer("damp", damp, wetness=value(0.6)),
        ),
        ("ground", "earth", "wet"),
        "Crumbled garden soil, damp in patches. Take the damp layer away for a dry bed.",
    )  # fmt: skip


def sand() -> Finished:
    ripples = made(
        (
            "offset",
            {
                "by": {
                    "steps": [{"op": "noise", "params": {"size": 0.25, "octaves": 3, "seed": 331, "space": "object"}}]
                },
                "amount": 0.09,
                "direction": [0, 1, 0],
                "space": "object",
            },
        ),
        ("stripes", {"spacing": 0.07, "axis": "y", "space": "object", "profile": "wave"}),
        ("multiply", {"by": 0.005}),
        (
            "add",
            {
                "by": steps(
                    (
                        "noise",
                        {
                            "size": 0.006,
                            "octaves": 3,
                            "gain": 0.8,
                            "seed": 332,
                            "space": "object",
                            "low": 0.0,
                            "high": 0.0012,
                        },
                    )
                )
            },
        ),
    )
    grains = made(
        ("cellular", {"size": 0.004, "result": "cell", "seed": 333, "space": "object"}),
        (
            "ramp",
            {
                "stops": stops(
                    (0.0, [0.3, 0.2, 0.11]),
                    (0.5, [0.52, 0.39, 0.23]),
                    (0.93, [0.66, 0.53, 0.35]),
                    (1.0, [0.85, 0.8, 0.72]),
                )
            },
        ),
    )
    return Finished(
        look("sand", layer("grains", base_color=grains, base_diffuse_roughness=value(0.9), specular_weight=value(0.3), specular_roughness=value(0.55), bump=ripples)),
        ("ground", "desert", "beach"),
        "Dry sand, rippled across the object's height, every grain with a tone of its own that fades to the mean far away.",
    )  # fmt: skip
