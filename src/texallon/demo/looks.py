"""Looks that several shots of the demo wear."""

from texallon.demo.document import Json, layer, look, made, steps, stops, value


def flagstones() -> Json:
    """Worn slabs, each a little different, damp in patches."""
    damp = steps(
        ("noise", {"size": 1.1, "octaves": 6, "gain": 0.5, "seed": 9}),
        ("remap", {"from_start": 0.5, "from_end": 0.58, "ease": "smooth"}),
    )
    return look(
        "flagstones",
        slab(),
        each_its_own(),
        layer(
            "damp",
            damp,
            wetness=value(0.7),
        ),
    )


def slab() -> Json:
    """The layer of dry stone."""
    return layer(
        "slab",
        base_color=made(
            ("noise", {"size": 0.45, "octaves": 8, "gain": 0.6, "seed": 5}),
            ("ramp", {"stops": stops((0.25, [0.115, 0.118, 0.125]), (0.75, [0.30, 0.295, 0.285]))}),
        ),
        base_diffuse_roughness=value(0.5),
        specular_roughness=value(0.55),
        specular_weight=value(0.5),
        bump=made(("noise", {"size": 0.05, "octaves": 5, "gain": 0.6, "seed": 6}), ("multiply", {"by": 0.003})),
    )


def each_its_own() -> Json:
    """The layer that makes each slab lighter or darker."""
    return layer(
        "each its own",
        base_color=made(
            ("attribute", {"attribute": "stone"}), ("remap", {"to_start": 0.75, "to_end": 1.2}), blend="multiply"
        ),
    )


def still_water() -> Json:
    """Clear water."""
    return look(
        "still water",
        layer(
            "water",
            transmission_weight=value(1.0),
            specular_ior=value(1.333),
            specular_roughness=value(0.0),
            transmission_color=value([0.42, 0.66, 0.6]),
            transmission_depth=value(2.5),
        ),
    )


def plain_stone(name: str = "dark stone") -> Json:
    """A quiet ground for other things to stand on."""
    return look(
        name,
        layer(
            "stone",
            base_color=made(
                ("noise", {"size": 0.5, "octaves": 7, "gain": 0.6, "seed": 17}),
                ("ramp", {"stops": stops((0.25, [0.05, 0.055, 0.065]), (0.75, [0.14, 0.14, 0.145]))}),
            ),
            base_diffuse_roughness=value(0.5),
            specular_roughness=made(
                ("noise", {"size": 0.3, "octaves": 4, "seed": 18}),
                ("remap", {"from_start": 0.3, "from_end": 0.7, "to_start": 0.35, "to_end": 0.7}),
            ),
            specular_weight=value(0.6),
        ),
    )
