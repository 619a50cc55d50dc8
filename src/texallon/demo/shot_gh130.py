"""Shot GH130, *petal*: the same flower twice, as petals that light shines through, and flat with an outline."""

from texallon.demo.document import Demo, Json, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.shot_gh030 import flower_stem
from texallon.demo.signals import shared_signals

TONES = (
    "ramp",
    {
        "stops": stops((0.0, [0.95, 0.62, 0.2]), (0.35, [0.86, 0.2, 0.28]), (1.0, [0.9, 0.5, 0.62])),
        "colours": "perceptual",
    },
)


def gh130(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH130",
        "petal",
        camera={"position": [0.0, 0.98, 0.72], "target": [0.0, 0.47, 0.0], "focal_length": 44, "exposure": 1.0},
        environment={"sky": {"sun_height": -5.0, "sun_direction": 160.0, "haze": 3.5, "stars": 6.0}, "intensity": 14.0},
        lights=[
            {
                "name": "low lamp", "shape": "disc", "position": [-0.5, 0.85, -0.9], "target": [-0.2, 0.45, 0], "width": 0.25,
                "colour": [1.0, 0.8, 0.55], "power": 9.0, "visible": False,
            }
        ],
        backdrop={"colour": [0.035, 0.045, 0.07]},
        objects=[
            demo.item("petals", "petal", position=[-0.21, 0.42, 0]),
            demo.item("stem", "flower stem", position=[-0.21, 0.42, 0]),
            demo.item("flat petals", "flat petal", geometry="petals", position=[0.21, 0.42, 0], rotation=[0, 24, 0]),
            demo.item("flat stem", "flower stem", geometry="stem", position=[0.21, 0.42, 0]),
            demo.item("floor", "dark stone", geometry="flagstones"),
        ],
        signals=shared_signals(),
        looks=[petal(), flat_petal(), flower_stem(), plain_stone()],
    )  # fmt: skip


def petal() -> Json:
    """A sheet without an inside: half of its colour is given back, half is let through."""
    tone = made(("attribute", {"attribute": "along"}), TONES)
    return look(
        "petal",
        layer(
            "skin",
            base_color=tone,
            specular_roughness=value(0.5),
            specular_weight=value(0.6),
            subsurface_weight=value(0.9),
            subsurface_color=tone,
            geometry_thin_walled=value(1.0),
            fuzz_weight=value(0.3),
            fuzz_roughness=value(0.4),
            bump=made(
                ("noise", {"size": 0.03, "octaves": 3, "scale": [9, 1, 1], "space": "uv", "seed": 131}),
                ("multiply", {"by": 0.0016}),
            ),
        ),
    )


def flat_petal() -> Json:
    """Its colour as it is, whatever the light, and a dark line where it turns from the eye."""
    return look(
        "flat petal",
        layer(
            "flat",
            self_lit=value(1.0),
            base_color=made(("attribute", {"attribute": "along"}), TONES, ("levels", {"count": 5})),
        ),
        layer(
            "outline",
            steps(("view angle", {}), ("remap", {"from_start": 0.6, "from_end": 0.72, "ease": "smooth"})),
            base_color=value([0.03, 0.01, 0.03]),
        ),
    )
