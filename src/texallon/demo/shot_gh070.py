"""Shot GH070, *pond*: clear from above, opaque along the surface; one wetness on bed, pebbles and pillars."""

from typing import Any

from texallon.demo.document import Demo, Json, carrying, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.signals import shared_signals

LEVEL = {"locator": "pond level"}


def gh070(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH070",
        "pond",
        camera={"position": [0.5, 1.45, 3.3], "target": [0.05, 0.1, 0.1], "focal_length": 27, "exposure": 2.2},
        environment=demo.sky(1.1, 30),
        lights=[lantern((-1.4, 1.3, 1.6), (0.2, -0.1, 0.4), 42)],
        locators=[{"name": "pond level", "position": [0.0, 0.2, 0.0]}],
        objects=[
            demo.item("bed", "pond bed", geometry="pond-bed"),
            demo.item("pebbles", "pebbles"),
            demo.item("left pillar", "pillar stone", geometry="pillar", position=[-1.15, -0.3, -0.95]),
            demo.item("right pillar", "pillar stone", geometry="pillar", position=[1.35, -0.25, -1.25]),
            demo.item("water", "pond water", geometry="pond-water", follows="pond level"),
        ],
        signals=shared_signals(),
        looks=[pond_water(), _bed(), pebble_stone(), pillar_stone(), wet_edge()],
    )


def pond_water() -> Json:
    """The view angle decides: looking down one sees the bed, along the surface only dark water."""
    return look(
        "pond water",
        layer(
            "deep",
            base_color=value([0.006, 0.016, 0.02]),
            specular_ior=value(1.333),
            specular_roughness=value(0.02),
        ),
        layer(
            "clear from above",
            steps(
                ("view angle", {"exponent": 1.0}),
                ("remap", {"from_start": 0.72, "from_end": 0.46, "ease": "smoother"}),
            ),
            transmission_weight=value(1.0),
        ),
    )


def wet_edge(level: Json = LEVEL) -> Json:
    """What ground, pebbles and pillars carry as a layer: the film's shared wetness, measured from the water's level, and no reflections of their
    own under it."""
    return look(
        "wet edge",
        layer(
            "wet",
            steps(("signal", {"signal": "waterline wetness", "stand_ins": {"waterline": level}})),
            wetness=value(1.0),
            base_color=value(0.6, "multiply"),
        ),
        _below(level),
    )


def _below(level: Json) -> Json:
    return layer(
        "below water",
        steps(("height", {"origin": level}), ("threshold", {"level": 0.0, "keep": "below", "width": 0.01})),
        specular_weight=value(0.0),
        wetness=value(0.0),
    )


def _stone(name: str, source: tuple[str, Any], low: Any, high: Any) -> Json:
    return look(
        name,
        layer(
            "stone",
            base_color=made(source, ("ramp", {"stops": stops((0.25, low), (0.75, high)), "colours": "perceptual"})),
            base_diffuse_roughness=value(0.6),
            specular_roughness=value(0.62),
            specular_weight=value(0.5),
        ),
        carrying("wet", "wet edge"),
    )


def _bed() -> Json:
    grit = ("noise", {"size": 0.35, "octaves": 8, "gain": 0.66, "seed": 71})
    return _stone("pond bed", grit, [0.10, 0.085, 0.06], [0.27, 0.235, 0.17])


def pebble_stone() -> Json:
    """Each pebble of its own shade."""
    own = ("attribute", {"attribute": "pebble"})
    return _stone("pebbles", own, [0.12, 0.125, 0.14], [0.46, 0.42, 0.36])


def pillar_stone() -> Json:
    """Quiet, finely grained stone."""
    grain = ("noise", {"size": 0.4, "octaves": 7, "gain": 0.6, "seed": 72, "space": "object"})
    return _stone("pillar stone", grain, [0.24, 0.23, 0.21], [0.46, 0.44, 0.40])
