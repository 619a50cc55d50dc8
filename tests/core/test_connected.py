"""Parts by connectivity, held to trimesh's own splitting."""

import numpy as np
import pytest
import trimesh

from tests.builders import MadeFiles, ball, box, shot
from texallon.core.geometry.connected import MOST, connected_parts
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.render.camera.pick import pick, read_point
from texallon.core.render.graph import FrameGraph
from texallon.demo.carving import joined
from texallon.demo.pods import glass_pods, pod_stalks


def parts(mesh: Mesh) -> Mesh:
    return FrameGraph(shot(), MadeFiles()).store.value(connected_parts.of(mesh))


def apart(count: int) -> Mesh:
    """Boxes beside each other."""
    b = box(1, 1, 1)
    places = [b.vertices + np.array([3.0 * number, 0, 0]) for number in range(count)]
    return joined([make_mesh(place, b.faces, b.normals, np.zeros((len(place), 2))) for place in places])


@pytest.mark.parametrize(
    "mesh", [ball(), box(1, 2, 3), apart(5), glass_pods(), pod_stalks()], ids=lambda m: str(len(m.faces))
)
def test_the_same_pieces_as_trimesh_finds(mesh: Mesh) -> None:
    made = parts(mesh)
    welded = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    welded.merge_vertices(merge_norm=True, merge_tex=True)
    # Faces without an area have no neighbours for trimesh; they are left out of both.
    whole = welded.nondegenerate_faces()
    assert made.part_of_face is not None
    ours = np.bincount(made.part_of_face[whole])
    welded.update_faces(whole)
    nodes = np.arange(len(welded.faces))
    found = trimesh.graph.connected_components(welded.face_adjacency, nodes=nodes, min_len=1)
    assert sorted(ours.tolist()) == sorted(len(group) for group in found)
    assert len(made.part_names) == len(found)
    sizes = np.bincount(made.part_of_face)
    assert sizes[0] == sizes.max(), "the largest comes first"


def test_very_many_pieces_end_in_one_for_the_rest() -> None:
    made = parts(apart(MOST + 20))
    assert len(made.part_names) == MOST + 1 and made.part_names[-1] == "other pieces"
    assert made.part_of_face is not None and (np.bincount(made.part_of_face)[:MOST] == 12).all()


def test_a_piece_wears_a_look_of_its_own() -> None:
    item = {"name": "o", "geometry": {"file": "two"}, "look": "a", "parts_by": "connected", "parts": [{"name": "piece 2", "look": "b"}]}  # fmt: skip
    looks = [{"name": name, "layers": [{"name": "l"}]} for name in "ab"]
    scene = FrameGraph(shot(objects=[item], looks=looks), MadeFiles(two=apart(2))).scene
    assert scene.geometry.look_of_part.tolist() == [[0, 1]]


def test_the_part_that_is_clicked_is_told() -> None:
    things = [{"name": "row", "geometry": {"file": "row"}, "look": "plain", "parts_by": "connected"}]
    made = shot(objects=things, camera={"position": [3.0, 0.3, 14.0], "target": [3.0, 0.0, 0.0]})
    graph = FrameGraph(made, MadeFiles(row=apart(3)))
    view, told = graph.view(160, 90), []
    for number in range(3):
        x, y, _ = view.project(np.array([3.0 * number + 0.05, 0.05, 0.5], np.float32))
        picked = pick(graph.scene, view, x, y, False)
        assert picked is not None
        found = read_point(made, graph.scene, view, picked)
        assert found is not None
        told.append(found.part)
    assert len(set(told)) == 3 and "" not in told
    assert set(told) <= set(graph.scene.meshes[0].part_names)
    alone = FrameGraph(shot(objects=[{"name": "b", "geometry": {"file": "b"}, "look": "plain"}]), MadeFiles(b=ball()))
    picked = pick(alone.scene, alone.view(40, 30), 0.5, 0.5, False)
    assert picked is None or read_point(alone.shot, alone.scene, alone.view(40, 30), picked).part == ""  # type: ignore[union-attr]
