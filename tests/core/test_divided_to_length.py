"""Points that remember lie as close as is asked for, on meshes of any faces: the surface stays as it is, and what grows is what a fine mesh gives."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import MadeFiles, make_mesh
from tests.core.test_growth import LAST, RATE, document, places, remembered, right_front
from texallon.core.document import read_shot
from texallon.core.geometry import divided_to_length as module
from texallon.core.geometry.divided_to_length import divided_to_length, division_to_length
from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.core.points.welded import weld
from texallon.core.render.object_geometry import object_geometry


def divided(mesh: Mesh, longest: float) -> Mesh:
    return divided_to_length(mesh, division_to_length(mesh, longest))


def lengths(mesh: Mesh) -> np.ndarray:
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    return np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2)


def angles(mesh: Mesh) -> np.ndarray:
    found: np.ndarray = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).face_angles
    return found


def as_solid(mesh: Mesh) -> trimesh.Trimesh:
    """With points in one place made one."""
    where, one = weld(mesh.vertices)
    return trimesh.Trimesh(where, one[mesh.faces], process=False)


@settings(deadline=None, max_examples=25)
@given(seed=st.integers(0, 1000), longest=st.floats(0.05, 0.5), stretch=st.floats(0.1, 6.0), seams=st.booleans())
def test_no_edge_is_longer_and_the_surface_stays_whole(seed: int, longest: float, stretch: float, seams: bool) -> None:
    random = np.random.default_rng(seed)
    solid = trimesh.convex.convex_hull(random.normal(size=(12, 3)) * [1, stretch, 1] * 0.3)
    vertices, faces = solid.vertices, solid.faces
    if seams:  # each face has points of its own
        vertices, faces = vertices[faces].reshape(-1, 3), np.arange(3 * len(faces)).reshape(-1, 3)
    mesh = make_mesh(vertices, faces)
    made = divided(mesh, longest)
    assert lengths(made).max() <= longest * (1 + 1e-5)
    whole = as_solid(made)
    # Trimesh says whether a mesh is closed and turned one way; area and volume are those of the flat faces.
    assert whole.is_watertight and whole.is_winding_consistent
    assert whole.area == pytest.approx(solid.area, rel=1e-5)
    assert whole.volume == pytest.approx(solid.volume, rel=1e-5)
    # Rivara 1984: no angle is smaller than half of the smallest.
    assert angles(made).min() >= angles(mesh).min() / 2 - 1e-4


def test_what_points_carry_is_straight_between_them() -> None:
    vertices = np.array([[0, 0, 0], [3, 0, 0], [0, 0, 1], [3, 0, 1]], float)
    mesh = replace(
        make_mesh(vertices, np.array([[0, 2, 1], [1, 2, 3]])),
        uv=np.ascontiguousarray(vertices[:, [0, 2]] * [2, 5], np.float32),
        attributes={"warm": np.ascontiguousarray(vertices @ [[1.0], [2.0], [3.0]], np.float32)},
    )
    made = divided(mesh, 0.2)
    assert made.uv is not None
    assert made.uv == pytest.approx(made.vertices[:, [0, 2]] * [2, 5], abs=1e-5)
    assert made.attributes["warm"] == pytest.approx(made.vertices @ np.float32([[1.0], [2.0], [3.0]]), abs=1e-5)
    assert made.normals == pytest.approx(np.repeat([[0, 1, 0]], len(made.normals), axis=0), abs=1e-6)


def test_a_mesh_that_bends_keeps_its_points() -> None:
    vertices = np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1], [1, 0, 1]], float)
    faces = np.array([[0, 2, 1], [1, 2, 3]])
    flat, bent = make_mesh(vertices, faces), make_mesh(vertices * [1, 1, 7] + [0, 0.3, 0], faces)
    division = division_to_length(flat, 0.3)
    first, later = divided_to_length(flat, division), divided_to_length(bent, division)
    np.testing.assert_array_equal(first.faces, later.faces)
    assert later.vertices == pytest.approx(first.vertices * [1, 1, 7] + [0, 0.3, 0], abs=1e-5)


def test_too_many_faces_are_refused_with_what_fits(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "MOST_FACES", 5_000)
    mesh = make_mesh(np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1]], float), np.array([[0, 2, 1]]))
    with pytest.raises(MeshError, match=r"more than 5,000 faces; about ([\d.]+) is the finest") as told:
        divided(mesh, 1e-3)
    fits = float(str(told.value).split("about ")[1].split()[0])
    assert len(divided(mesh, fits * 2).faces) <= 5_000


def pond(segments: int, **own: Any) -> dict[str, Any]:
    made = document(own)
    made["objects"][0]["geometry"]["segments"] = segments
    return made


@pytest.mark.parametrize("segments", [1, 3])
@pytest.mark.parametrize("frame", [5, 25])
def test_two_faces_remember_as_finely_as_is_asked_for(segments: int, frame: int) -> None:
    # The closed form of `test_growth`, on a square of two or eighteen faces: a point is known to half an edge.
    shot = read_shot(pond(segments, cell=0.02))
    at = places(shot)
    right = right_front(at, (frame - 1) / RATE, 0.2)
    front = remembered(shot, frame, "frost front")
    assert len(front) == len(at) > 2_000
    assert np.abs(front - right).max() < 0.03


def test_the_finest_of_what_an_object_remembers_counts_in_metres_of_the_world() -> None:
    made = pond(1, cell=0.2)
    made["objects"][0]["scale"] = 2.0
    made["objects"][0]["remembers"].append({"kind": "springs", "name": "ring", "signal": "touch", "cell": 0.1})
    shot = read_shot(made)
    assert lengths_in_world(shot, 2.0).max() <= 0.1 * (1 + 1e-5)
    assert lengths_in_world(shot, 2.0).max() > 0.04
    assert len(remembered(shot, LAST, "ring")) == len(places(shot))


def lengths_in_world(shot: Any, scale: float) -> np.ndarray:
    made = object_geometry(shot, "pond", MadeFiles())
    return lengths(made) * scale


def test_at_nothing_the_faces_stay_as_they_are() -> None:
    assert len(places(read_shot(pond(3)))) == len(places(read_shot(pond(3, cell=0.0)))) == 16
