"""Shot GH110, *label turn*: one seed packet burns into another along a ragged edge that a locator leads."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals


def gh110(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH110",
        "label turn",
        camera={"position": [0.2, 0.24, 0.86], "target": [0.0, 0.155, 0.0], "focal_length": 50, "exposure": 1.6},
        environment=demo.sky(1.0, 20),
        lights=[lantern((0.7, 0.9, 0.9), (0.0, 0.15, 0.0), 5)],
        bloom={"intensity": 0.25, "threshold": 1.0, "size": 0.04},
        locators=[{"name": "burn", "id": "burn", "position": [0.0, 0.17, 0.0]}],
        tracks=[
            {"at": "/locators/burn/position/1", "keys": [{"frame": 1, "value": 0.17}, {"frame": 48, "value": 0.3}]}
        ],
        objects=[
            demo.item("packet", "seed packet", geometry="seed-packet", rotation=[-8, 0, 0]),
            demo.item("floor", "dark stone", geometry="flagstones"),
        ],
        signals=shared_signals(),
        looks=[packet(demo), plain_stone()],
    )


def packet(demo: Demo) -> Json:
    """Paper that lets a little light through; char and embers where one label eats the other."""
    # Metres above the burning edge: below it the new label, above it the old one.
    edge: tuple[str, Any] = ("signal", {"signal": "burning edge"})

    def printed(name: str) -> Json:
        return made(("image", {"file": demo.ref(f"pictures/{name}.png"), "role": "colour"}))

    return look(
        "seed packet",
        layer(
            "old label",
            base_color=printed("day-flower"),
            specular_roughness=value(0.6),
            subsurface_weight=value(0.35),
            subsurface_color=printed("day-flower"),
            geometry_thin_walled=value(1.0),
        ),
        layer(
            "new label",
            steps(edge, ("threshold", {"level": 0.0, "keep": "below", "width": 0.002})),
            base_color=printed("night-flower"),
            subsurface_color=printed("night-flower"),
            specular_roughness=value(0.35),
        ),
        layer(
            "char",
            steps(
                edge,
                ("ramp", {"stops": stops((-0.012, 0.0), (-0.002, 1.0), (0.012, 0.95), (0.035, 0.0))}),
            ),
            base_color=value([0.02, 0.016, 0.013]),
            subsurface_weight=value(0.0),
            bump=made(("noise", {"size": 0.006, "octaves": 3, "seed": 111}), ("multiply", {"by": 0.0012})),
        ),
        layer(
            "embers",
            steps(
                edge,
                ("ramp", {"stops": stops((-0.004, 0.0), (0.001, 1.0), (0.008, 0.0))}),
                ("multiply", {"by": {"steps": [
                    {"op": "noise", "params": {"size": 0.014, "octaves": 3, "seed": 112, "speed": 2.0}},
                    {"op": "remap", "params": {"from_start": 0.38, "from_end": 0.62, "ease": "smooth"}},
                ]}}),
            ),
            emission_luminance=value(0.5),
            emission_color=made(
                ("noise", {"size": 0.02, "octaves": 3, "seed": 113, "speed": 2.0, "low": 1000.0, "high": 1900.0}),
                ("black body", {}),
                ("multiply", {"by": 0.4}),
            ),
        ),
    )  # fmt: skip
