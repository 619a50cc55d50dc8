"""Shot GH050, *twisted wire*: a copper cable and a hemp rope, both described by what an artist means by them."""

from texallon.demo.cable import ROPE_RADIUS
from texallon.demo.document import Demo, Json, lantern, layer, look, made, shot, steps, stops, value
from texallon.demo.looks import plain_stone
from texallon.demo.signals import shared_signals

WIRE_RADIUS = 0.03
WIRE = {"space": "uv", "around": "metres", "count": 7, "turns": 9.0, "thickness": 0.0142, "radius": WIRE_RADIUS}
ROPE = {"space": "uv", "count": 3, "turns": -11.0, "thickness": 0.0255, "radius": ROPE_RADIUS, "roundness": 0.9}


def gh050(demo: Demo) -> Json:
    """The document."""
    return shot(
        "GH050",
        "twisted wire",
        camera={"position": [0.5, 0.75, 1.55], "target": [0.02, 0.27, 0.0], "focal_length": 42, "exposure": 2.0},
        environment=demo.sky(1.3, 40),
        lights=[lantern((-1.4, 1.3, 1.1), (0.0, 0.3, 0.0), 24)],
        objects=[
            {"name": "wire", "geometry": hanging_line(), "look": "twisted wire", "position": [0, 0.0, 0.05]},
            demo.item("rope", "hemp rope", position=[0.05, 0.0, -0.1]),
            demo.item("floor", "dark stone", geometry="flagstones"),
        ],
        signals=shared_signals(),
        looks=[twisted_wire(), hemp_rope(), plain_stone()],
    )


def hanging_line() -> Json:
    """A tube along a line that hangs in a loop; its lowest point is led by a tangent."""
    points = [
        [-0.75, 0.78, 0.0],
        [-0.5, 0.436, 0.189],
        [-0.25, 0.229, 0.209],
        [0.0, 0.16, 0.1],
        [0.25, 0.229, -0.052],
        [0.5, 0.436, -0.089],
        [0.75, 0.78, 0.0],
    ]
    tangents = [None, None, None, [0.095, 0.0, -0.075], None, None, None]
    return {"shape": "tube", "points": points, "tangents": tangents, "radius": WIRE_RADIUS, "segments": 64, "spans": 60}


def twisted_wire() -> Json:
    """Bright copper on the strands' tops, each strand of its own tone, dark and dull in the grooves, verdigris in patches."""
    return look(
        "twisted wire",
        layer(
            "copper",
            base_color=made(
                ("strands", {**WIRE, "result": "strand"}),
                ("ramp", {"stops": stops((0.0, [0.62, 0.22, 0.10]), (1.0, [0.86, 0.46, 0.26]))}),
            ),
            base_metalness=value(1.0),
            specular_roughness=value(0.24),
            bump=made(("strands", WIRE), ("multiply", {"by": 0.006})),
        ),
        layer(
            "groove",
            steps(
                ("strands", WIRE),
                ("remap", {"from_start": 0.85, "from_end": 0.35, "ease": "smooth"}),
            ),
            base_color=value([0.035, 0.016, 0.012]),
            base_metalness=value(0.3),
            specular_roughness=value(0.7),
        ),
        layer(
            "verdigris",
            steps(
                ("noise", {"size": 0.11, "octaves": 5, "seed": 51, "space": "object"}),
                ("remap", {"from_start": 0.54, "from_end": 0.64, "ease": "smooth"}),
                (
                    "multiply",
                    {"by": {"steps": [
                        {"op": "strands", "params": WIRE},
                        {"op": "remap", "params": {"from_start": 1.0, "from_end": 0.45, "ease": "smooth"}},
                    ]}},
                ),
            ),
            base_color=value([0.12, 0.34, 0.27]),
            base_metalness=value(0.0),
            specular_roughness=value(0.85),
        ),
    )  # fmt: skip


def hemp_rope() -> Json:
    """Pale fibres that run along the strands, darker between them."""
    return look(
        "hemp rope",
        layer(
            "hemp",
            base_color=made(
                ("strands", ROPE),
                (
                    "ramp",
                    {
                        "stops": stops(
                            (0.0, [0.05, 0.032, 0.018]), (0.55, [0.26, 0.18, 0.10]), (1.0, [0.50, 0.38, 0.23])
                        )
                    },
                ),
            ),
            base_diffuse_roughness=value(0.8),
            specular_roughness=value(0.7),
            specular_weight=value(0.3),
            bump=made(("strands", ROPE), ("multiply", {"by": 0.009})),
        ),
        layer(
            "fibres",
            base_color=made(
                ("strands", {**ROPE, "count": 60, "turns": -34.0, "thickness": 0.0005}),
                ("remap", {"to_start": 0.7, "to_end": 1.15}),
                blend="multiply",
            ),
        ),
    )
