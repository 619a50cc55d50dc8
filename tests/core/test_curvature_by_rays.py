"""Curvature felt out by rays: closed forms at what a camera sees, on copies, displaced bodies and edges, through the document."""

from typing import Any

import numpy as np
import pytest
import trimesh

from tests.builders import MadeFiles, box, layer, look, recipe, shot, step, value
from tests.core.test_curvature import sheet, torus
from texallon.core.geometry.mesh import Mesh, make_mesh, make_points
from texallon.core.render.graph import FrameGraph

ROUND = trimesh.creation.icosphere(5, 1.0)
BALL = make_mesh(ROUND.vertices, ROUND.faces, ROUND.vertex_normals)

GROWN = step("formula", expression="0.5 + 0.5 * position.x")


def seen(mesh: Mesh, radius: float, camera: dict[str, Any] | None = None, **item: Any) -> tuple[np.ndarray, np.ndarray]:
    """Curvature `(n,)` at what a camera sees from above, and where `(3, n)`, by the op itself."""
    signed = step("curvature", radius=radius, by="rays", side="signed", measure="1/m")
    made = shot(
        camera=camera or {"position": [0, 6, 0.001], "target": [0, 0, 0], "focal_length": 70},
        signals=[{"name": "s", "recipe": recipe(signed)}, {"name": "grown", "recipe": recipe(GROWN)}],
        looks=[look("l", layer("a", **item.pop("channels", {})))],
        objects=[{"name": "o", "geometry": {"file": "o"}, "look": "l", **item}],
    )
    graph = FrameGraph(made, MadeFiles(o=mesh))
    batch = graph.gbuffer(64, 64).batch(0)
    return batch.values(graph.plans.of_signal("s"))["value"][0], batch.points.surface.position


@pytest.mark.parametrize("scale", [0.001, 0.3, 1.0, 1000.0])
def test_a_ball_has_the_curvature_of_its_radius_in_the_world(scale: float) -> None:
    far = {"position": [0, 4 * scale, 0.001 * scale], "target": [0, 0, 0], "focal_length": 50}
    found, _ = seen(BALL, 0.1 * scale, far, scale=scale)
    assert len(found) > 500
    assert found * scale == pytest.approx(np.ones(len(found)), rel=0.02)


def test_a_hollow_bends_the_other_way() -> None:
    inside_out = make_mesh(ROUND.vertices, ROUND.faces[:, ::-1], -ROUND.vertex_normals)
    found, at = seen(inside_out, 0.2, {"position": [0, 0.9, 0], "target": [0, -1, 0.001], "focal_length": 20})
    assert (at[1] < 0.9).all() and found == pytest.approx(-np.ones(len(found)), rel=0.02)


def test_a_cylinder_bends_half_as_much_and_a_saddle_not_at_all() -> None:
    pipe, *_ = sheet(20_000, lambda u, v: (0.5 * np.cos(u), 2 - v, -0.5 * np.sin(u)), (np.pi, 4.0))
    found, at = seen(pipe, 0.1, rotation=[90, 0, 0])
    middle = (np.abs(at[0]) < 0.3) & (np.abs(at[2]) < 1)
    assert middle.sum() > 100 and np.abs(found[middle]) == pytest.approx(np.ones(middle.sum()), rel=0.03)
    saddle, *_ = sheet(20_000, lambda u, v: (u - 1, (u - 1) ** 2 - (v - 1) ** 2, -(v - 1)), (2.0, 2.0))
    found, at = seen(saddle, 0.1)
    middle = np.hypot(at[0], at[2]) < 0.15
    assert middle.sum() > 20 and np.abs(found[middle]).max() < 0.08, "its principal curvatures are ±2"


@pytest.mark.parametrize("radius", [0.02, 0.05, 0.1])
def test_on_a_torus_it_is_the_closed_form(radius: float) -> None:
    # H = (R + 2 r cos v) / (2 r (R + r cos v)), with R = 1 and r = 0.35; differential geometry.
    mesh, *_ = sheet(40_000, torus, (2 * np.pi, 2 * np.pi), uneven=0.3, closed=True)
    found, at = seen(mesh, radius)
    cos_v = (np.hypot(at[0], at[2]) - 1) / 0.35
    exact = (1 + 0.7 * cos_v) / (0.7 * (1 + 0.35 * cos_v))
    wrong = np.abs(found - exact) / exact.max()
    assert np.median(wrong) < 0.02 and np.quantile(wrong, 0.98) < 0.08


def test_copies_bend_by_their_own_size() -> None:
    grid = {"along": "grid", "counts": [3, 1, 1], "spacing": [5, 1, 1]}
    grown = {"signal": "grown", "does": "resize", "amount": 2.0}
    found, at = seen(BALL, 0.02, array=grid, scale=0.2, copies=[grown])
    size = 0.2 * (1 + 0.5 * (np.round(at[0]) + 1))
    assert np.unique(np.round(size, 3)).size == 3
    assert found == pytest.approx(1 / size, rel=0.03)


def test_a_displaced_ball_bends_as_it_has_become() -> None:
    found, at = seen(BALL, 0.1, displacement={"most": 2.0}, channels={"displacement": value(1.0)})
    assert np.linalg.norm(at, axis=0) == pytest.approx(np.full(len(found), 2.0), rel=1e-3)
    assert found == pytest.approx(np.full(len(found), 0.5), rel=0.02)


def test_an_edge_and_a_corner_between_walls_in_closed_form() -> None:
    # The part of the circle that lies beyond a right-angled edge at a distance d leans outwards by cos φ:
    # ∫ cos φ dφ / (2 π r) over it is √(1 − d²/r²) / (π r).
    radius = 0.3
    found, at = seen(box(2.0, 1.0, 2.0), radius)
    top = (at[1] > 0.499) & (np.abs(at[2]) < 0.5)
    away = 1 - np.abs(at[0][top])
    exact = np.sqrt(np.maximum(1 - (away / radius) ** 2, 0)) / (np.pi * radius)
    # Sixteen ways: each stands for an eighth of π.
    assert np.abs(found[top] - exact).max() < 0.13 / (np.pi * radius) * 2
    assert (found[top][away > radius] == 0).all()
    hollow = box(2.0, 1.0, 2.0)
    inside = make_mesh(hollow.vertices, hollow.faces[:, ::-1], -hollow.normals)
    within = {"position": [0, 0.4, 0.001], "target": [0, -1, 0], "focal_length": 12}
    found, at = seen(inside, radius, within)
    floor = (at[1] < -0.499) & (np.abs(at[2]) < 0.5) & (np.abs(at[0]) > 0.75)
    away = 1 - np.abs(at[0][floor])
    exact = np.sqrt(np.maximum(1 - (away / radius) ** 2, 0)) / (np.pi * radius)
    assert floor.sum() > 20 and np.abs(found[floor] + exact).max() < 0.13 / (np.pi * radius) * 2


def test_particles_bend_by_their_own_radius() -> None:
    points = make_points(np.array([[-1.0, 0, 0], [1.0, 0, 0]]), {"radius": np.array([0.25, 0.5])})
    found, at = seen(points, 0.1, particles={})
    left = at[0] < 0
    assert left.any() and not left.all()
    assert found[left] == pytest.approx(np.full(left.sum(), 4.0)) and found[~left] == pytest.approx(
        np.full((~left).sum(), 2.0)
    )
