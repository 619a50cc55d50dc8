"""Curvature read from geometry: closed forms on uneven meshes, another library, and what the radius does."""

from typing import Any

import igl
import numpy as np
import pytest
import trimesh

from tests.builders import MadeFiles, layer, look, recipe, shot, step
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.points.curvature import Curvature
from texallon.core.render.graph import FrameGraph

RNG = np.random.default_rng(17)


def sheet(
    count: int, surface: Any, reach: tuple[float, float], uneven: float = 0.6, closed: bool = False
) -> tuple[Mesh, np.ndarray, np.ndarray]:
    """A mesh over an uneven grid of two parameters, and these at its vertices."""
    n = int(count**0.5)
    ends = [np.linspace(0, each, n, endpoint=not closed) for each in reach]
    u, v = np.meshgrid(*ends, indexing="ij")
    inner = np.zeros_like(u) + closed
    inner[1:-1, 1:-1] = 1
    u = u + inner * uneven * RNG.uniform(-0.5, 0.5, u.shape) * reach[0] / n
    v = v + inner * uneven * RNG.uniform(-0.5, 0.5, v.shape) * reach[1] / n
    i, j = np.meshgrid(np.arange(n - (not closed)), np.arange(n - (not closed)), indexing="ij")
    a, b, c, d = (((i + di) % n) * n + (j + dj) % n for di, dj in ((0, 0), (1, 0), (1, 1), (0, 1)))
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    return make_mesh(np.stack(surface(u, v), -1).reshape(-1, 3), faces), u.ravel(), v.ravel()


def torus(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, ...]:
    return (1 + 0.35 * np.cos(v)) * np.cos(u), 0.35 * np.sin(v), -(1 + 0.35 * np.cos(v)) * np.sin(u)


def curvature(mesh: Mesh, radius: float) -> np.ndarray:
    return Curvature(str(radius)).bake(mesh)[:, 0]


@pytest.mark.parametrize("radius", [0.3, 1.0, 5.0])
def test_a_ball_has_the_curvature_of_its_radius(radius: float) -> None:
    ball = trimesh.creation.icosphere(5, radius)
    found = curvature(make_mesh(ball.vertices, ball.faces), 0.1 * radius)
    assert found == pytest.approx(np.full(len(found), 1 / radius), rel=0.03)
    inside_out = curvature(make_mesh(ball.vertices, ball.faces[:, ::-1]), 0.1 * radius)
    assert inside_out == pytest.approx(-found, rel=1e-3), "a hollow"


@pytest.mark.parametrize(("radius", "median", "most"), [(0.05, 0.03, 0.2), (0.1, 0.01, 0.07), (0.2, 0.02, 0.06)])
def test_on_an_uneven_torus_it_is_the_closed_form(radius: float, median: float, most: float) -> None:
    """H = (R + 2 r cos v) / (2 r (R + r cos v)); differential geometry. The error by radius: finer is noisier, wider averages the curvature itself."""
    mesh, _, v = sheet(10_000, torus, (2 * np.pi, 2 * np.pi), closed=True)
    exact = (1 + 0.7 * np.cos(v)) / (0.7 * (1 + 0.35 * np.cos(v)))
    wrong = np.abs(curvature(mesh, radius) - exact) / exact.max()
    assert np.median(wrong) < median and np.quantile(wrong, 0.99) < most


def test_it_agrees_with_another_library_on_an_uneven_mesh() -> None:
    """libigl's principal curvatures from quadrics over five rings, whose own error here is 2 %."""
    mesh, _, _ = sheet(10_000, torus, (2 * np.pi, 2 * np.pi), closed=True)
    _, _, first, second, _ = igl.principal_curvature(
        mesh.vertices.astype(np.float64), mesh.faces.astype(np.int64), radius=5
    )
    theirs = (first + second) / 2
    wrong = np.abs(curvature(mesh, 0.15) - theirs) / np.abs(theirs).max()
    assert np.median(wrong) < 0.05 and np.quantile(wrong, 0.99) < 0.12


def test_a_cylinder_bends_half_as_much_as_a_ball_and_a_saddle_not_at_all() -> None:
    tube, u, v = sheet(10_000, lambda u, v: (0.5 * np.cos(u), v, -0.5 * np.sin(u)), (np.pi, 2.0))
    inner = (np.abs(u - np.pi / 2) < 1) & (np.abs(v - 1) < 0.6)
    assert np.median(np.abs(curvature(tube, 0.1)[inner] - 1.0)) < 0.02
    saddle, u, v = sheet(10_000, lambda u, v: (u - 1, (u - 1) ** 2 - (v - 1) ** 2, -(v - 1)), (2.0, 2.0))
    middle = np.hypot(u - 1, v - 1) < 0.15
    assert np.abs(curvature(saddle, 0.1)[middle]).max() < 0.08  # its principal curvatures are ±2


def test_the_radius_chooses_the_size_of_detail() -> None:
    """Bumps of wavelength λ on a plane: a disc much smaller than them sees them, one of that size evens them out."""

    def bumps(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, ...]:
        return u, 0.004 * np.sin(2 * np.pi * u / 0.1) * np.sin(2 * np.pi * v / 0.1), -v

    mesh, u, v = sheet(40_000, bumps, (1.0, 1.0), uneven=0.3)
    inner = (np.abs(u - 0.5) < 0.3) & (np.abs(v - 0.5) < 0.3)
    exact = 0.004 * (2 * np.pi / 0.1) ** 2  # H = −Δh / 2 at the top of sin·sin
    fine, coarse = (curvature(mesh, radius)[inner].max() for radius in (0.01, 0.15))
    # Each of the two implicit steps leaves 1 / (1 + k² r² / 16) of a wave of the wave number k.
    assert fine == pytest.approx(exact / (1 + 2 * (2 * np.pi / 0.1) ** 2 * 0.01**2 / 16) ** 2, rel=0.08)
    assert coarse < 0.1 * fine


def test_seams_and_split_normals_divide_nothing() -> None:
    ball = trimesh.creation.icosphere(4, 1.0)
    split = make_mesh(
        ball.vertices[ball.faces].reshape(-1, 3),
        np.arange(ball.faces.size).reshape(-1, 3),
        np.repeat(ball.face_normals, 3, axis=0),
    )
    whole = make_mesh(ball.vertices, ball.faces, ball.vertex_normals)
    assert curvature(split, 0.1) == pytest.approx(curvature(whole, 0.1)[ball.faces.ravel()], rel=0.02)


def test_odd_meshes_do_no_harm() -> None:
    corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 0], [5, 5, 5], [1, 0, 0]], np.float32)
    faces = np.array([[0, 1, 2], [0, 3, 1], [1, 5, 2]])
    found = curvature(make_mesh(corners, faces), 0.1)
    assert np.isfinite(found).all() and found[4] == 0


@pytest.mark.parametrize("scale", [0.5, 1.0, 4.0])
def test_the_op_gives_it_in_the_world_or_by_the_radius(scale: float) -> None:
    ball = trimesh.creation.icosphere(4, 0.5)
    files = MadeFiles(ball=make_mesh(ball.vertices, ball.faces, ball.vertex_normals))

    def values(**params: Any) -> np.ndarray:
        made = shot(
            signals=[{"name": "s", "recipe": recipe(step("curvature", radius=0.1, **params))}],
            looks=[look("a", layer("l"))],
            objects=[{"name": "b", "geometry": {"file": "ball"}, "look": "a", "scale": scale}],
        )
        graph = FrameGraph(made, files)
        of = graph.files.object_value(made.objects[0])
        return graph.store.value(graph.on_mesh("s", made.objects[0], of, graph.scene.geometry.matrix[0], "vertex"))[0]

    assert values(measure="1/m") == pytest.approx(np.full(len(ball.vertices), 2 / scale), rel=0.04)
    assert (values(measure="1/m", side="concave") == 0).all()
    assert values() == pytest.approx(np.full(len(ball.vertices), 0.2), rel=0.04)
    assert np.array_equal(values(side="signed"), values(side="convex"))
