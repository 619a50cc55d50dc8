"""Where a ray may start that leaves a surface: from 1 mm to 20 km in one shot, and far from the origin.

The bound is eight roundings of the largest numbers that a hit is made from (*Physically Based Rendering*, managing rounding error).
"""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, box, layer, look, shot, square, value
from texallon.core.render.graph import make_scene
from texallon.core.render.render_frame import render_frame
from texallon.core.render.scene.surface import surface_at

DULL = look("dull", layer("d", base_color=value([0.5] * 3), specular_weight=value(0.0)))


def lit(*things: dict[str, Any], at: tuple[float, float, float], away: float, looks: Any = (), **files: Any) -> float:
    """The mean of a small picture straight from above, `away` metres over a place, in even white light."""
    x, y, z = at
    made = shot(
        camera={"position": [x, y + away, z + 1e-6 * away], "target": [x, y, z], "focal_length": 400},
        environment={"colour": [1, 1, 1]},
        objects=list(things),
        looks=[DULL, *looks],
    )
    return float(render_frame(made, MadeFiles(**files), 12, 12, 32, 2).picture().mean())


GROUND = {"name": "ground", "geometry": {"file": "ground"}, "look": "dull"}


@pytest.mark.parametrize("size", [0.001, 0.1, 20.0, 2000.0])
@pytest.mark.parametrize("place", [0.0, 3.0, 20_000.0])
def test_a_floor_of_any_size_anywhere_gives_back_half(size: float, place: float) -> None:
    if size < 1e-6 * place * 100:
        pytest.skip("smaller than the numbers there can tell")
    floor = {"name": "f", "geometry": {"file": "f"}, "look": "dull", "position": [place, 0, place]}
    assert lit(floor, at=(place, 0, place), away=size, f=square(size)) == pytest.approx(0.5, rel=0.01)


@pytest.mark.parametrize("thick", [0.005, 0.02])
def test_a_large_ground_does_not_swallow_a_thin_pane(thick: float) -> None:
    # A pane of index 1 that leaves a tenth at each metre lies on a ground of 2 km: it is seen by its tint, thick as it is.
    depth = thick / 2
    tint = look("pane", layer("p", transmission_weight=value(1.0), specular_ior=value(1.0), specular_roughness=value(0.0),
                              transmission_depth=value(depth), transmission_color=value([0.5, 0.5, 0.5])))  # fmt: skip
    pane = {"name": "pane", "geometry": {"file": "pane"}, "look": "pane", "position": [0, thick / 2 + 0.001, 0]}
    bare = lit(GROUND, at=(0, 0, 0), away=0.05, ground=square(2000.0))
    seen = lit(GROUND, pane, at=(0, 0, 0), away=0.05, looks=[tint], ground=square(2000.0), pane=box(30, thick, 30))
    # The eye looks through two depths, 0.5²; the sky lights the ground through them at all angles, 2 ∫ μ 0.25^(1/μ) dμ.
    mu = (np.arange(20_000) + 0.5) / 20_000
    sky = float(np.mean(2 * mu * 0.25 ** (1 / mu)))
    assert seen / bare == pytest.approx(0.25 * sky, rel=0.06)


@pytest.mark.parametrize("scale", [0.001, 1.0, 1000.0])
@pytest.mark.parametrize("place", [0.0, 40.0])
def test_no_ray_hits_the_face_that_it_leaves(scale: float, place: float) -> None:
    """Rays from points of a scaled, turned, moved ball never meet it again, as it is convex."""
    made = shot(
        objects=[{"name": "b", "geometry": {"file": "b"}, "look": "dull", "scale": scale, "rotation": [20, 50, 70],
                  "position": [place * scale, 2 * scale, 0]}],
        looks=[DULL],
    )  # fmt: skip
    scene = make_scene(made, MadeFiles(b=ball(1.0, 24)))
    rng = np.random.default_rng(0)
    centre = np.array([place * scale, 2 * scale, 0])
    way = rng.normal(size=(3, 4000))
    way = (way / np.linalg.norm(way, axis=0)).astype(np.float32)
    origin = np.ascontiguousarray(centre[:, None] - 3 * scale * way, np.float32)
    hits = scene.rays.nearest(origin, np.ascontiguousarray(way), np.zeros(4000, np.float32))
    hits = hits.take(np.flatnonzero(hits.instance == 0))
    surface = surface_at(scene, hits)
    start = np.ascontiguousarray(surface.position + surface.offset * surface.flat, np.float32)
    out = rng.normal(size=start.shape)
    out /= np.linalg.norm(out, axis=0)
    out *= np.sign((out * surface.flat).sum(axis=0))
    again = scene.rays.nearest(start, np.ascontiguousarray(out, np.float32), np.zeros(start.shape[1], np.float32))
    assert (again.instance < 0).all()
    assert surface.offset.max() < 1e-4 * scale * (1 + place), "no farther than roundings"
