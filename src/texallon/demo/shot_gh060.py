"""Shot GH060, *slate terraces*: a noise cut into levels, as colour and as relief that one of them throws on the next."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.signals import shared_signals

RIDGES: dict[str, Any] = {"size": 2.3, "octaves": 3.4, "seed": 66, "scale": [1.5, 1, 1]}
STEPPED: list[tuple[str, dict[str, Any]]] = [
    ("ridged", {**RIDGES, "dimension": 1.0}),
    ("levels", {"gain": 0.62, "count": 7, "riser": 0.1}),
]


def gh060(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH060",
        "slate terraces",
        camera={"position": [0.2, 1.9, 3.1], "target": [0.0, 0.32, -0.2], "focal_length": 36, "exposure": 2.2},
        environment=demo.sky(1.0, 120),
        lights=[lantern((-2.2, 1.8, 0.9), (0.0, 0.3, -0.2), 40)],
        objects=[demo.item("hill", "slate terraces", geometry="slate-hill")],
        signals=shared_signals(),
        looks=[slate_terraces()],
    )


def slate_terraces() -> Json:
    """Each level its own grey; its edge lit on the lantern's side and dark on the other; lichen on the flats."""
    towards = ("move", {"by": [0.030, 0.0, -0.016]})
    moved = {"steps": [{"op": op, "params": params} for op, params in (towards, *STEPPED)]}
    relief = [*STEPPED, ("subtract", {"by": moved})]
    return look(
        "slate terraces",
        layer(
            "slate",
            base_color=made(
                *STEPPED,
                (
                    "ramp",
                    {
                        "stops": stops(
                            (0.0, [0.012, 0.014, 0.020]), (0.5, [0.050, 0.054, 0.068]), (0.9, [0.16, 0.155, 0.155]),
                            (1.3, [0.32, 0.30, 0.27]),
                        ),
                        "interpolation": "monotone",
                        "colours": "perceptual",
                    },
                ),
            ),
            base_diffuse_roughness=value(0.5),
            specular_roughness=made(
                ("noise", {"size": 0.2, "octaves": 5, "seed": 62}),
                ("remap", {"from_start": 0.3, "from_end": 0.7, "to_start": 0.32, "to_end": 0.62}),
            ),
            specular_weight=value(0.7),
            bump=made(*STEPPED, ("multiply", {"by": 0.11})),
        ),
        layer(
            "grain",
            base_color=made(
                ("noise", {"size": 0.09, "octaves": 5, "gain": 0.6, "seed": 63, "scale": [3.5, 1, 1]}),
                ("remap", {"from_start": 0.25, "from_end": 0.75, "to_start": 0.72, "to_end": 1.25}),
                blend="multiply",
            ),
        ),
        layer(
            "shaded edge",
            steps(*relief, ("remap", {"from_start": 0.0, "from_end": -0.12, "ease": "smooth"})),
            base_color=value(0.22, "multiply"),
            specular_weight=value(0.2),
        ),
        layer(
            "lit edge",
            steps(*relief, ("remap", {"from_start": 0.0, "from_end": 0.12, "ease": "smooth"})),
            base_color=value([0.30, 0.28, 0.25], "lighter"),
        ),
        layer(
            "lichen",
            steps(
                ("slope", {"full": 18, "none": 34}),
                ("multiply", {"by": {"steps": [
                    {"op": "spots", "params": {"size": 0.13, "density": 0.14, "irregular": 0.9, "soft": 0.4, "seed": 64}},
                ]}}),
                ("multiply", {"by": {"steps": [
                    {"op": "noise", "params": {"size": 0.03, "octaves": 4, "seed": 65}},
                    {"op": "remap", "params": {"from_start": 0.4, "from_end": 0.55}},
                ]}}),
            ),
            base_color=value([0.32, 0.33, 0.16]),
            specular_weight=value(0.15),
        ),
    )  # fmt: skip
