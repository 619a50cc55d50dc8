"""Charcoal with embers, and soot."""

from texallon.demo.document import layer, look, made, steps, stops, value
from texallon.shelf.finished import Finished

CRACKS = {"size": 0.075, "result": "edge", "distortion": 0.45, "distortion_size": 0.5, "seed": 701, "space": "object"}


def charcoal() -> Finished:
    heat = [
        ("noise", {"size": 0.3, "octaves": 4, "speed": 0.25, "seed": 702, "space": "object", "spread": "full"}),
        ("remap", {"from_start": 0.35, "from_end": 0.95, "ease": "smooth"}),
    ]
    # The cracks glow wider where it is hotter: the end of their range is the heat itself.
    wide = steps(*heat, ("multiply", {"by": 0.2}), ("add", {"by": 0.02}))
    embers = steps(
        ("cellular", CRACKS),
        ("remap", {"from_start": wide, "from_end": 0.0, "ease": "smooth"}),
        ("multiply", {"by": steps(*heat)}),
    )
    first = [(each["op"], each["params"]) for each in embers["steps"]]
    return Finished(
        look(
            "charcoal with embers",
            layer(
                "charcoal",
                base_color=made(("noise", {"size": 0.04, "octaves": 7, "gain": 0.65, "seed": 703, "space": "object", "spread": "full"}), ("ramp", {"stops": stops((0.0, [0.006, 0.006, 0.006]), (0.75, [0.022, 0.021, 0.02]), (1.0, [0.2, 0.19, 0.18]))})),
                base_diffuse_roughness=value(1.0),
                specular_roughness=value(0.55),
                specular_weight=value(0.7),
                bump=made(("cellular", CRACKS), ("remap", {"from_end": 0.12, "ease": "smooth"}), ("multiply", {"by": 0.012})),
            ),
            layer(
                "embers",
                embers,
                emission_color=made(*first, ("remap", {"to_start": 900, "to_end": 1700}), ("black body", {})),
                emission_luminance=made(*first, ("power", {"exponent": 2.0}), ("multiply", {"by": 8})),
            ),
        ),
        ("fire", "glow", "emissive"),
        "Charcoal whose cracks glow by their heat; the heat drifts in time, and the cracks open where it is hot.",
    )  # fmt: skip


def soot() -> Finished:
    return Finished(
        look(
            "soot",
            layer("soot", base_color=made(("noise", {"size": 0.12, "octaves": 7, "gain": 0.6, "seed": 711, "space": "object", "spread": "full"}), ("ramp", {"stops": stops((0.0, [0.006, 0.0055, 0.005]), (1.0, [0.03, 0.027, 0.024]))})), base_diffuse_roughness=value(1.0), specular_weight=value(0.1), specular_roughness=value(0.9), fuzz_weight=value(0.25), fuzz_color=value([0.12, 0.11, 0.1]), fuzz_roughness=value(0.7)),
        ),
        ("fire", "black", "dirt"),
        "A velvety black. Carry it as a layer with a mask of your own: above a flame, or in corners.",
    )  # fmt: skip
