"""Parts that a signal picks, and signals at the vertices and faces of meshes: the same values as anywhere else."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import MadeFiles, ball, document, layer, look, recipe, shot, step, value
from texallon.core.document import DocumentError, read_shot
from texallon.core.geometry.mesh_points import MeshPoints
from texallon.core.geometry.picked_parts import picked_parts
from texallon.core.render.camera.pick import Picked, find
from texallon.core.render.graph import FrameGraph
from texallon.core.render.scene.hit_points import point_data
from texallon.core.render.scene.surface import surface_at
from texallon.core.signal.sampling import sample_signal
from texallon.core.signal.sharing import inline, rename, uses

HEIGHT = {"name": "up", "recipe": recipe(step("height"))}
LOOKS = [look("low", layer("l")), look("top", layer("l", base_color=value([1, 0, 0])))]


def thing(**members: Any) -> dict[str, Any]:
    part = {"name": "cap", "look": "top", "picked": {"signal": "up", "above": 0.3}}
    return {"name": "ball", "geometry": {"file": "ball"}, "look": "low", "parts": [part], **members}


def graph_of(item: dict[str, Any], **members: Any) -> FrameGraph:
    made = shot(**{"signals": [HEIGHT], "looks": LOOKS, "objects": [item], **members})
    return FrameGraph(made, MadeFiles(ball=ball()))


@given(st.floats(-2, 2), st.floats(-180, 180), st.floats(0.3, 3))
def test_faces_are_of_the_part_where_the_signal_lies_above_its_level(y: float, turn: float, scale: float) -> None:
    graph = graph_of(thing(position=[0, y, 0], rotation=[turn, 0, 20], scale=scale))
    mesh, matrix = graph.scene.meshes[0], graph.scene.geometry.matrix[0]
    middles = mesh.vertices[mesh.faces].mean(axis=1) @ matrix[:, :3].T + matrix[:, 3]
    clear = np.abs(middles[:, 1] - 0.3) > 1e-4
    assert mesh.part_names == ("all", "cap") and mesh.part_of_face is not None
    assert ((mesh.part_of_face == 1) == (middles[:, 1] > 0.3))[clear].all()


@given(st.data())
def test_a_signal_has_the_values_at_vertices_that_it_has_at_hits_and_at_points(data: st.DataObject) -> None:
    op = data.draw(st.sampled_from([step("noise", size=0.3), step("slope"), step("random"), step("uv"), step("position", space="object"), step("attribute", attribute="heat")]))  # fmt: skip
    mesh = ball()
    mesh = type(mesh)(mesh.vertices, mesh.faces, mesh.normals, mesh.uv, {"heat": mesh.vertices[:, :1]})
    item = thing(position=[0.5, 1.0, 0.0], rotation=[10, 20, 30], scale=1.7, parts=[])
    made = shot(signals=[{"name": "up", "recipe": recipe(op)}], looks=LOOKS, objects=[item])
    graph = FrameGraph(made, MadeFiles(ball=mesh))
    of = graph.files.object_value(made.objects[0])
    values = graph.store.value(graph.on_mesh("up", made.objects[0], of, graph.scene.geometry.matrix[0], "face"))
    faces = data.draw(st.lists(st.integers(0, len(mesh.faces) - 1), min_size=1, max_size=4))
    for face in faces:
        hits = find(graph.scene, Picked("ball", face, (1 / 3, 1 / 3)))
        assert hits is not None
        at = MeshPoints(mesh, graph.scene.geometry.matrix[0], "ball", "face")
        given_data = {"view": at.view[:, [face]], "footprint": at.footprint[:, [face]]}
        needed = frozenset({"position", "normal", "uv", "object_position", "object_id", "attribute:heat", "footprint"})
        here = point_data(graph.scene, hits, surface_at(graph.scene, hits), needed, given_data)
        mine = at.data(needed)
        for name, each in here.items():
            # A face's middle has the mean of its corners' normals, before it is made as long as one.
            assert mine[name][:, [face]] == pytest.approx(each, abs=2e-3 if name == "normal" else 2e-5), name
        arrays = {name: mine[name][:, [face]].T for name in needed if ":" not in name} | {"heat": mine["attribute:heat"][:, [face]].T}  # fmt: skip
        told = sample_signal(read_shot(document(signals=[{"name": "up", "recipe": recipe(op)}], looks=LOOKS)), "low", "up", arrays)  # fmt: skip
        assert values[:, face] == pytest.approx(np.atleast_2d(told.T)[:, 0] if told.ndim > 1 else told, abs=1e-5)


def test_the_footprint_at_a_vertex_is_the_mean_length_of_its_edges_in_the_world() -> None:
    corners = np.array([[0, 0, 0], [3, 0, 0], [0, 4, 0]], np.float32)
    mesh = type(ball())(corners, np.array([[0, 1, 2]], np.int32), np.tile(np.float32([0, 0, 1]), (3, 1)))
    at = MeshPoints(mesh, np.float32([[2, 0, 0, 0], [0, 2, 0, 0], [0, 0, 2, 0]]), "t", "vertex")
    assert at.footprint[0] == pytest.approx([7, 8, 9])
    assert MeshPoints(mesh, np.eye(4)[:3].astype(np.float32), "t", "face").footprint[0] == pytest.approx([6**0.5])


def of_faces(values: Any) -> np.ndarray:
    """Values `(width, f)` over and over, for all faces of the small ball."""
    rows = np.atleast_2d(np.array(values, np.float32))
    return np.stack([np.resize(row, len(SMALL.faces)) for row in rows])


SMALL = ball(rings=4)


def test_of_two_parts_the_last_one_has_the_face_and_what_is_no_number_picks_none() -> None:
    mesh = picked_parts(SMALL, ("a", "b"), (of_faces([1]), of_faces([np.nan, 1, 0, 0.5])), (0.5, 0.5))
    assert mesh.part_names == ("all", "a", "b")
    assert mesh.part_of_face is not None and mesh.part_of_face[:4].tolist() == [1, 2, 1, 1]


def test_a_colour_picks_by_its_luminance() -> None:
    mesh = picked_parts(SMALL, ("a",), (of_faces([[1, 0, 0], [0, 1, 0], [0, 0, 1]]),), (0.5,))
    assert mesh.part_of_face is not None and mesh.part_of_face[:3].tolist() == [0, 1, 0]


def test_a_part_picked_by_a_signal_that_is_not_there_is_refused_at_its_place() -> None:
    item = thing(parts=[{"name": "cap", "look": "top", "picked": {"signal": "upp"}}])
    with pytest.raises(DocumentError, match="no signal “upp”") as caught:
        read_shot(document(signals=[HEIGHT], looks=LOOKS, objects=[item]))
    assert caught.value.problems[0].pointer == "/objects/0/parts/0/picked/signal"
    assert "up" in caught.value.problems[0].hint


def test_a_signal_that_picks_a_part_is_renamed_there_listed_and_not_written_out() -> None:
    made = document(signals=[HEIGHT], looks=LOOKS, objects=[thing()])
    assert [(use.look, use.where) for use in uses(made, "up")] == [("top", "ball · part cap")]
    assert rename(made, "up", "high")["objects"][0]["parts"][0]["picked"]["signal"] == "high"
    with pytest.raises(DocumentError, match="used by “ball · part cap”"):
        inline(made, "up")


def test_what_is_edited_elsewhere_does_not_pick_anew() -> None:
    first = graph_of(thing())
    store = first.store
    _ = first.scene
    other = FrameGraph(
        shot(signals=[HEIGHT], looks=LOOKS, objects=[thing()], camera={"position": [0, 0, 9], "target": [0, 0, 0]}), first.files._files, store
    )  # fmt: skip
    assert other.scene.meshes[0] is first.scene.meshes[0]
