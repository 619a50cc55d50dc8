"""Tubes: lengths, areas and frames in closed form, and nothing that flips."""

from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import MadeFiles, layer, look, recipe, shot, step
from texallon.core.curve import frames, natural_tangents, through
from texallon.core.document.body import Tube
from texallon.core.geometry.bodies import make_body
from texallon.core.geometry.bodies.sizes import body_size
from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.core.points.welded import weld
from texallon.core.render.camera.view import make_view
from texallon.core.render.graph import FrameGraph
from texallon.engine.handles import gizmo

CIRCLE = np.linspace(0, 2 * np.pi, 32, endpoint=False)
RING = np.stack([np.cos(CIRCLE), np.zeros(32), np.sin(CIRCLE)], axis=1)


def tube(points: Any, **members: Any) -> Mesh:
    return make_body(Tube.model_validate({"shape": "tube", "points": np.asarray(points).tolist(), **members}))


def solid(mesh: Mesh) -> trimesh.Trimesh:
    places, one = weld(mesh.vertices)
    return trimesh.Trimesh(places, one[mesh.faces], process=False)


def test_a_straight_one_is_a_cylinder() -> None:
    made = tube([[0, 0, 0], [0, 0, 2], [0, 0, 3]], radius=0.2, segments=256)
    body = solid(made)
    assert body.is_watertight and body.is_winding_consistent
    assert body.volume == pytest.approx(np.pi * 0.04 * 3, rel=1e-3)
    assert body.area == pytest.approx(2 * np.pi * 0.2 * 3 + 2 * np.pi * 0.04, rel=1e-3)
    assert made.uv is not None
    assert made.uv.max(axis=0) == pytest.approx([2 * np.pi * 0.2, 3.0]), "metres around, and along"


def test_a_closed_one_through_a_circle_is_a_torus() -> None:
    body = solid(tube(RING, closed=True, radius=0.25, segments=128))
    assert body.is_watertight and body.is_winding_consistent and body.euler_number == 0
    # Handbook: 2 π² R r² and 4 π² R r.
    assert body.volume == pytest.approx(2 * np.pi**2 * 0.0625, rel=3e-3)
    assert body.area == pytest.approx(4 * np.pi**2 * 0.25, rel=3e-3)


def test_thickness_along_the_length_makes_a_cone() -> None:
    made = tube([[0, 0, 0], [0, 1, 0]], radius=0.3, thickness=[[0, 1], [1, 1 / 3]], segments=256, spans=64)
    assert solid(made).volume == pytest.approx(np.pi / 3 * (0.09 + 0.03 + 0.01), rel=1e-3)
    # The side of a cone leans by its slope everywhere.
    side = made.normals[: 65 * 257]
    assert side[:, 1] == pytest.approx(np.full(len(side), 0.2 / np.hypot(1, 0.2)), abs=1e-5)


def test_a_line_goes_through_its_points_and_bends_evenly() -> None:
    line = through(RING, 16, closed=True)
    assert np.linalg.norm(line, axis=1) == pytest.approx(np.ones(len(line)), abs=2e-4)
    assert line[::16] == pytest.approx(np.concatenate([RING, RING[:1]]))
    length = np.linalg.norm(np.diff(line, axis=0), axis=1).sum()
    assert length == pytest.approx(2 * np.pi, rel=1e-3)


def helix(turns: float, climb: float, count: int = 4001) -> np.ndarray:
    t = np.linspace(0, 2 * np.pi * turns, count)
    return np.stack([np.cos(t), climb * t, np.sin(t)], axis=1)


@pytest.mark.parametrize("climb", [0.05, 0.3, 2.0])
def test_frames_turn_against_a_helix_by_its_torsion(climb: float) -> None:
    # Against the normal of the curve a frame that does not turn goes back by the integral of the torsion, c / (1 + c²) for a circle of radius 1.
    line = helix(2.5, climb)
    found = frames(line, closed=False)
    t = np.linspace(0, 5 * np.pi, len(line))
    inwards = np.stack([-np.cos(t), np.zeros_like(t), -np.sin(t)], axis=1)
    other = np.cross(found.tangent, inwards)
    angle = np.unwrap(np.arctan2((found.side * other).sum(axis=1), (found.side * inwards).sum(axis=1)))
    torsion = climb / (1 + climb**2)
    turned = abs(angle[-20] - angle[20]) / (found.length[-20] - found.length[20])
    assert turned == pytest.approx(torsion, rel=2e-3)


@pytest.mark.parametrize("twist", [0.0, 90.0, -400.0])
def test_a_twist_is_as_many_degrees_a_metre(twist: float) -> None:
    line = np.stack([np.linspace(0, 2, 200), np.zeros(200), np.zeros(200)], axis=1)
    found = frames(line, False, twist)
    angle = np.unwrap(
        np.arctan2((np.cross(found.side[0], found.side) * found.tangent[0]).sum(axis=1), found.side @ found.side[0])
    )
    assert np.degrees(angle) == pytest.approx(twist * found.length, abs=1e-6)


@given(seed=st.integers(0, 10**6), twist=st.floats(-500, 500))
def test_a_closed_line_closes_its_frames_too(seed: int, twist: float) -> None:
    points = np.random.default_rng(seed).normal(size=(7, 3))
    line = through(points, 24, closed=True)
    found = frames(line, True, twist)
    assert found.side[-1] == pytest.approx(found.side[0], abs=1e-6)
    assert np.abs((found.side * found.tangent).sum(axis=1)).max() < 1e-9


POINT = st.tuples(*[st.floats(-5, 5)] * 3)


@given(
    points=st.lists(POINT, min_size=2, max_size=8), closed=st.booleans(), smooth=st.booleans(), spans=st.integers(1, 9),
    segments=st.integers(3, 12), radius=st.floats(0.001, 1), twist=st.floats(-1000, 1000),
)  # fmt: skip
def test_any_points_make_a_closed_mesh_that_does_not_flip_or_are_refused(
    points: Any, radius: float, **members: Any
) -> None:
    body = Tube.model_validate({"shape": "tube", "points": points, "radius": radius, **members})
    if all(np.linalg.norm(np.subtract(point, points[0])) <= 1e-9 for point in points):
        with pytest.raises(MeshError):
            make_body(body)
        return
    made = make_body(body)
    size = body_size(body)
    assert len(made.faces) <= size.triangles and len(made.vertices) <= size.points
    assert np.isfinite(made.vertices).all() and np.allclose(np.linalg.norm(made.normals, axis=1), 1, atol=1e-4)


def test_points_that_repeat_are_as_one_and_all_in_one_place_are_refused() -> None:
    once, twice = tube([[0, 0, 0], [1, 0, 0]]), tube([[0, 0, 0], [0, 0, 0], [1, 0, 0], [1, 0, 0]])
    assert np.array_equal(once.vertices, twice.vertices)
    with pytest.raises(MeshError, match="all lie in one place"):
        tube([[1, 1, 1], [1, 1, 1]])


def test_it_stands_in_a_shot() -> None:
    item = {"name": "wire", "geometry": {"shape": "tube"}, "look": "plain", "position": [0, 1, 0]}
    scene = FrameGraph(shot(objects=[item], looks=[look("plain")]), MadeFiles()).scene
    assert scene.objects == 1 and scene.meshes[0].bounds[1][1] == pytest.approx(0.55, abs=0.01)


def test_its_points_have_handles_where_they_lie_in_the_picture() -> None:
    tilted = {"position": [0, 1, 0], "rotation": [0, 90, 0], "scale": 2.0}
    item = {
        "name": "wire",
        "geometry": {"shape": "tube", "points": [[0, 0, 0], [0.5, 0, 0], [0, 0, 40]]},
        "look": "plain",
        **tilted,
    }
    made = shot(
        objects=[item], looks=[look("plain")], camera={"position": [6, 1, 0], "target": [0, 1, 0], "focal_length": 35}
    )
    view = make_view(made.camera, 640, 360)
    found = gizmo(made, f"/objects/{made.objects[0].id}", view)
    assert found is not None and found["tube"] is not None
    # The third lies 80 m along the object's z, which is the world's x: behind the camera.
    assert [each["number"] for each in found["tube"]["points"]] == [0, 1]
    second = found["tube"]["points"][1]
    x, y, _ = view.project(np.array([0, 1, -1], np.float32))
    assert second["at"] == pytest.approx([x, y], abs=1e-5)
    # A metre along its own x is two of the world's, along −z.
    far, _, _ = view.project(np.array([0, 1, -1.02], np.float32))
    assert second["axes"]["x"][0] == pytest.approx((far - x) / 0.01, rel=1e-3)
    rows = np.array(found["tube"]["into_own"]).reshape(3, 4)
    assert rows @ [0, 1, -1, 1] == pytest.approx([0.5, 0, 0], abs=1e-6)
    other = gizmo(
        shot(objects=[{**item, "geometry": {"shape": "box"}}], looks=[look("plain")]),
        f"/objects/{made.objects[0].id}",
        view,
    )
    assert other is None or other["tube"] is None


# -- tangents by hand ------------------------------------------------------------------------------------------


@pytest.mark.parametrize("closed", [False, True])
def test_natural_tangents_by_hand_change_nothing_where_points_lie_evenly(closed: bool) -> None:
    """The smooth line in cubic pieces is the line that is found by Barry and Goldman's scheme."""
    points = np.array([[0, 0, 0], [1, 0.5, 0], [2, 0, 0.4], [1.5, -1, 0], [0.4, -1, 0.2]], np.float64)
    plain = through(points, 16, closed)
    one = np.full_like(points, np.nan)
    one[0] = natural_tangents(points, closed)[0]
    if not closed:  # of a closed line the control point before the first lies nearer than the one after
        assert through(points, 16, closed, one) == pytest.approx(plain, abs=1e-12)
    assert through(points, 16, closed, one)[:17] == pytest.approx(plain[:17], abs=1e-12)
    assert through(points, 16, closed, np.full_like(points, np.nan)) == pytest.approx(plain, abs=0)


def test_four_arcs_make_a_circle_within_what_cubics_can() -> None:
    """Control points at (4/3) tan(π/8) of the radius leave the circle by no more than 2.73e-4 of it: the well-known figure for quarter arcs
    (A. Riškus, "Approximation of a Cubic Bézier Curve by Circular Arcs and Vice Versa", Information Technology and Control 35, 2006)."""
    long = 4 / 3 * np.tan(np.pi / 8)
    points = np.array([[1, 0, 0], [0, 0, 1], [-1, 0, 0], [0, 0, -1]], np.float64)
    tangents = long * np.array([[0, 0, 1], [-1, 0, 0], [0, 0, -1], [1, 0, 0]])
    line = through(points, 64, True, tangents)
    away = np.linalg.norm(line, axis=1) - 1
    assert 2.5e-4 < away.max() < 2.75e-4 and away.min() > -1e-9
    body = solid(tube(points, closed=True, tangents=tangents.tolist(), radius=0.25, segments=128, spans=64))
    assert body.is_watertight and body.volume == pytest.approx(2 * np.pi**2 * 0.0625, rel=3e-3)


def test_a_tangent_bends_its_own_two_pieces_only_and_repeated_points_keep_theirs() -> None:
    points = np.array([[0, 0, 0], [1, 0, 0], [1, 0, 0], [2, 0, 0], [3, 0, 0], [4, 0, 0]], np.float64)
    tangents = np.full_like(points, np.nan)
    tangents[3] = [0, 0.5, 0]
    line = through(points, 16, False, tangents)
    bent = np.abs(line[:, 1]) > 1e-12
    assert (line[bent][:, 0] > 1).all() and (line[bent][:, 0] < 3).all() and bent.sum() > 20
    at = np.abs(line[:, 0] - 2).argmin()
    way = line[at + 1] - line[at - 1]
    assert abs(way[0]) < 0.2 * way[1], "it rises where it was told to"


@given(st.lists(st.tuples(*[st.floats(-5, 5)] * 3) | st.none(), min_size=3, max_size=7))
def test_any_tangents_give_a_tube_or_say_why_not(tangents: list[Any]) -> None:
    points = [[float(k), float(k % 2), 0.0] for k in range(len(tangents))]
    made = tube(points, tangents=[None if each is None else list(each) for each in tangents], segments=6, spans=4)
    assert np.isfinite(made.vertices).all() and np.isfinite(made.normals).all()


@pytest.mark.parametrize("radius", [0.01, 0.04])
@pytest.mark.parametrize(("count", "turns"), [(3, 6.0), (7, -4.0)])
def test_strands_on_a_tube_keep_their_number_and_twist_whatever_its_radius(
    count: int, turns: float, radius: float
) -> None:
    """Through the document: along a tube of 2 m that bends, each of the strands passes under a line along its top `turns` times a metre."""
    made_of = {"shape": "tube", "points": [[0, 0, 0], [0.6, 0, 0.3], [1.2, 0, -0.1], [1.9, 0, 0.2]], "radius": radius}
    params = {"count": count, "turns": turns, "space": "uv", "around": "metres", "radius": radius}
    strands = step("strands", **params, thickness=0.01, result="strand number")
    made = shot(
        signals=[{"name": "s", "recipe": recipe(strands)}],
        looks=[look("l", layer("a"))],
        objects=[{"name": "t", "geometry": {**made_of, "segments": 96, "spans": 400}, "look": "l"}],
    )
    graph = FrameGraph(made, MadeFiles())
    (of,) = graph.scene.distinct
    found = graph.store.value(
        graph.on_mesh("s", made.objects[0], graph.shapes.shaped(made.objects[0], np.eye(4, dtype=np.float32)[:3]), np.eye(4, dtype=np.float32)[:3], "vertex")
    )[0]  # fmt: skip
    rows = 3 * 400 + 1
    number = found[: rows * 97].reshape(rows, 97)
    assert sorted({int(each) for each in number[rows // 2]}) == list(range(count)), "all of them around"
    assert of.uv is not None
    long = of.uv[: rows * 97, 1].reshape(rows, 97)[:, 0]
    for line in (0, 40):
        passed = np.count_nonzero(np.diff(number[:, line]))
        assert passed == pytest.approx(abs(turns) * count * long[-1], abs=1.5)
    along = np.diff(number[:, 40])
    assert np.sign(np.median(along[np.abs(along) == 1])) == -np.sign(turns)
