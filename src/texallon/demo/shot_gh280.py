"""Shot GH280, *spore bud*: cells that divide and press each other apart, each strain with a colour of its own, under a drop of water."""

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals


def gh280(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH280",
        "spore bud",
        camera={"position": [0.1, 0.3, 0.75], "target": [0.0, 0.17, 0.0], "focal_length": 55, "exposure": 1.3},
        environment=demo.sky(1.4, 60),
        lights=[lantern((-0.7, 0.9, 0.5), (0.0, 0.15, 0.0), 6)],
        objects=[
            {
                "name": "bud", "look": "cells", "position": [0, 0.17, 0], "particles": {},
                "geometry": {"shape": "cells", "radius": 0.024, "divides": 0.38, "uneven": 0.3, "divisions": 7, "strays": 0.2, "seed": 28, "seconds": 1.1},
            },
            demo.item("floor", "dark stone", geometry="flagstones"),
        ],
        signals=shared_signals(),
        looks=[cells(), plain_stone()],
    )  # fmt: skip


def cells() -> Json:
    """Waxy skins whose colour their strain says; the youngest are the palest."""
    pale = {"steps": [
        {"op": "attribute", "params": {"attribute": "age"}},
        {"op": "remap", "params": {"from_start": 0.0, "from_end": 0.3, "to_start": 0.3, "to_end": 0.0, "ease": "smooth"}},
    ]}  # fmt: skip
    return look(
        "cells",
        layer(
            "skin",
            base_color=made(
                ("attribute", {"attribute": "strain"}),
                ("ramp", {"stops": stops((0.0, [0.10, 0.30, 0.22]), (0.35, [0.42, 0.50, 0.16]), (0.6, [0.72, 0.42, 0.16]), (1.0, [0.52, 0.10, 0.16]))}),
                ("mix", {"other": [0.92, 0.9, 0.78], "amount": pale}),
            ),
            specular_roughness=value(0.28),
            coat_weight=value(0.35),
        ),
    )  # fmt: skip
