"""Shot GH150, *footprints in frost*: a floor of frost that gives way where feet stood, and melts about them."""

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.signals import shared_signals

PATH = [[-1.25, -0.061, 0.75], [-0.5, -0.061, 0.35], [0.25, -0.061, 0.25], [1.0, -0.061, -0.35], [1.6, -0.061, -1.2]]


def gh150(demo: Demo) -> Json:
    """The document. The feet themselves stand below the floor: what touches it is their upper side."""
    sole = {"shape": "box", "width": 0.1, "height": 0.05, "depth": 0.22, "rounding": 0.02, "segments": 2}
    walked = [
        {
            "name": f"{side} feet", "geometry": sole, "look": "sole", "position": [aside, 0.0, ahead],
            "array": {"along": "line", "object": f"{side} way", "count": 7},
        }
        for side, aside, ahead in (("left", -0.095, 0.0), ("right", 0.095, 0.2))
    ]  # fmt: skip
    ways = [
        {
            "name": f"{side} way", "geometry": {"shape": "tube", "points": PATH, "radius": 0.01}, "look": "sole", "visible": False,
        }
        for side in ("left", "right")
    ]  # fmt: skip
    floor = {
        "name": "floor", "geometry": {"shape": "plane", "width": 4.4, "depth": 3.6, "segments": 40}, "look": "frosted floor",
        "subdivision": {"levels": 4}, "displacement": {"most": 0.05},
    }  # fmt: skip
    return shot(
        "GH150",
        "footprints in frost",
        camera={"position": [-0.75, 0.8, 1.35], "target": [0.0, 0.0, 0.25], "focal_length": 34, "exposure": 1.9},
        environment=demo.sky(1.3, 200),
        lights=[lantern((1.9, 0.55, -0.5), (0.0, 0.0, 0.2), 24)],
        objects=[floor, *ways, *walked],
        signals=shared_signals(),
        looks=[frosted_floor(), sole_look()],
    )


def frosted_floor() -> Json:
    """Dark flags under needles of frost, which a foot has pressed down and thawed."""
    needles = [
        ("noise", {"size": 0.05, "octaves": 6, "gain": 0.62, "seed": 151}),
        ("remap", {"to_start": 0.002, "to_end": 0.016}),
    ]
    standing = {"signal": "trodden"}
    return look(
        "frosted floor",
        layer(
            "frost",
            base_color=made(
                ("noise", {"size": 0.03, "octaves": 5, "gain": 0.6, "seed": 152}),
                ("ramp", {"stops": stops((0.25, [0.50, 0.57, 0.66]), (0.75, [0.86, 0.90, 0.95]))}),
            ),
            specular_roughness=value(0.55),
            fuzz_weight=value(0.5),
            fuzz_color=value([0.8, 0.9, 1.0]),
            displacement=made(*needles),
        ),
        layer(
            "trodden",
            steps(("signal", standing), ("remap", {"from_start": 0.1, "from_end": 0.75, "ease": "smooth"})),
            base_color=made(
                ("noise", {"size": 0.12, "octaves": 6, "gain": 0.6, "seed": 153}),
                ("ramp", {"stops": stops((0.3, [0.030, 0.034, 0.042]), (0.7, [0.085, 0.09, 0.10]))}),
            ),
            specular_roughness=value(0.16),
            fuzz_weight=value(0.0),
            wetness=value(0.7),
            displacement=value(-0.006),
        ),
    )


def sole_look() -> Json:
    """What is never seen."""
    return look("sole", layer("rubber", base_color=value([0.02, 0.02, 0.02])))
