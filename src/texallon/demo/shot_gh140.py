"""Shot GH140, *tile dance*: an array of tiles, lifted, turned, shrunk and tinted by rings that run out from falling drops; each tile follows on a spring, late and a little too far."""

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals


def gh140(demo: Demo) -> Json:
    """The document."""
    drops = {"name": "drops", "geometry": demo.ref("geometry/rain-drops.csv"), "look": "water drop", "particles": {}}
    tiles = {
        "name": "tiles",
        "geometry": {"shape": "box", "width": 0.072, "height": 0.03, "depth": 0.072, "rounding": 0.006},
        "look": "glazed tile",
        "array": {"along": "grid", "counts": [34, 1, 30], "spacing": [0.08, 1.0, 0.08]},
        "remembers": [
            {
                "kind": "springs",
                "name": "dance",
                "of": "copies",
                "signal": "rings",
                "frequency": 1.6,
                "damping": 0.16,
            }
        ],
        "copies": [
            {"signal": "dance", "does": "move", "by": [0, 0.11, 0]},
            {"signal": "dance", "does": "turn", "amount": 38.0},
            {"signal": "dance", "does": "resize", "amount": 0.62},
            {"signal": "dance", "does": "carry", "name": "ring"},
        ],
    }
    return shot(
        "GH140",
        "tile dance",
        camera={"position": [0.35, 1.15, 1.75], "target": [0.02, 0.0, 0.05], "focal_length": 36, "exposure": 2.5},
        environment=demo.sky(1.3, 70),
        lights=[lantern((-1.3, 1.0, 0.6), (0.0, 0.0, 0.1), 22)],
        objects=[tiles, drops, demo.item("floor", "dark stone", geometry="flagstones", position=[0, -0.16, 0])],
        signals=shared_signals(),
        looks=[glazed_tile(), water_drop(), plain_stone()],
    )  # fmt: skip


def glazed_tile() -> Json:
    """A glaze whose colour follows the ring that lifts the tile, each a little different."""
    return look(
        "glazed tile",
        layer(
            "glaze",
            base_color=made(
                ("attribute", {"attribute": "ring"}),
                ("remap", {"from_start": -0.55, "from_end": 0.75}),
                ("ramp", {"stops": stops((0.0, [0.010, 0.030, 0.12]), (0.40, [0.02, 0.16, 0.22]), (0.55, [0.10, 0.34, 0.30]), (0.75, [0.62, 0.55, 0.22]), (1.0, [0.95, 0.50, 0.16]))}),
                ("multiply", {"by": {"steps": [
                    {"op": "random", "params": {"per": "instance"}}, {"op": "remap", "params": {"to_start": 0.8, "to_end": 1.15}},
                ]}}),
            ),
            specular_roughness=value(0.22),
            coat_weight=value(0.8),
            coat_roughness=value(0.06),
        ),
    )  # fmt: skip


def water_drop() -> Json:
    """Clear water in the air."""
    return look(
        "water drop",
        layer("water", transmission_weight=value(1.0), specular_ior=value(1.333), specular_roughness=value(0.0)),
    )
