"""Occlusion read from geometry: closed forms of radiation's configuration factors, and what distance and spread do."""

from typing import Any

import numpy as np
import pytest
import trimesh

from tests.builders import MadeFiles, layer, look, recipe, shot, step
from texallon.core.geometry.bake_geometry import BakeGeometry
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.points.occlusion import Occlusion, fan
from texallon.core.render.graph import FrameGraph


def occlusion(mesh: Mesh, distance: float = 1e3, spread: float = 180, way: str = "outwards") -> np.ndarray:
    return Occlusion(f"{distance},{spread},{way}").bake(BakeGeometry(mesh))[:, 0]


def joined(*sheets: tuple[Any, Any, Any, int, int]) -> Mesh:
    """Grids over parallelograms: origin, two sides, and how many cells along each; the normal is their cross product."""
    vertices, faces, normals, start = [], [], [], 0
    for origin, along, across, n, m in sheets:
        s, t = np.meshgrid(np.linspace(0, 1, n + 1), np.linspace(0, 1, m + 1), indexing="ij")
        vertices.append(np.array(origin) + s.ravel()[:, None] * np.array(along) + t.ravel()[:, None] * np.array(across))
        i, j = (each.ravel() for each in np.meshgrid(np.arange(n), np.arange(m), indexing="ij"))
        a = start + i * (m + 1) + j
        faces += [np.stack([a, a + m + 1, a + m + 2], 1), np.stack([a, a + m + 2, a + 1], 1)]
        up = np.cross(along, across)
        normals.append(np.tile(up / np.linalg.norm(up), (len(vertices[-1]), 1)))
        start += len(vertices[-1])
    return make_mesh(np.concatenate(vertices), np.concatenate(faces), np.concatenate(normals))


def test_the_fan_is_spread_by_the_cosine() -> None:
    """The mean of z is 2/3, of z² 1/2 (integrals over the hemisphere, weighted by the cosine); within a cone it stays inside."""
    whole = fan(180)
    assert np.linalg.norm(whole, axis=0) == pytest.approx(1, abs=1e-6)
    assert whole.mean(axis=1) == pytest.approx([0, 0, 2 / 3], abs=4e-3)
    assert (whole[2] ** 2).mean() == pytest.approx(0.5, abs=4e-3)
    assert fan(60)[2].min() > np.cos(np.radians(30))


def test_in_the_open_nothing_is_hidden() -> None:
    assert (occlusion(joined(([-1, 0, 1], [2, 0, 0], [0, 0, -2], 6, 6))) == 0).all()
    ball = trimesh.creation.icosphere(4, 1.0)
    assert occlusion(make_mesh(ball.vertices, ball.faces)).max() < 0.02
    assert (occlusion(make_mesh(ball.vertices, ball.faces), way="inwards") == 1).all()


@pytest.mark.parametrize("height", [0.3, 1.0, 4.0])
def test_before_a_wall_it_is_the_walls_configuration_factor(height: float) -> None:
    """½ (1 − x / √(x² + h²)) on a floor, x before an infinitely long wall of height h (J. Howell, Catalog of Configuration Factors; from memory)."""
    far = 80.0
    floor = ([0, 0, far], [2, 0, 0], [0, 0, -2 * far], 8, 2)
    wall = ([0, 0, -far], [0, 0, 2 * far], [0, height, 0], 2, 1)
    made = joined(floor, wall)
    middle = (made.vertices[:, 2] == 0) & (made.normals[:, 1] > 0.5) & (made.vertices[:, 0] > 0)
    x = made.vertices[middle, 0]
    expected = 0.5 * (1 - x / np.sqrt(x * x + height * height))
    assert occlusion(made)[middle] == pytest.approx(expected, abs=0.03)


def test_in_a_cup_it_is_the_same_everywhere() -> None:
    """Within a sphere every point sees each part of it by its share of the area: half of it, in half a sphere (A. Sparrow)."""
    ball = trimesh.creation.icosphere(5, 1.0)
    cup = ball.faces[(ball.vertices[ball.faces][:, :, 1] <= 1e-9).all(axis=1)]
    made = make_mesh(ball.vertices, cup[:, ::-1], -ball.vertices)
    inner = ball.vertices[:, 1] < -0.15
    found = occlusion(made)[inner]
    assert found.mean() == pytest.approx(0.5, abs=0.02) and np.abs(found - 0.5).max() < 0.06


@pytest.mark.parametrize("depth", [0.25, 0.5, 2.0])
def test_at_the_bottom_of_a_slit_only_its_mouth_is_open(depth: float) -> None:
    """1 − (w/2) / √((w/2)² + d²) in the middle of a slit's floor (crossed strings: H. Hottel; from memory)."""
    far = 60.0
    made = joined(
        ([-0.5, 0, far], [1, 0, 0], [0, 0, -2 * far], 2, 2),
        ([-0.5, 0, -far], [0, 0, 2 * far], [0, depth, 0], 2, 1),
        ([0.5, 0, far], [0, 0, -2 * far], [0, depth, 0], 2, 1),
    )
    middle = (np.abs(made.vertices[:, 0]) < 1e-6) & (made.vertices[:, 2] == 0)
    assert occlusion(made)[middle] == pytest.approx([1 - 0.5 / np.hypot(0.5, depth)], abs=0.03)


def test_beyond_the_distance_nothing_hides_and_a_narrow_fan_sees_past_the_sides() -> None:
    slit = joined(
        ([-0.5, 0, 1], [1, 0, 0], [0, 0, -2], 2, 2),
        ([-0.5, 0, -1], [0, 0, 2], [0, 1, 0], 2, 1),
        ([0.5, 0, 1], [0, 0, -2], [0, 1, 0], 2, 1),
    )
    middle = (np.abs(slit.vertices[:, 0]) < 1e-6) & (slit.vertices[:, 2] == 0)
    by_distance = [float(occlusion(slit, each)[middle][0]) for each in (0.4, 0.6, 0.9, 2.0)]
    assert by_distance[0] == 0 and (np.diff(by_distance) > 0).all()
    assert occlusion(slit, spread=40)[middle] == 0


def test_inwards_it_tells_what_is_thinner_than_the_distance() -> None:
    slab = trimesh.creation.box([2, 0.1, 2])
    made = slab.subdivide().subdivide()
    top = (made.vertices[:, 1] > 0.04) & (np.abs(made.vertices[:, [0, 2]]).max(axis=1) < 0.6)
    flat = make_mesh(made.vertices, made.faces, np.sign(made.vertices) * [0, 1, 0])
    assert (occlusion(flat, 0.05, 60, "inwards")[top] == 0).all()
    assert (occlusion(flat, 0.2, 60, "inwards")[top] == 1).all()


def test_the_same_at_every_run_and_by_the_op() -> None:
    knot = trimesh.creation.torus(0.5, 0.3, 48, 24)
    mesh = make_mesh(knot.vertices, knot.faces, knot.vertex_normals)
    first = occlusion(mesh, 0.5)
    assert np.array_equal(first, occlusion(mesh, 0.5))
    made = shot(
        signals=[{"name": "s", "recipe": recipe(step("occlusion", distance=0.5))}],
        looks=[look("a", layer("l"))],
        objects=[{"name": "b", "geometry": {"file": "knot"}, "look": "a", "scale": 3.0}],
    )
    graph = FrameGraph(made, MadeFiles(knot=mesh))
    of = graph.files.object_value(made.objects[0])
    found = graph.store.value(graph.on_mesh("s", made.objects[0], of, graph.scene.geometry.matrix[0], "vertex"))
    assert np.array_equal(found[0], first)
