"""Shot GH240, *frost creeps*: a cold draught touches the pond and goes on over it; frost spreads from where it has been, and melts behind the lantern."""

from typing import Any

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals

WAY = ((1, -0.72, 0.42), (14, -0.38, 0.06), (26, -0.02, 0.16), (38, 0.3, -0.2), (48, 0.62, -0.3))
"""Frame, x and z of the draught's finger."""


def gh240(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH240",
        "frost creeps",
        camera={"position": [0.35, 0.62, 1.5], "target": [0.0, -0.02, 0.0], "focal_length": 36, "exposure": 1.3},
        environment=demo.sky(1.3, 70),
        lights=[lantern((0.95, 0.5, -0.35), (0.2, 0.0, -0.1), 7, 0.2)],
        objects=[
            {
                "name": "pond", "look": "freezing pond", "geometry": {"shape": "plane", "width": 2.4, "depth": 1.8, "segments": 240},
                "remembers": [
                    {
                        "kind": "growth", "name": "frost", "signal": "draught", "above": 0.4, "speed": 0.2, "edge": 0.16,
                        "ragged": "frost grain", "unevenness": 0.9, "heals": "lantern warmth", "healing": 1.6,
                    }
                ],
            },
            {"name": "bank", "look": "dark stone", "geometry": {"shape": "box", "width": 3.4, "height": 0.16, "depth": 0.5}, "position": [0, -0.06, -1.12]},
            {"name": "post", "look": "dark stone", "geometry": {"shape": "cylinder", "radius": 0.07, "height": 0.5, "rounding": 0.012}, "position": [-0.3, -0.1, -0.35]},
        ],
        locators=[
            {"name": "cold finger", "id": "finger", "position": [WAY[0][1], 0.0, WAY[0][2]]},
            {"name": "lantern foot", "position": [0.62, 0.0, -0.42]},
        ],
        tracks=[
            {"at": f"/locators/finger/position/{axis}", "keys": [{"frame": each[0], "value": each[1 + axis // 2]} for each in WAY]}
            for axis in (0, 2)
        ],
        signals=shared_signals(),
        looks=[freezing_pond(), plain_stone()],
    )  # fmt: skip


def freezing_pond() -> Json:
    """Dark water; where frost has come a white crust of needles, with a glitter of crystals."""
    needles: list[tuple[str, Any]] = [
        ("noise", {"size": 0.02, "octaves": 5, "gain": 0.65, "spread": "full", "seed": 243, "distortion": 0.4}),
    ]
    return look(
        "freezing pond",
        layer(
            "water",
            base_color=value([0.012, 0.02, 0.026]),
            specular_roughness=value(0.06),
            specular_ior=value(1.333),
            bump=made(("noise", {"size": 0.3, "octaves": 3, "seed": 244, "speed": 0.15}), ("multiply", {"by": 0.002})),
        ),
        layer(
            "thin ice",
            steps(
                ("attribute", {"attribute": "frost front"}),
                ("remap", {"from_start": 0.05, "from_end": -0.02, "ease": "smooth"}),
            ),
            base_color=value([0.05, 0.08, 0.1]),
            specular_roughness=value(0.22),
        ),
        layer(
            "frost",
            steps(("signal", {"signal": "frosted"})),
            base_color=made(*needles, ("ramp", {"stops": stops((0.0, [0.3, 0.38, 0.46]), (0.6, [0.78, 0.84, 0.88]))})),
            specular_roughness=value(0.5),
            fuzz_weight=value(0.35),
            fuzz_color=value([0.9, 0.95, 1.0]),
            bump=made(*needles, ("multiply", {"by": 0.0035})),
        ),
        layer(
            "crystals",
            steps(
                ("cellular", {"size": 0.011, "seed": 245}),
                ("remap", {"from_start": 0.5, "from_end": 0.2}),
                ("multiply", {"by": {"signal": "frosted"}}),
            ),
            specular_roughness=value(0.1),
            coat_weight=value(1.0),
        ),
    )
