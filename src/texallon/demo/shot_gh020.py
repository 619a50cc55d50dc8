"""Shot GH020, *puddled flagstones*: darker and shinier only in the puddles, with ragged edges and a wet rim."""

from texallon.demo.document import Demo, Json, lantern, layer, look, shot, steps, value
from texallon.demo.looks import each_its_own, slab
from texallon.demo.signals import shared_signals


def gh020(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH020",
        "puddled flagstones",
        camera={"position": [0.9, 0.85, 2.9], "target": [-0.1, 0.0, 0.0], "focal_length": 32, "exposure": 2.4},
        environment=demo.sky(),
        lights=[lantern((-1.7, 1.1, -1.9), (0.0, 0.0, 0.0), 26)],
        objects=[demo.item("floor", "puddled flagstones", geometry="flagstones")],
        signals=shared_signals(),
        looks=[puddled_flagstones()],
    )


def puddled_flagstones() -> Json:
    """Dry slabs; a soaked rim that is darker only; and puddles that are darker and mirror."""
    return look(
        "puddled flagstones",
        slab(),
        each_its_own(),
        layer(
            "soaked rim",
            steps(
                ("signal", {"signal": "puddles"}),
                ("remap", {"from_start": 0.0, "from_end": 0.2, "ease": "smooth"}),
            ),
            wetness=value(0.55),
            base_color=value(0.5, "multiply"),
        ),
        layer(
            "puddle",
            steps(
                ("signal", {"signal": "puddles"}),
                ("threshold", {"level": 0.8, "width": 0.12}),
            ),
            wetness=value(1.0),
            base_color=value(0.72, "multiply"),
            bump=value(0.0),
        ),
    )
