"""Shot GH230, *spore pods in mist*: the glowing spheres in glass of GH100, in mist that they light."""

from texallon.demo.document import Demo, Json, layer, made, value
from texallon.demo.shot_gh100 import gh100


def gh230(demo: Demo) -> Json:
    """The document."""
    document = gh100(demo)
    return {
        **document,
        "name": "GH230",
        "title": "spore pods in mist",
        "environment": {**document["environment"], "intensity": 0.35},
        "lights": [{**document["lights"][0], "power": 7.0}],
        "atmosphere": {"look": "low mist", "ceiling": 0.75, "floor": -0.05, "reach": 2.2},
        "looks": [*document["looks"], low_mist()],
    }


def low_mist() -> Json:
    """Lies on the stones."""
    return {
        "name": "low mist",
        "domain": "volume",
        "layers": [
            layer(
                "mist",
                density=made(
                    ("noise", {"size": 0.3, "octaves": 4, "seed": 231, "speed": 0.1, "spread": "full"}),
                    ("remap", {"from_start": 0.15, "from_end": 1.0}),
                    ("multiply", {"by": {"steps": [
                        {"op": "height", "params": {}},
                        {"op": "remap", "params": {"from_start": 0.6, "from_end": 0.02, "to_start": 0.06, "to_end": 1.0, "ease": "smooth"}},
                    ]}}),
                    ("multiply", {"by": 1.7}),
                ),
                scattering_color=value([0.9, 0.92, 0.95]),
                absorption_color=value([0.04, 0.03, 0.02]),
                scattering_anisotropy=value(0.45),
            )
        ],
    }  # fmt: skip
