"""Shot GH260, *boat on the pond*: a small boat of bark on open water, over which the wind grows until crests break."""

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.moving_signals import water
from texallon.demo.signals import shared_signals

GUST = [{"frame": 1, "value": 2.2}, {"frame": 48, "value": 3.8}]
WINDS = (
    "/signals/pondheight/recipe/steps/waves/params/wind",
    "/signals/pondfoam/recipe/steps/waves/params/wind",
    "/looks/windypond/layers/water/channels/displacement_vector/recipe/steps/waves/params/wind",
)
"""Where the wind stands: it grows in all places alike."""


def gh260(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH260",
        "boat on the pond",
        camera={"position": [0.5, 0.75, 2.3], "target": [0.05, 0.02, 0.0], "focal_length": 40, "exposure": 1.7},
        environment=demo.sky(2.2, 210),
        lights=[lantern((-1.6, 0.9, -1.6), (0.0, 0.0, 0.0), 40, 0.3)],
        objects=[
            {
                "name": "pond", "look": "windy pond", "geometry": {"shape": "plane", "width": 5.6, "depth": 5.6, "segments": 512},
                "displacement": {"most": 0.6},
            },
            {
                "name": "hull", "look": "bark", "geometry": {"shape": "box", "width": 0.5, "height": 0.1, "depth": 0.2, "rounding": 0.045},
                "position": [0.0, -0.045, 0.0], "rotation": [0, 25, 0],
                "floats": {"signal": "pond height", "draught": 0.05, "damping": 0.35},
            },
            {
                "name": "mast", "look": "bark", "geometry": {"shape": "cylinder", "radius": 0.008, "height": 0.42},
                "position": [0.03, 0.09, 0.0], "follows": "deck",
            },
            {
                "name": "leaf sail", "look": "leaf", "geometry": {"shape": "box", "width": 0.004, "height": 0.26, "depth": 0.24, "rounding": 0.002},
                "position": [0.045, 0.2, 0.0], "rotation": [0, 12, 0], "follows": "deck",
            },
        ],
        locators=[{"name": "deck", "follows": "hull"}],
        tracks=[{"at": at, "keys": GUST} for at in WINDS],
        signals=shared_signals(),
        looks=[windy_pond(), bark(), leaf(), plain_stone()],
    )  # fmt: skip


def windy_pond() -> Json:
    """Dark water as high as its waves, white where crests fold."""
    made_of = look(
        "windy pond",
        layer(
            "water",
            base_color=value([0.008, 0.02, 0.024]),
            specular_roughness=value(0.05),
            specular_ior=value(1.333),
            displacement_vector={"recipe": water(gives="displacement"), "blend": "replace"},
        ),
        layer(
            "foam",
            steps(
                ("signal", {"signal": "pond foam"}),
                ("multiply", {"by": {"steps": [{"op": "noise", "params": {"size": 0.03, "octaves": 4, "low": -0.6, "high": 2.0, "seed": 261}}]}}),
                ("remap", {"from_start": 0.02, "from_end": 0.4, "ease": "smooth"}),
            ),
            base_color=value([0.7, 0.75, 0.76]),
            specular_roughness=value(0.7),
        ),
    )  # fmt: skip
    made_of["id"] = "windypond"
    made_of["layers"][0]["id"] = "water"
    return made_of


def bark() -> Json:
    """Dry bark."""
    grain = ("noise", {"size": 0.06, "octaves": 6, "gain": 0.6, "scale": [6, 1, 1], "space": "object", "seed": 262})
    return look(
        "bark",
        layer(
            "bark",
            base_color=made(grain, ("ramp", {"stops": stops((0.3, [0.07, 0.04, 0.022]), (0.7, [0.3, 0.19, 0.1]))})),
            specular_roughness=value(0.6),
            bump=made(grain, ("multiply", {"by": 0.004})),
        ),
    )


def leaf() -> Json:
    """A leaf that light comes through."""
    return look(
        "leaf",
        layer(
            "leaf",
            base_color=value([0.42, 0.24, 0.03]),
            specular_roughness=value(0.5),
            subsurface_weight=value(0.3),
            subsurface_color=value([0.7, 0.4, 0.06]),
        ),
    )
