"""Shot GH180, *moss at the brim*: one wet edge on stone and pebbles, and moss that grows above the water alone, smaller near it."""

from texallon.demo.document import Demo, Json, carrying, lantern, layer, look, made, shot, stops, value
from texallon.demo.looks import still_water
from texallon.demo.shot_gh070 import wet_edge
from texallon.demo.shot_gh170 import moss_green, wet_pebble
from texallon.demo.signals import shared_signals


def gh180(demo: Demo) -> Json:
    """The document."""
    moss = {
        "name": "moss", "geometry": {"shape": "capsule", "radius": 0.0032, "height": 0.019, "segments": 6}, "look": "moss",
        "array": {"along": "surface", "object": "basin", "apart": 0.0062, "tilt": 30, "sizes": [0.6, 1.3], "most": 150000},
        "copies": [
            {"signal": "above water", "does": "keep"},
            {"signal": "above water", "does": "resize", "amount": 1.5},
            {"signal": "mossy", "does": "carry", "name": "mossy"},
        ],
    }  # fmt: skip
    stones = {
        "name": "stones", "geometry": {"shape": "sphere", "radius": 0.05, "segments": 32}, "look": "scattered stone",
        "array": {"along": "surface", "object": "ground", "apart": 0.09, "tilt": 16, "sizes": [0.4, 1.1], "most": 3000, "seed": 18},
        "stretch": [1.3, 0.6, 1.0], "bodies": ["long stone", "shard"],
        "copies": [{"signal": "stone kinds", "does": "choose"}],
    }  # fmt: skip
    return shot(
        "GH180",
        "moss at the brim",
        camera={
            "position": [0.95, 1.45, 1.75], "target": [0.06, 0.52, 0.16], "focal_length": 40, "exposure": 2.5,
        },
        environment=demo.sky(1.2, 20),
        lights=[lantern((-1.5, 1.7, 1.1), (0.0, 0.8, 0.0), 24)],
        locators=[{"name": "waterline", "position": [0.0, 0.83, 0.0]}],
        objects=[
            demo.item("basin", "mossy stone"),
            demo.item("water", "still water", follows="waterline"),
            {"name": "ground", "geometry": {"shape": "plane", "width": 5, "depth": 5, "segments": 8}, "look": "damp ground"},
            stones,
            {"name": "long stone", "geometry": {"shape": "capsule", "radius": 0.03, "height": 0.14}, "look": "wet pebble", "rotation": [0, 0, 90], "visible": False},
            {"name": "shard", "geometry": {"shape": "box", "width": 0.1, "height": 0.03, "depth": 0.07, "rounding": 0.008}, "look": "scattered stone", "visible": False},
            moss,
        ],
        signals=shared_signals(),
        looks=[
            mossy_stone(), still_water(), damp_ground(), scattered_stone(), wet_pebble(), moss_green(),
            wet_edge({"locator": "waterline"}),
        ],
    )  # fmt: skip


def mossy_stone() -> Json:
    """Weathered stone with the film's wet edge, green between the stalks of moss."""
    return look(
        "mossy stone",
        layer(
            "stone",
            base_color=made(
                ("noise", {"size": 0.1, "octaves": 6, "gain": 0.6, "seed": 181, "space": "object"}),
                ("ramp", {"stops": stops((0.3, [0.15, 0.13, 0.11]), (0.7, [0.34, 0.30, 0.26]))}),
            ),
            base_diffuse_roughness=value(0.6),
            specular_roughness=value(0.6),
            bump=made(("noise", {"size": 0.02, "octaves": 5, "gain": 0.6, "seed": 182, "space": "object"}), ("multiply", {"by": 0.003})),
        ),
        layer(
            "under moss",
            {"steps": [{"op": "signal", "params": {"signal": "above water"}}]},
            base_color=value([0.035, 0.05, 0.016]),
            specular_roughness=value(0.8),
        ),
        carrying("wet", "wet edge"),
    )  # fmt: skip


def scattered_stone() -> Json:
    """Each of a grey of its own, with the film's wet edge."""
    return look(
        "scattered stone",
        layer(
            "stone",
            base_color=made(
                ("random", {"per": "instance"}),
                ("ramp", {"stops": stops((0.0, [0.09, 0.085, 0.08]), (0.6, [0.24, 0.22, 0.19]), (1.0, [0.42, 0.39, 0.35]))}),
            ),
            specular_roughness=value(0.55),
            bump=made(("noise", {"size": 0.01, "octaves": 4, "seed": 187}), ("multiply", {"by": 0.0012})),
        ),
        carrying("wet", "wet edge"),
    )  # fmt: skip


def damp_ground() -> Json:
    """Dark earth."""
    return look(
        "damp ground",
        layer(
            "earth",
            base_color=made(
                ("noise", {"size": 0.08, "octaves": 6, "gain": 0.6, "seed": 183}),
                ("ramp", {"stops": stops((0.3, [0.018, 0.014, 0.011]), (0.7, [0.06, 0.048, 0.036]))}),
            ),
            specular_roughness=value(0.55),
            wetness=value(0.35),
            bump=made(("noise", {"size": 0.015, "octaves": 5, "gain": 0.6, "seed": 184}), ("multiply", {"by": 0.004})),
        ),
    )  # fmt: skip
