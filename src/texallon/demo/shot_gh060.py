"""Shot GH060, *slate terraces*: a noise cut into levels that move the ground: true cliffs, worn at their edges and dark at their feet."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.signals import shared_signals

RIDGES: dict[str, Any] = {"size": 2.3, "octaves": 3.4, "seed": 66, "scale": [1.5, 1, 1], "space": "rest"}
STEPPED: list[tuple[str, dict[str, Any]]] = [
    ("ridged", {**RIDGES, "dimension": 1.0}),
    ("levels", {"gain": 0.62, "count": 7, "riser": 0.04}),
]


def gh060(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH060",
        "slate terraces",
        camera={"position": [0.2, 1.9, 3.1], "target": [0.0, 0.32, -0.2], "focal_length": 36, "exposure": 2.2},
        environment=demo.sky(1.0, 120),
        lights=[lantern((-2.2, 1.8, 0.9), (0.0, 0.3, -0.2), 40)],
        objects=[
            demo.item(
                "hill",
                "slate terraces",
                geometry="slate-hill",
                subdivision={"levels": 1, "crease": 40.0},
                displacement={"most": 0.5},
            )
        ],
        signals=shared_signals(),
        looks=[slate_terraces()],
    )


def slate_terraces() -> Json:
    """Each level its own grey, moved to its own height; edges worn bright, dark at the foot of cliffs, lichen on the flats."""
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
            displacement=made(*STEPPED, ("multiply", {"by": 0.34})),
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
            "worn edge",
            steps(
                ("curvature", {"side": "convex", "radius": 0.025}),
                ("remap", {"from_start": 0.12, "from_end": 0.4, "ease": "smooth"}),
                ("multiply", {"by": {"steps": [
                    {"op": "noise", "params": {"size": 0.12, "octaves": 5, "gain": 0.6, "seed": 67}},
                    {"op": "remap", "params": {"from_start": 0.3, "from_end": 0.55}},
                ]}}),
            ),
            base_color=value([0.36, 0.34, 0.30]),
        ),
        layer(
            "damp foot",
            steps(
                ("curvature", {"side": "concave", "radius": 0.035}),
                ("remap", {"from_start": 0.1, "from_end": 0.45, "ease": "smooth"}),
            ),
            base_color=value(0.4, "multiply"),
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
