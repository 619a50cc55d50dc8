"""Shot GH120, *brass pipe*: brushed brass, dulled by fingers, tarnished in colours where it was hot, green in crevices, rubbed bright on
edges, dusty on top."""

from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import flagstones
from texallon.demo.signals import shared_signals


def gh120(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH120",
        "brass pipe",
        camera={"position": [0.55, 0.62, 0.95], "target": [0.34, 0.27, 0.0], "focal_length": 45, "exposure": 1.7},
        environment=demo.sky(1.6, 140),
        lights=[
            lantern((-0.6, 1.1, 0.9), (0.3, 0.3, 0.0), 9, 0.25),
            {
                "name": "window", "position": [1.4, 1.3, -0.6], "target": [0.4, 0.3, 0], "width": 0.9, "height": 0.5,
                "colour": [0.5, 0.7, 1.0], "power": 7.0, "visible": False,
            },
        ],
        locators=[{"name": "solder", "position": [0.16, 0.38, 0.0]}],
        objects=[demo.item("pipe", "brass", geometry="brass-pipe"), demo.item("floor", "flagstones", geometry="flagstones")],
        signals=shared_signals(),
        looks=[brass(), flagstones()],
    )  # fmt: skip


def _verdigris() -> dict[str, Json]:
    """What copper's green puts into the channels: a crust, no metal."""
    return {
        "base_color": made(
            ("noise", {"size": 0.02, "octaves": 4, "seed": 125}),
            ("ramp", {"stops": stops((0.3, [0.10, 0.26, 0.2]), (0.7, [0.26, 0.45, 0.36]))}),
        ),
        "base_metalness": value(0.0),
        "specular_roughness": value(0.8),
        "base_diffuse_roughness": value(0.7),
    }


def brass() -> Json:
    """From the bare metal up."""
    return look(
        "brass",
        layer(
            "bare metal",
            base_color=value([0.887, 0.67, 0.31]),  # copper and zinc, about 70:30 (common practice, no published source)
            specular_color=value([1.0, 0.96, 0.8]),
            base_metalness=value(1.0),
            specular_roughness=value(0.26),
            specular_roughness_anisotropy=value(0.75),
            bump=made(
                ("noise", {"size": 0.02, "octaves": 4, "scale": [60, 1, 1], "space": "uv", "seed": 121}),
                ("multiply", {"by": 0.0004}),
            ),
        ),
        layer(
            "heat colours",
            steps(
                ("gradient", {"shape": "spherical", "origin": {"locator": "solder"}, "length": 0.3}),
                ("remap", {"from_start": 1.0, "from_end": 0.35, "ease": "smooth"}),
            ),
            thin_film_weight=value(1.0),
            thin_film_ior=value(2.2),
            thin_film_thickness=made(
                ("gradient", {"shape": "spherical", "origin": {"locator": "solder"}, "length": 0.3}),
                ("add", {"by": {"steps": [{"op": "noise", "params": {"size": 0.05, "octaves": 4, "low": -0.12, "high": 0.12, "seed": 122}}]}}),
                ("remap", {"from_start": 1.0, "from_end": 0.1, "to_start": 0.02, "to_end": 0.15}),
            ),
        ),
        layer(
            "tarnish",
            steps(
                ("noise", {"size": 0.16, "octaves": 7, "gain": 0.62, "seed": 123}),
                ("remap", {"from_start": 0.5, "from_end": 0.68, "ease": "smooth"}),
                ("multiply", {"by": 0.8}),
            ),
            base_color=value([0.36, 0.23, 0.1]),
            specular_roughness=value(0.45),
            specular_roughness_anisotropy=value(0.2),
        ),
        layer(
            "green",
            steps(
                ("height", {"origin": "world"}),
                ("add", {"by": {"steps": [{"op": "noise", "params": {"size": 0.05, "octaves": 6, "gain": 0.62, "low": -0.1, "high": 0.1, "seed": 124}}]}}),
                ("remap", {"from_start": 0.13, "from_end": 0.03, "ease": "smooth"}),
            ),
            **_verdigris(),
        ),
        layer(
            "green in crevices",
            steps(
                ("occlusion", {"distance": 0.03}),
                ("remap", {"from_start": 0.16, "from_end": 0.4, "ease": "smooth"}),
                ("multiply", {"by": {"steps": [
                    {"op": "noise", "params": {"size": 0.03, "octaves": 5, "gain": 0.6, "seed": 127}},
                    {"op": "remap", "params": {"from_start": 0.3, "from_end": 0.5}},
                ]}}),
            ),
            **_verdigris(),
        ),
        layer(
            "rubbed bright",
            steps(
                ("curvature", {"side": "convex", "radius": 0.004}),
                ("remap", {"from_start": 0.1, "from_end": 0.3, "ease": "smooth"}),
                ("multiply", {"by": {"steps": [
                    {"op": "noise", "params": {"size": 0.04, "octaves": 4, "seed": 128}},
                    {"op": "remap", "params": {"from_start": 0.25, "from_end": 0.5}},
                ]}}),
            ),
            base_color=value([0.93, 0.76, 0.42]),
            base_metalness=value(1.0),
            specular_roughness=value(0.12),
            specular_roughness_anisotropy=value(0.3),
        ),
        layer(
            "dust",
            steps(("slope", {}), ("multiply", {"by": {"steps": [
                {"op": "noise", "params": {"size": 0.07, "octaves": 5, "seed": 126}},
                {"op": "remap", "params": {"from_start": 0.35, "from_end": 0.6, "ease": "smooth"}},
            ]}})),
            fuzz_weight=value(0.75),
            fuzz_color=value([0.78, 0.74, 0.68]),
            fuzz_roughness=value(0.7),
        ),
    )  # fmt: skip
