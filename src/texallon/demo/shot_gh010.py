"""Shot GH010, *basin at thaw*: wet where the water splashes, matt under it, and one wet edge on ground, pebbles and pillar."""

from texallon.demo.document import Demo, Json, carrying, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import flagstones, still_water
from texallon.demo.shot_gh070 import pebble_stone, pillar_stone, wet_edge
from texallon.demo.signals import shared_signals


def gh010(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH010",
        "basin at thaw",
        camera={
            "position": [1.35, 1.95, 2.35],
            "target": [0.0, 0.55, 0.0],
            "focal_length": 38,
            "film_width": 36,
            "exposure": 2.1,
        },
        environment=demo.sky(),
        lights=[lantern((-1.9, 1.75, 1.3), (0.0, 0.75, 0.0))],
        locators=[
            {"name": "waterline", "position": [0.0, 0.83, 0.0]},
            {"name": "spill", "position": [1.15, -0.004, 0.75]},
        ],
        objects=[
            demo.item("basin", "basin stone"),
            demo.item("water", "still water", follows="waterline"),
            demo.item("floor", "flagstones", geometry="flagstones"),
            demo.item("pebbles", "pebbles", geometry="spilled-pebbles"),
            demo.item("pillar", "pillar stone", geometry="pillar", position=[-1.15, 0.0, -1.3]),
        ],
        signals=shared_signals(),
        looks=[
            basin_stone(),
            spilt_on(flagstones()),
            still_water(),
            pebble_stone(),
            pillar_stone(),
            wet_edge({"locator": "spill"}),
        ],
    )


def spilt_on(ground: Json) -> Json:
    """A ground that is wet about the basin's foot: it carries the wet edge, within a ragged circle."""
    near = steps(
        ("gradient", {"shape": "radial", "origin": "world", "length": 1.6}),
        ("add", {"by": {"steps": [{"op": "noise", "params": {"size": 0.5, "octaves": 4, "seed": 14}}]}}),
        ("remap", {"from_start": 1.3, "from_end": 0.95, "ease": "smooth"}),
    )
    return {**ground, "layers": [*ground["layers"], carrying("spilt", "wet edge", near)]}


def basin_stone() -> Json:
    """Weathered stone, a wet band above the waterline, and no sharp reflections below it."""
    waterline = {"locator": "waterline"}
    return look(
        "basin stone",
        layer(
            "stone",
            base_color=made(
                ("noise", {"size": 0.3, "octaves": 8, "gain": 0.62, "seed": 1, "space": "object"}),
                (
                    "ramp",
                    {
                        "stops": stops(
                            (0.25, [0.25, 0.235, 0.21]), (0.5, [0.42, 0.4, 0.365]), (0.75, [0.56, 0.535, 0.49])
                        ),
                        "interpolation": "smooth",
                    },
                ),
            ),
            base_diffuse_roughness=value(0.6),
            specular_roughness=made(
                ("noise", {"size": 0.05, "octaves": 3, "seed": 2, "space": "object"}),
                ("remap", {"from_start": 0.3, "from_end": 0.7, "to_start": 0.62, "to_end": 0.82}),
            ),
            specular_weight=value(0.5),
            bump=made(
                ("noise", {"size": 0.04, "octaves": 5, "gain": 0.6, "seed": 3, "space": "object"}),
                ("multiply", {"by": 0.004}),
            ),
        ),
        layer(
            "wet",
            steps(
                ("height", {"origin": waterline, "axis": "y"}),
                ("remap", {"from_start": 0.35, "from_end": 0.0, "ease": "smooth"}),
                ("multiply", {"by": {"signal": "splash noise"}}),
            ),
            wetness=value(1.0),
            base_color=value(0.55, "multiply"),  # what has soaked in, beside the film's own darkening
        ),
        layer(
            "below water",
            steps(
                ("height", {"origin": waterline, "axis": "y"}),
                ("threshold", {"level": 0.0, "keep": "below", "width": 0.004}),
                ("multiply", {"by": {"signal": "bowl"}}),
            ),
            specular_weight=value(0.0),
            wetness=value(0.0),
        ),
    )
