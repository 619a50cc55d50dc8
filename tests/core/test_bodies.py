"""Bodies made from their measures: held to closed-form areas and volumes, to trimesh, and seen through the renderer.

Formulas: I. N. Bronshtein, K. A. Semendyayev et al., *Handbook of Mathematics*, ch. 3.3 (cylinder, cone and its frustum, sphere, torus by Guldin's
rules); a rounded box and cylinder by Steiner's formula for parallel bodies, the same, from memory.
"""

from math import hypot, pi
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import MadeFiles, shot
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.body import Box, Capsule, Cone, Cylinder, Plane, Sphere, Torus
from texallon.core.geometry.bodies import MAKERS
from texallon.core.geometry.bodies.sizes import body_size
from texallon.core.geometry.mesh import Mesh
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame


def made(body: Any) -> Mesh:
    return MAKERS[type(body)](body)


def closed(mesh: Mesh) -> trimesh.Trimesh:
    """The mesh with what coincides made one, as a solid is judged."""
    solid = trimesh.Trimesh(mesh.vertices.astype(np.float64), mesh.faces, process=False)
    solid.merge_vertices(digits_vertex=6)
    return solid


def rounded_box(a: float, b: float, c: float, r: float) -> tuple[float, float]:
    a, b, c = a - 2 * r, b - 2 * r, c - 2 * r
    area, edges = 2 * (a * b + b * c + c * a), a + b + c
    return area + 2 * pi * r * edges + 4 * pi * r * r, a * b * c + area * r + pi * r * r * edges + 4 / 3 * pi * r**3


def rounded_cylinder(big: float, h: float, r: float) -> tuple[float, float]:
    # The body parallel to a disc-ended cylinder of radius R and height H: area and volume with its mean curvature, π(H + πR).
    big, h = big - r, h - 2 * r
    area, volume, mean = 2 * pi * big * (big + h), pi * big * big * h, pi * (h + pi * big)
    return area + 2 * mean * r + 4 * pi * r * r, volume + area * r + mean * r * r + 4 / 3 * pi * r**3


def cone(big: float, top: float, h: float) -> tuple[float, float]:
    return pi * ((big + top) * hypot(big - top, h) + big**2 + top**2), pi * h / 3 * (big**2 + big * top + top**2)


BODIES: list[tuple[Any, float, float]] = [
    (Box(shape="box", width=1, height=2, depth=3, rounding=0), 22.0, 6.0),
    (Box(shape="box", width=1, height=2, depth=3, rounding=0.2, segments=4), *rounded_box(1, 2, 3, 0.2)),
    (Box(shape="box", width=1, height=1, depth=1, rounding=9), pi, pi / 6),
    (Sphere(shape="sphere", radius=0.7, segments=256), 4 * pi * 0.49, 4 / 3 * pi * 0.343),
    (Cylinder(shape="cylinder", radius=0.5, height=2, rounding=0, segments=512), 2 * pi * 0.5 * 2.5, pi * 0.25 * 2),
    (Cylinder(shape="cylinder", radius=0.5, height=2, rounding=0.2, segments=512), *rounded_cylinder(0.5, 2, 0.2)),
    (Cylinder(shape="cylinder", radius=0.5, height=1, rounding=9, segments=512), pi, pi / 6),
    (Cone(shape="cone", radius=0.6, top=0, height=1.5, segments=512), *cone(0.6, 0, 1.5)),
    (Cone(shape="cone", radius=0.2, top=0.6, height=1.5, segments=512), *cone(0.2, 0.6, 1.5)),
    (Torus(shape="torus", radius=0.8, thickness=0.3, segments=512), 4 * pi**2 * 0.8 * 0.3, 2 * pi**2 * 0.8 * 0.09),
    (Capsule(shape="capsule", radius=0.3, height=1, segments=256), 2 * pi * 0.3 * 1, pi * 0.09 * (0.4 + 0.4)),
    (Capsule(shape="capsule", radius=0.5, height=0.1, segments=256), pi, pi / 6),
]


@pytest.mark.parametrize(("body", "area", "volume"), BODIES, ids=lambda each: getattr(each, "shape", None))
def test_area_and_volume_are_the_handbook_s(body: Any, area: float, volume: float) -> None:
    solid = closed(made(body))
    assert solid.is_watertight
    assert solid.is_winding_consistent
    assert solid.area == pytest.approx(area, rel=5e-3)
    assert solid.volume == pytest.approx(volume, rel=1e-2), "positive: its faces look outwards"


LENGTHS = st.floats(0.01, 50)
ANY = st.one_of(
    st.builds(Plane, shape=st.just("plane"), width=LENGTHS, depth=LENGTHS, segments=st.integers(1, 9)),
    st.builds(Box, shape=st.just("box"), width=LENGTHS, height=LENGTHS, depth=LENGTHS, rounding=st.floats(0, 60), segments=st.integers(1, 9)),
    st.builds(Sphere, shape=st.just("sphere"), radius=LENGTHS, segments=st.integers(3, 40)),
    st.builds(Cylinder, shape=st.just("cylinder"), radius=LENGTHS, height=LENGTHS, rounding=st.floats(0, 60), segments=st.integers(3, 40)),
    st.builds(Cone, shape=st.just("cone"), radius=LENGTHS, top=st.floats(0, 50), height=LENGTHS, segments=st.integers(3, 40)),
    st.builds(Torus, shape=st.just("torus"), radius=LENGTHS, thickness=LENGTHS, segments=st.integers(3, 40)),
    st.builds(Capsule, shape=st.just("capsule"), radius=LENGTHS, height=LENGTHS, segments=st.integers(3, 40)),
)  # fmt: skip


@given(ANY)
def test_any_measures_make_a_sound_mesh_that_stands_on_the_ground(body: Any) -> None:
    mesh = made(body)
    size = body_size(body)
    assert len(mesh.faces) <= size.triangles and len(mesh.vertices) <= size.points
    assert mesh.uv is not None and mesh.uv.min() >= 0 and mesh.uv.max() <= 1
    low, high = mesh.bounds
    extent = float((high - low).max())
    assert low[1] == pytest.approx(0, abs=1e-5 * extent)
    assert low[0] + high[0] == pytest.approx(0, abs=0.6 * extent), (
        "about its axis (a triangle is not even to both sides)"
    )
    assert np.allclose(np.linalg.norm(mesh.normals, axis=1), 1, atol=1e-4)
    # Normals stand to the side that faces look to: where a face is seen from, it is lit from.
    a, b, c = (mesh.vertices[mesh.faces[:, k]].astype(np.float64) for k in range(3))
    across = np.cross(b - a, c - a)
    large = np.linalg.norm(across, axis=1) > 1e-6 * extent**2
    for k in range(3):
        assert np.all(np.einsum("ij,ij->i", across, mesh.normals[mesh.faces[:, k]])[large] > 0)


def test_bodies_stand_in_a_shot_and_are_worked_out_once(monkeypatch: pytest.MonkeyPatch) -> None:
    bodies = [{"name": f"b{n}", "geometry": {"shape": "box"}, "look": "plain", "position": [n, 0, 0]} for n in range(3)]
    ball = {"name": "ball", "geometry": {"shape": "sphere", "radius": 0.4}, "look": "plain", "position": [0, 1, 0]}
    scene = FrameGraph(shot(objects=[*bodies, ball]), MadeFiles()).scene
    assert scene.objects == 4
    assert len(scene.geometry.meshes.vertices) == sum(
        len(made(body).vertices) for body in (Box(shape="box"), Sphere(shape="sphere", radius=0.4))
    )


def test_a_sphere_by_its_measures_looks_like_one_from_a_file() -> None:
    look = [{"name": "plain", "layers": [{"name": "base"}]}]
    camera = {"position": [0, 0.5, 3], "target": [0, 0.5, 0]}
    mesh = made(Sphere(shape="sphere"))
    members: dict[str, Any] = {"looks": look, "camera": camera}
    pictures = [
        render_frame(
            shot(objects=[{"name": "o", "geometry": geometry, "look": "plain"}], **members),
            MadeFiles(ball=mesh),
            48,
            27,
            4,
            2,
        ).picture()
        for geometry in ({"shape": "sphere"}, {"file": "ball"})
    ]
    assert np.array_equal(pictures[0], pictures[1])
    assert pictures[0].std() > 0.01


@pytest.mark.parametrize(
    ("geometry", "pointer", "words"),
    [
        ({"shape": "pyramid"}, "/objects/0/geometry", "a file, or a shape of plane, box, sphere"),
        ({"shape": "box", "width": 0}, "/objects/0/geometry/width", "greater than or equal to 0.0001"),
        ({"shape": "box", "radius": 1}, "/objects/0/geometry/radius", "Extra inputs"),
        ({"shape": "sphere", "segments": 513}, "/objects/0/geometry/segments", "less than or equal to 512"),
        ({"file": "../x.ply"}, "/objects/0/geometry/file", "stays beside the document"),
        ({}, "/objects/0/geometry/file", "Field required"),
        ("box", "/objects/0/geometry", "valid dictionary"),
    ],
)
def test_what_is_wrong_with_a_body_is_told_at_its_place(geometry: Any, pointer: str, words: str) -> None:
    item = {"name": "o", "geometry": geometry, "look": "plain"}
    document = {"schema": 2, "name": "s", "objects": [item], "looks": [{"name": "plain", "layers": [{"name": "b"}]}]}
    with pytest.raises(DocumentError) as refused:
        read_shot(document)
    problem = refused.value.problems[0]
    assert problem.pointer == pointer
    assert words in problem.reason
