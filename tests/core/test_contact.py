"""Contact and proximity: distances against another library, falloffs in closed form, and what moves is measured anew."""

import sys
from typing import Any

import igl
import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import MadeFiles, ball, box, gbuffer_of, layer, look, recipe, run, shot, square, step, value
from texallon.core.derived import DerivedStore
from texallon.core.document import DocumentError
from texallon.core.geometry.closest import PlacedSurface, nearest_of, placed_surface
from texallon.core.geometry.mesh import make_mesh
from texallon.core.ops.contact import Contact
from texallon.core.render.graph import FrameGraph
from texallon.core.signal.look_plan import plan_look

RNG = np.random.default_rng(23)
KNOT = trimesh.creation.torus(1.0, 0.35, 60, 24)
MESH = make_mesh(KNOT.vertices, KNOT.faces)


def placed(turn: float, scale: float, stretch: float) -> np.ndarray:
    matrix = trimesh.transformations.rotation_matrix(turn, [1, 2, 3])[:3]
    matrix[:, :3] = matrix[:, :3] @ np.diag([scale * stretch, scale, scale])
    matrix[:, 3] = [0.3, -2.0, 5.0]
    return matrix.astype(np.float32)


@pytest.mark.parametrize(("turn", "scale", "stretch"), [(0, 1, 1), (1.0, 0.01, 1), (2.0, 30.0, 1), (0.5, 1.0, 4.0)])
def test_distances_are_those_of_another_library(turn: float, scale: float, stretch: float) -> None:
    """libigl's distances from points to a mesh, near and far, on the surface and off it, also of one that is stretched."""
    matrix = placed(turn, scale, stretch)
    corners = MESH.vertices.astype(np.float64) @ matrix[:, :3].T.astype(np.float64) + matrix[:, 3]
    middle, reach = corners.mean(axis=0), np.ptp(corners, axis=0).max()
    places = np.concatenate(
        [middle + RNG.uniform(-2, 2, (400, 3)) * reach, corners[:100], corners[MESH.faces[:100]].mean(axis=1)]
    )
    squares, _, _ = igl.point_mesh_squared_distance(places, corners, MESH.faces.astype(np.int64))
    found = PlacedSurface(MESH, matrix).distance(places.T.astype(np.float32), 100 * reach)
    assert found == pytest.approx(np.sqrt(squares), abs=2e-6 * (reach + np.abs(corners).max()))


@pytest.mark.parametrize("far", [1e-3, 0.1, 1.0])
def test_nothing_is_farther_than_the_most(far: float) -> None:
    places = RNG.uniform(-2, 2, (3, 500)).astype(np.float32)
    surface = PlacedSurface(MESH, np.eye(4, dtype=np.float32)[:3])
    all_of_it = surface.distance(places, 100.0)
    assert surface.distance(places, far) == pytest.approx(np.minimum(all_of_it, far), abs=1e-6)
    assert (nearest_of((), places, far) == np.float32(far)).all()


@pytest.mark.parametrize("scale", [0.05, 1.0, 20.0])
def test_edges_and_points_are_as_far_as_each_of_them_says(scale: float) -> None:
    surface = PlacedSurface(MESH, placed(0.7, scale, 1))
    vertices = surface.rays.vertices.astype(float)
    points = (vertices[RNG.integers(0, len(vertices), 80)] + RNG.normal(size=(80, 3)) * 0.3 * scale).astype(np.float32)
    pairs = np.unique(np.sort(np.concatenate([MESH.faces[:, [k, (k + 1) % 3]] for k in range(3)]), axis=1), axis=0)
    a, way = vertices[pairs[:, 0]], vertices[pairs[:, 1]] - vertices[pairs[:, 0]]
    share = np.clip(((points[:, None] - a) * way).sum(axis=2) / (way * way).sum(axis=1), 0, 1)
    to_edges = np.linalg.norm(a + share[:, :, None] * way - points[:, None], axis=2).min(axis=1)
    to_points = np.linalg.norm(points[:, None] - vertices, axis=2).min(axis=1)
    most = 0.4 * scale
    for part, wanted in (("edges", to_edges), ("points", to_points)):
        found = surface.distance(points.T, most, part)
        assert found == pytest.approx(np.minimum(wanted, most), rel=1e-4, abs=1e-5 * scale)


def test_what_lies_within_is_below_0_as_another_library_says() -> None:
    matrix = placed(0.4, 2.0, 1)
    surface = PlacedSurface(MESH, matrix)
    points = (matrix[:, 3] + RNG.uniform(-3, 3, (3000, 3))).astype(np.float32)
    theirs, *_ = igl.signed_distance(
        points.astype(float), surface.rays.vertices.astype(float), MESH.faces.astype(np.int64)
    )
    found = surface.distance(points.T, 10.0, "signed")
    assert found == pytest.approx(theirs, abs=1e-4)
    assert 100 < (found < 0).sum() < 1500


def test_points_that_are_no_number_are_as_far_as_may_be() -> None:
    bad = np.full((3, 2), np.nan, np.float32)
    for part in ("surface", "edges", "points", "signed"):
        assert (PlacedSurface(MESH, np.eye(4)[:3]).distance(bad, 0.5, part) == 0.5).all()


CURVES = {
    "linear": lambda s: 1 - s,
    "smooth": lambda s: 1 - s * s * (3 - 2 * s),
    "square": lambda s: (1 - s) ** 2,
    "inverse square": lambda s: (1 / (1 + 9 * s * s) - 0.1) / 0.9,
    "exponential": lambda s: (np.exp(-5 * s) - np.exp(-5)) / (1 - np.exp(-5)),
}


@pytest.mark.parametrize("falloff", CURVES)
@given(start=st.floats(0, 1), width=st.floats(0.01, 2))
def test_it_falls_from_1_at_its_start_to_0_at_its_end(falloff: str, start: float, width: float) -> None:
    locators = [{"name": "a", "position": [1, 2, 3], "scale": 4.0, "rotation": [10, 20, 30]}]
    away = np.linspace(0, 4, 201)
    data = {"position": np.array([[1.0], [2.0], [3.0]]) + np.array([[0], [1], [0]]) * away}
    made = step("contact", to={"locator": "a"}, start=start, end=start + width, falloff=falloff)
    found = run(made, data=data, locators=locators)[0]
    share = np.clip((away - start) / max(start + width - start, 1e-6), 0, 1)
    assert found == pytest.approx(CURVES[falloff](share), abs=3e-5 * (1 + 1 / width))
    assert (np.diff(found) <= 1e-6).all()


def graph_of(height: float, store: Any = None, files: Any = None, **params: Any) -> FrameGraph:
    """A floor that a ball hangs over or lies on."""
    paint = look("print", layer("l", base_weight={"recipe": recipe(step("contact", to={"object": "ball"}, **params))}))
    objects = [
        {"name": "floor", "geometry": {"file": "floor"}, "look": "print"},
        {"name": "ball", "geometry": {"file": "ball"}, "look": "plain", "position": [0, height, 0], "scale": 0.5},
    ]
    made = shot(looks=[paint, look("plain")], objects=objects, camera={"position": [0, 6, 0.1], "target": [0, 0, 0], "focal_length": 50})  # fmt: skip
    return FrameGraph(made, files or MadeFiles(floor=square(3.0), ball=ball(1.0, 48)), store)


def seen(graph: FrameGraph) -> tuple[np.ndarray, np.ndarray]:
    batch = gbuffer_of(graph.scene, graph.shot, 48, 36).batch(0)
    return batch.point("position"), batch.values(plan_look(graph.shot, graph.shot.looks[0]))["base_weight"][0]


@pytest.mark.parametrize("height", [0.5, 0.6, 0.9])
def test_a_floor_knows_how_near_a_ball_is(height: float) -> None:
    position, found = seen(graph_of(height, end=1.0, falloff="linear"))
    away = np.sqrt(position[0] ** 2 + (position[1] - height) ** 2 + position[2] ** 2) - 0.5
    assert found == pytest.approx(1 - np.clip(away, 0, 1), abs=4e-3)  # the ball's facets lie a little inside of it


@pytest.mark.parametrize("place", ["object", "rest"])
@pytest.mark.parametrize("scale", [0.2, 1.0, 5.0])
def test_an_objects_own_middle_is_as_far_as_in_the_world(scale: float, place: str) -> None:
    made = recipe(step("contact", to=place, end=1e3, measure="distance"))
    item = {"name": "b", "geometry": {"file": "b"}, "look": "a", "scale": scale, "position": [3, 2, 1]}
    aim = {"position": [3, 2, 1 + 4 * scale], "target": [3, 2, 1], "focal_length": 50}
    graph = FrameGraph(
        shot(looks=[look("a", layer("l", base_weight={"recipe": made}))], objects=[item], camera=aim),
        MadeFiles(b=ball(0.5, 64)),
    )
    position, found = seen(graph)
    away = np.linalg.norm(position - np.array([[3.0], [2.0], [1.0]]), axis=0)
    assert found == pytest.approx(np.clip(away, 0, None), rel=1e-4)


@pytest.mark.parametrize(("part", "away"), [("middle", 0.0), ("surface", 0.5)])
def test_the_middle_of_an_object_is_where_it_stands(part: str, away: float) -> None:
    position, found = seen(graph_of(0.6, end=3.0, measure="distance", part=part))
    wanted = np.sqrt(position[0] ** 2 + (position[1] - 0.6) ** 2 + position[2] ** 2) - away
    assert found == pytest.approx(wanted, abs=4e-3)


def test_what_lies_within_touches_where_that_is_wanted_and_intensity_multiplies() -> None:
    # The ball is sunk to its middle into the floor: the floor's own middle lies half a metre within it.
    position, fading = seen(graph_of(0.0, end=0.2, falloff="linear"))
    _, touching = seen(graph_of(0.0, end=0.2, falloff="linear", inside="touches", intensity=0.5))
    _, signed = seen(graph_of(0.0, end=1.0, measure="signed distance"))
    away = np.hypot(position[0], position[2]) - 0.5
    assert signed == pytest.approx(np.minimum(away, 1.0), abs=4e-3)
    assert fading == pytest.approx(np.clip(1 - np.abs(away) / 0.2, 0, 1), abs=0.02)
    assert touching == pytest.approx(np.clip(1 - np.maximum(away, 0) / 0.2, 0, 1) / 2, abs=0.02)


def test_what_is_measured_from_moves() -> None:
    first = graph_of(0.6, end=1.0)
    _, before = seen(first)
    _, after = seen(graph_of(0.9, first.store, first.files._files, end=1.0))
    assert after.max() < before.max() - 0.1


def test_a_part_is_picked_by_contact() -> None:
    graph = graph_of(0.6)
    made = shot(
        signals=[{"name": "near", "recipe": recipe(step("contact", to={"object": "ball"}, end=1.0))}],
        looks=[look("a"), look("b")],
        objects=[
            {"name": "floor", "geometry": {"file": "floor"}, "look": "a", "parts": [{"name": "p", "look": "b", "picked": {"signal": "near"}}]},
            {"name": "ball", "geometry": {"file": "ball"}, "look": "a", "position": [0.9, 0.5, 0], "scale": 0.5},
        ],
    )  # fmt: skip
    mesh = FrameGraph(made, graph.files._files).scene.meshes[0]
    assert mesh.part_of_face is not None
    assert mesh.part_names == ("all", "p") and 0 < mesh.part_of_face.sum() < len(mesh.faces)


def test_an_object_that_is_not_there_is_refused_and_a_hidden_one_touches_nothing() -> None:
    with pytest.raises(DocumentError, match="no object “bal”"):
        plan_look(*(lambda made: (made, made.looks[0]))(shot(looks=[look("a", layer("l", base_weight={"recipe": recipe(step("contact", to={"object": "bal"}))}))])))  # fmt: skip
    hidden = graph_of(0.6)
    items = [
        item if item.name != "ball" else item.model_copy(update={"visible": False}) for item in hidden.shot.objects
    ]
    graph = FrameGraph(hidden.shot.model_copy(update={"objects": items}), hidden.files._files)
    assert (seen(graph)[1] == 0).all()


def test_it_says_what_it_reads() -> None:
    assert Contact.model_validate({"to": {"object": "a, b: c"}, "end": 0.5}).required_data() == {
        "distance:0.5,surface,a, b: c"
    }


def test_faces_without_size_do_no_harm(monkeypatch: pytest.MonkeyPatch) -> None:
    """A point, a line and a needle among the faces: nothing is raised within the library, and distances are those of the rest."""
    raised: list[object] = []
    monkeypatch.setattr(sys, "unraisablehook", raised.append)
    whole = box(1, 1, 1)
    more = np.array([[0, 0, 0], [0, 1, 2], [5, 5, 6]], np.int32)
    points = np.random.default_rng(4).uniform(-2, 2, (3, 500)).astype(np.float32)
    mesh = make_mesh(whole.vertices, np.concatenate([whole.faces, more[[0, 2]]]), whole.normals)
    here = np.eye(4, dtype=np.float32)[:3]
    found, plain = (placed_surface(each, here).distance(points, 9.0) for each in (mesh, whole))
    assert found == pytest.approx(plain, abs=1e-6) and raised == []


def test_a_hidden_closed_body_shapes_an_effect_where_that_is_asked() -> None:
    """As a falloff of any shape: 1 within a hidden torus and fading about it, in pictures and on meshes, and it follows when it is moved."""
    ring = trimesh.creation.torus(0.5, 0.2, 96, 48)
    files = MadeFiles(
        floor=square(4.0), ring=make_mesh(ring.vertices @ [[1, 0, 0], [0, 0, 1], [0, 1, 0]], ring.faces[:, ::-1])
    )
    contact = step("contact", to={"object": "ring"}, end=0.2, inside="touches", falloff="linear", hidden=True)
    store = DerivedStore()

    def seen(x: float, **ring_item: Any) -> tuple[np.ndarray, np.ndarray, FrameGraph]:
        body = {"name": "ring", "geometry": {"file": "ring"}, "look": "plain", "position": [x, 0, 0], "visible": False}
        made = shot(
            camera={"position": [0, 5, 0.001], "target": [0, 0, 0]},
            signals=[{"name": "s", "recipe": recipe(contact)}],
            looks=[
                look("l", layer("a", recipe(step("signal", signal="s")), base_color=value([1, 0, 0]))),
                look("plain"),
            ],
            objects=[{"name": "floor", "geometry": {"file": "floor"}, "look": "l"}, {**body, **ring_item}],
        )
        graph = FrameGraph(made, files, store)
        batch = graph.gbuffer(48, 48).batch(0)
        return batch.values(graph.plans.of_signal("s"))["value"][0], batch.points.surface.position, graph

    for x in (0.0, 0.7):
        found, at, graph = seen(x)
        # A torus: Hart 1996. Its facets lie a little inside.
        away = np.abs(np.hypot(at[0] - x, at[2]) - 0.5) - 0.2
        assert found == pytest.approx(np.clip(1 - away / 0.2, 0, 1), abs=0.02)
        assert len(graph.scene.instances) == 1, "nothing of it is seen"
        floor = graph.shot.objects[0]
        mesh = graph.shapes.shaped(floor, np.eye(4, dtype=np.float32)[:3])
        corners = store.value(graph.on_mesh("s", floor, mesh, np.eye(4, dtype=np.float32)[:3], "vertex"))[0]
        assert corners.shape == (4,) and corners == pytest.approx(np.zeros(4), abs=1e-6)
    assert seen(0.0, scale=0.5)[0].sum() < 0.6 * seen(0.0)[0].sum()
    shown, at, graph = seen(0.0, visible=True)
    away = np.abs(np.hypot(at[0], at[2]) - 0.5) - 0.2
    assert graph.scene.objects == 2
    assert shown == pytest.approx(np.clip(1 - away / 0.2, 0, 1), abs=0.02), "the same where it is shown"
