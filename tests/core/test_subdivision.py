"""Finer meshes: counts and limit points from the literature, another library's midpoints, and nothing that opens."""

import igl
import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import ball, box, square
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.geometry.smooth_normals import facing, smooth_normals
from texallon.core.geometry.subdivide import subdivided, triangles_at
from texallon.core.points.welded import weld


def places(mesh: Mesh) -> np.ndarray:
    return weld(mesh.vertices)[0]


def closed(mesh: Mesh) -> trimesh.Trimesh:
    """By its places: as rays see it."""
    found, one = weld(mesh.vertices)
    return trimesh.Trimesh(found, one[mesh.faces], process=False)


@pytest.mark.parametrize("level", [1, 2, 3])
def test_a_cube_has_the_counts_that_the_rule_says(level: int) -> None:
    # Catmull and Clark 1978: V' = V + E + F, F' = 4 F of quads; of the cube 8, 12, 6.
    points, sides, faces = 8, 12, 6
    for _ in range(level):
        points, sides, faces = points + sides + faces, 2 * sides + 4 * faces, 4 * faces
    made = subdivided(box(2, 2, 2), "catmull-clark", level, 180.0)
    assert (len(places(made)), len(made.faces)) == (points, 2 * faces)


def test_a_cubes_corner_goes_to_its_limit() -> None:
    # M. Halstead, M. Kass, T. DeRose, "Efficient, Fair Interpolation using Catmull-Clark Surfaces", SIGGRAPH 1993, appendix A:
    # the limit is (n² v + 4 Σ e + Σ f) / (n (n + 5)), of the points about a corner of n sides after one level.
    first = places(subdivided(box(2, 2, 2), "catmull-clark", 1, 180.0)).astype(float)
    near = first[(first > -0.01).all(axis=1)]
    corner = near[(near > 0.4).all(axis=1)]
    on_side = near[(np.abs(near) < 1e-6).sum(axis=1) == 1]
    centres = near[(np.abs(near) < 1e-6).sum(axis=1) == 2]
    assert (len(corner), len(on_side), len(centres)) == (1, 3, 3)
    limit = (9 * corner[0] + 4 * on_side.sum(axis=0) + centres.sum(axis=0)) / 24
    found = places(subdivided(box(2, 2, 2), "catmull-clark", 7, 180.0))
    assert np.linalg.norm(found - limit, axis=1).min() < 1e-4


def test_a_regular_grid_goes_to_the_uniform_cubic_b_spline() -> None:
    # Catmull and Clark 1978: on a grid of quads the surface is the bicubic B-spline: at a point 1/6, 4/6, 1/6 along each way.
    x, z = np.meshgrid(np.arange(7.0), np.arange(7.0), indexing="ij")
    y = np.random.default_rng(4).normal(size=(7, 7))
    number = np.arange(49).reshape(7, 7)
    a, b, c, d = number[:-1, :-1].ravel(), number[:-1, 1:].ravel(), number[1:, 1:].ravel(), number[1:, :-1].ravel()
    faces = np.stack([a, b, c, a, c, d], axis=1).reshape(-1, 3)
    # Steeper triangles than any file's quads would not be seen as such.
    grid = make_mesh(np.stack([x, y * 0.02, z], -1).reshape(-1, 3), faces)
    found = places(subdivided(grid, "catmull-clark", 6, 180.0))
    stencil = np.array([1, 4, 1]) / 6
    wanted = stencil @ (y * 0.02)[2:5, 2:5] @ stencil
    at = np.linalg.norm(found[:, [0, 2]] - [3, 3], axis=1).argmin()
    assert found[at] == pytest.approx([3, wanted, 3], abs=2e-4)


def test_sharp_sides_and_borders_stay() -> None:
    kept = places(subdivided(box(2, 2, 2), "catmull-clark", 3, 30.0))
    assert np.abs(kept).max(axis=1) == pytest.approx(np.ones(len(kept)))
    sheet = places(subdivided(square(2.0), "catmull-clark", 3, 180.0))
    assert (sheet.min(axis=0).tolist(), sheet.max(axis=0).tolist()) == ([-1, 0, -1], [1, 0, 1])
    # A border is the cubic B-spline of its own points (Hoppe 1994): of an open tube, a rounded circle that stays level.
    tube = trimesh.creation.cylinder(1.0, 2.0, sections=8)
    sides = tube.faces[np.abs(tube.face_normals[:, 2]) < 0.5]
    rounded = places(subdivided(make_mesh(tube.vertices, sides), "catmull-clark", 3, 180.0))
    assert np.abs(rounded[:, 2]).max() == pytest.approx(1.0)


@pytest.mark.parametrize("levels", [1, 3])
def test_midpoints_are_those_of_another_library(levels: int) -> None:
    knot = trimesh.creation.torus(1.0, 0.3, 16, 12)
    made = subdivided(make_mesh(knot.vertices, knot.faces), "midpoint", levels, 180.0)
    other, faces = igl.upsample(knot.vertices, knot.faces.astype(np.int64), levels)
    assert len(made.faces) == len(faces)
    assert np.unique(np.round(made.vertices, 5), axis=0) == pytest.approx(
        np.unique(np.round(other, 5), axis=0), abs=2e-5
    )


@pytest.mark.parametrize("scheme", ["midpoint", "catmull-clark"])
@given(seed=st.integers(0, 2**31), levels=st.integers(0, 3), crease=st.floats(0, 180))
def test_nothing_opens_whatever_the_mesh(scheme: str, seed: int, levels: int, crease: float) -> None:
    random = np.random.default_rng(seed)
    hull = trimesh.convex.convex_hull(random.normal(size=(random.integers(5, 30), 3)))
    # Each face has points of its own, as where normals or texture coordinates are divided.
    loose = make_mesh(hull.vertices[hull.faces].reshape(-1, 3), np.arange(len(hull.faces) * 3).reshape(-1, 3))
    made = subdivided(loose, scheme, levels, crease)
    assert closed(made).is_watertight
    assert len(made.faces) <= triangles_at(len(loose.faces), scheme, levels)
    assert np.isfinite(made.vertices).all()
    assert np.linalg.norm(made.normals, axis=1) == pytest.approx(np.ones(len(made.normals)), abs=1e-4)


def test_what_points_carry_is_interpolated_and_parts_stay() -> None:
    sheet = square(2.0)
    x = sheet.vertices[:, :1]
    mesh = make_mesh(sheet.vertices, sheet.faces, None, sheet.vertices[:, [0, 2]], {"heat": x}, ("a", "b"), [0, 1])
    for scheme in ("midpoint", "catmull-clark"):
        made = subdivided(mesh, scheme, 3, 180.0)
        assert made.uv is not None and made.part_of_face is not None
        if scheme == "midpoint":
            assert made.uv == pytest.approx(made.vertices[:, [0, 2]], abs=1e-6)
            assert made.attributes["heat"][:, 0] == pytest.approx(made.vertices[:, 0], abs=1e-6)
            assert (made.part_of_face == 0).sum() == len(made.faces) / 2
        assert made.attributes["heat"].min() == pytest.approx(-1) and made.attributes["heat"].max() == pytest.approx(1)


def test_a_level_of_nothing_changes_nothing_and_a_face_without_area_harms_nothing() -> None:
    mesh = ball(1.0, 8)
    assert subdivided(mesh, "catmull-clark", 0, 180.0) is mesh
    points = np.array([[0, 0, 0], [1, 0, 0], [1, 0, 1], [0, 0, 1], [0.5, 0, 0]])
    thin = make_mesh(points, [[0, 1, 1], [0, 2, 1], [0, 3, 2], [0, 4, 1]])
    for scheme in ("midpoint", "catmull-clark"):
        assert np.isfinite(subdivided(thin, scheme, 2, 60.0).vertices).all()


@pytest.mark.parametrize("rings", [24, 96])
def test_smooth_normals_of_a_ball_point_outwards(rings: int) -> None:
    mesh = ball(2.0, rings)
    used = np.unique(mesh.faces)
    found = smooth_normals(mesh.vertices, mesh.faces)
    assert np.abs(found - mesh.vertices / 2)[used].max() < 3 / rings**1.5


def test_a_crease_divides_normals() -> None:
    cube = box(2, 2, 2)
    ways = facing(cube.vertices, cube.faces, cube.normals)  # two of its sides run the other way round
    assert smooth_normals(cube.vertices, cube.faces, 30.0, None, ways) == pytest.approx(cube.normals, abs=1e-6)
    round_ = smooth_normals(cube.vertices, cube.faces, 180.0, None, ways)
    assert round_ == pytest.approx(cube.vertices / np.sqrt(3), abs=1e-6)  # three equal angles at each corner
