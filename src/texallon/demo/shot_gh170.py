"""Shot GH170, *spores and moss*: clumps of spores within one skin of glass, on moss and pebbles that are scattered where they find room."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, stops, value
from texallon.demo.signals import shared_signals


def gh170(demo: Demo) -> Json:
    """The document."""
    cloud = {"geometry": demo.ref("geometry/spore-cloud.csv"), "position": [0.0, 0.06, 0.0]}
    ground = {
        "name": "ground", "geometry": {"shape": "plane", "width": 2.4, "depth": 2.4, "segments": 48}, "look": "wet earth",
        "subdivision": {"levels": 3}, "displacement": {"most": 0.2},
    }  # fmt: skip
    moss = {
        "name": "moss", "geometry": {"shape": "capsule", "radius": 0.006, "height": 0.045, "segments": 8}, "look": "moss",
        "array": {"along": "surface", "object": "ground", "apart": 0.012, "tilt": 34, "sizes": [0.55, 1.25], "most": 30000},
        "copies": [
            {"signal": "mossy", "does": "keep"},
            {"signal": "mossy", "does": "resize", "amount": 1.35},
            {"signal": "mossy", "does": "carry", "name": "mossy"},
        ],
    }  # fmt: skip
    stones = {
        "name": "pebbles", "geometry": {"shape": "sphere", "radius": 0.026, "segments": 24}, "look": "wet pebble",
        "array": {"along": "surface", "object": "ground", "apart": 0.055, "tilt": 20, "sizes": [0.35, 1.1], "seed": 7},
        "copies": [{"signal": "bare", "does": "keep"}], "stretch": [1.25, 0.55, 1.0], "position": [0.0, -0.006, 0.0],
    }  # fmt: skip
    return shot(
        "GH170",
        "spores and moss",
        camera={
            "position": [0.16, 0.36, 0.98], "target": [0.0, 0.15, 0.0], "focal_length": 42, "exposure": 1.7,
            "f_stop": 5.6, "focus_distance": 0.98,
        },
        environment=demo.sky(1.2, 40),
        lights=[lantern((-0.8, 0.8, 0.35), (0.0, 0.15, 0.0), 7, 0.2)],
        bloom={"intensity": 0.12, "threshold": 1.0, "size": 0.03},
        objects=[
            ground, moss, stones,
            {"name": "spores", "look": "glowing spore", "particles": {"times": 0.3}, **cloud},
            {"name": "skin", "look": "thin glass", "particles": {"skin": {"smooth": 0.03, "cell": 0.0055}}, **cloud},
        ],
        signals=shared_signals(),
        looks=[wet_earth(), moss_green(), wet_pebble(), glowing_spore(), thin_glass()],
    )  # fmt: skip


def wet_earth() -> Json:
    """Dark ground in soft swells."""
    swell: list[tuple[str, Any]] = [
        ("noise", {"size": 0.5, "octaves": 3, "seed": 172}),
        ("remap", {"to_start": -0.05, "to_end": 0.05}),
    ]
    return look(
        "wet earth",
        layer(
            "earth",
            base_color=made(
                ("noise", {"size": 0.05, "octaves": 6, "gain": 0.6, "seed": 173}),
                ("ramp", {"stops": stops((0.3, [0.020, 0.014, 0.010]), (0.7, [0.070, 0.052, 0.036]))}),
            ),
            specular_roughness=value(0.45),
            wetness=value(0.5),
            displacement=made(*swell),
            bump=made(("noise", {"size": 0.012, "octaves": 5, "gain": 0.6, "seed": 174}), ("multiply", {"by": 0.003})),
        ),
    )


def moss_green() -> Json:
    """Green that is paler where moss stands thick, each stalk a little different."""
    return look(
        "moss",
        layer(
            "moss",
            base_color=made(
                ("random", {"per": "instance"}),
                ("add", {"by": {"steps": [{"op": "attribute", "params": {"attribute": "mossy"}}]}}),
                ("ramp", {"stops": stops((0.3, [0.018, 0.045, 0.010]), (1.0, [0.060, 0.125, 0.020]), (1.9, [0.20, 0.24, 0.05]))}),
            ),
            specular_roughness=value(0.55),
            subsurface_weight=value(0.0),
            fuzz_weight=value(0.35),
            fuzz_color=value([0.35, 0.5, 0.12]),
        ),
    )  # fmt: skip


def wet_pebble() -> Json:
    """River stones, each of a grey of its own, wet."""
    return look(
        "wet pebble",
        layer(
            "stone",
            base_color=made(
                ("random", {"per": "instance"}),
                ("ramp", {"stops": stops((0.0, [0.07, 0.07, 0.075]), (0.6, [0.22, 0.20, 0.17]), (1.0, [0.36, 0.33, 0.29]))}),
            ),
            specular_roughness=value(0.3),
            wetness=value(0.9),
        ),
    )  # fmt: skip


def glowing_spore() -> Json:
    """A grain that glows the more the riper it is."""
    return look(
        "glowing spore",
        layer(
            "grain",
            base_color=value([0.3, 0.2, 0.08]),
            emission_color=made(
                ("attribute", {"attribute": "ripe"}),
                ("ramp", {"stops": stops((0.0, [0.25, 0.75, 0.55]), (0.6, [0.95, 0.75, 0.25]), (1.0, [1.0, 0.42, 0.1]))}),
            ),
            emission_luminance=made(("attribute", {"attribute": "ripe"}), ("power", {"exponent": 2.0}), ("multiply", {"by": 2.2})),
        ),
    )  # fmt: skip


def thin_glass() -> Json:
    """Clear glass, a little green where it is thick."""
    return look(
        "thin glass",
        layer(
            "glass",
            transmission_weight=value(1.0),
            specular_ior=value(1.36),
            specular_roughness=value(0.02),
            transmission_color=value([0.78, 0.93, 0.82]),
            transmission_depth=value(0.12),
        ),
    )
