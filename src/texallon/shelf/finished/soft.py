"""Wax, porcelain, pearl and slime: what light goes into and comes out of again."""

from texallon.demo.document import layer, look, made, steps, stops, value
from texallon.shelf.finished import Finished


def wax() -> Finished:
    return Finished(
        look(
            "wax",
            layer(
                "wax",
                subsurface_weight=value(1.0),
                subsurface_color=made(("noise", {"size": 0.3, "octaves": 3, "seed": 501, "space": "object"}), ("ramp", {"stops": stops((0.2, [0.6, 0.31, 0.07]), (0.8, [0.72, 0.44, 0.13]))})),
                subsurface_radius=value(0.014),
                subsurface_radius_scale=value([1.0, 0.55, 0.22]),
                specular_roughness=value(0.42),
                bump=made(("noise", {"size": 0.05, "scale": [1, 2.5, 1], "octaves": 3, "seed": 502, "space": "object"}), ("multiply", {"by": 0.0025})),
            ),
        ),
        ("candle", "translucent", "soft"),
        "Beeswax. Its radius is how far light goes, in metres: scale it with the object.",
    )  # fmt: skip


def porcelain() -> Finished:
    line = steps(
        ("stripes", {"spacing": 0.12, "axis": "y", "space": "object", "profile": "band", "share": 0.1}),
        ("remap", {"from_start": 0.4, "from_end": 0.6}),
    )
    return Finished(
        look(
            "porcelain",
            layer("body", subsurface_weight=value(0.6), subsurface_color=value([0.9, 0.89, 0.86]), subsurface_radius=value(0.006), subsurface_radius_scale=value([1.0, 0.85, 0.7]), base_color=value([0.88, 0.87, 0.84]), specular_roughness=value(0.3), coat_weight=value(1.0), coat_roughness=value(0.03), coat_ior=value(1.5)),
            layer("blue lines", line, base_color=value([0.02, 0.045, 0.22]), subsurface_weight=value(0.0)),
        ),
        ("ceramic", "glaze", "white"),
        "Glazed white porcelain with painted lines under the glaze.",
    )  # fmt: skip


def pearl() -> Finished:
    return Finished(
        look(
            "pearl",
            layer(
                "nacre",
                base_color=value([0.78, 0.73, 0.7]),
                base_metalness=value(0.8),
                subsurface_weight=value(0.4),
                subsurface_color=value([0.82, 0.76, 0.72]),
                subsurface_radius=value(0.01),
                specular_roughness=value(0.2),
                specular_ior=value(1.68),
                thin_film_weight=value(1.0),
                thin_film_thickness=made(("noise", {"size": 0.4, "octaves": 3, "seed": 511, "space": "object", "low": 0.34, "high": 0.62})),
                thin_film_ior=value(1.8),
            ),
        ),
        ("shell", "iridescent", "thin film"),
        "Nacre: a thin film whose thickness drifts, over a milky body.",
    )  # fmt: skip


def slime() -> Finished:
    bubbles = steps(
        ("cellular", {"size": 0.06, "seed": 521, "space": "object"}),
        ("remap", {"from_start": 0.3, "from_end": 0.0, "ease": "smooth"}),
    )
    first = [(each["op"], each["params"]) for each in bubbles["steps"]]
    return Finished(
        look(
            "slime",
            layer(
                "slime",
                transmission_weight=value(1.0),
                transmission_color=value([0.32, 0.62, 0.05]),
                transmission_depth=value(0.1),
                transmission_scatter=value([0.14, 0.32, 0.03]),
                transmission_scatter_anisotropy=value(0.4),
                specular_ior=value(1.36),
                specular_roughness=value(0.04),
                bump=made(*first, ("multiply", {"by": 0.006}), ("add", {"by": steps(("noise", {"size": 0.16, "octaves": 3, "seed": 522, "space": "object"}), ("multiply", {"by": 0.02}))})),
            ),
        ),
        ("wet", "fluid", "translucent"),
        "Thick green slime with bubbles under its skin.",
    )  # fmt: skip
