"""A file for each frame, whose counts may differ; and texture coordinates that are made."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, box, layer, look, shot, square, value
from texallon.core.derived import content_key
from texallon.core.document import DocumentError
from texallon.core.document.object import FileRef, Sequence
from texallon.core.document.resolved import resolve
from texallon.core.geometry.mesh import MeshError, make_points
from texallon.core.geometry.unfolded import unfolded
from texallon.core.render.graph import FrameGraph

FILES = {f"f{k}": ball(0.2 + 0.1 * k, 8 + k) for k in range(4)}
LOOK = look("l", layer("a", base_color=value([0.5, 0.5, 0.5])))


@pytest.mark.parametrize(
    ("beyond", "expected"),
    [("hold", "000123333333"), ("loop", "230123012301"), ("swing", "210123210123")],
)
def test_before_and_after_its_files_it_holds_begins_anew_or_turns(beyond: str, expected: str) -> None:
    sequence = Sequence(files=[FileRef(file=name) for name in FILES], first=3, beyond=beyond)
    assert "".join(sequence.at(frame).file[1] for frame in range(1, 13)) == expected
    assert sequence.at(4.4).file == sequence.at(4).file and sequence.at(4.6).file == sequence.at(5).file


def test_each_frame_has_the_counts_of_its_own_file() -> None:
    files = [{"file": name} for name in FILES]
    item = {"name": "x", "geometry": files[0], "look": "l", "sequence": {"files": files}}
    document = {"objects": [item], "looks": [LOOK], "frames": {"first": 1, "last": 4, "rate": 24}}
    from tests.builders import document as whole
    from texallon.core.document import read_shot

    read = read_shot(whole(**document))
    counts = [
        len(FrameGraph(resolve(read, frame), MadeFiles(**FILES)).scene.distinct[0].faces) for frame in range(1, 5)
    ]
    assert counts == [len(FILES[f"f{k}"].faces) for k in range(4)] and len(set(counts)) == 4


def test_a_sequence_of_nothing_is_refused() -> None:
    item = {"name": "x", "geometry": {"file": "f0"}, "look": "l", "sequence": {"files": []}}
    with pytest.raises(DocumentError, match="/objects/0/sequence/files"):
        shot(objects=[item], looks=[LOOK])


@pytest.mark.parametrize("mesh", [ball(0.7, 20), box(1, 2, 3), square(2.0)], ids=["ball", "box", "square"])
def test_an_unfolded_surface_covers_its_map_once_and_keeps_its_faces(mesh: Any) -> None:
    made = unfolded(mesh)
    assert made.vertices[made.faces] == pytest.approx(mesh.vertices[mesh.faces])
    assert made.uv is not None and made.uv.min() >= 0 and made.uv.max() <= 1
    corner = made.uv[made.faces].astype(float)
    side, other = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
    flat = np.abs(side[:, 0] * other[:, 1] - side[:, 1] * other[:, 0]) / 2
    assert 0.2 < flat.sum() <= 1.0001
    # No two faces lie over each other: points within one are within no other.
    middle = corner.mean(axis=1)[::7]
    inside = np.zeros(len(middle), int)
    for a, b, c in corner:
        area = (b - a)[0] * (c - a)[1] - (b - a)[1] * (c - a)[0]
        if abs(area) < 1e-14:
            continue
        p = middle - a
        u = (p[:, 0] * (c - a)[1] - p[:, 1] * (c - a)[0]) / area
        v = ((b - a)[0] * p[:, 1] - (b - a)[1] * p[:, 0]) / area
        inside += (u > 1e-6) & (v > 1e-6) & (u + v < 1 - 1e-6)
    assert (inside == 1).all()
    # Little is stretched: a face's share of the map is its share of the surface.
    world = mesh.vertices[mesh.faces].astype(float)
    area = np.linalg.norm(np.cross(world[:, 1] - world[:, 0], world[:, 2] - world[:, 0]), axis=1) / 2
    share = (flat / flat.sum()) / (area / area.sum())
    assert np.average(np.abs(share - 1), weights=area) < 0.35


def test_unfolding_is_asked_for_by_the_document_and_refused_in_words() -> None:
    item = {"name": "x", "geometry": {"file": "f0"}, "look": "l", "uv": "unfolded"}
    scene = FrameGraph(shot(objects=[item], looks=[LOOK]), MadeFiles(**FILES)).scene
    assert scene.distinct[0].uv is not None
    with pytest.raises(MeshError, match="no surface to be unfolded"):
        unfolded(make_points([[0, 0, 0]]))
    with pytest.raises(MeshError, match="at most 60,000"):
        unfolded(ball(1.0, 140))


def between(share: float, *files: str, frame: float = 1) -> Any:
    from tests.builders import document as whole
    from texallon.core.document import read_shot

    item = {"name": "x", "geometry": {"file": files[0]}, "look": "l", "sequence": {"files": [{"file": f} for f in files]}}  # fmt: skip
    read = read_shot(whole(objects=[item], looks=[LOOK], frames={"first": 1, "last": 4, "rate": 10}))
    return resolve(read, frame + share)


@pytest.mark.parametrize("share", [0.0, 0.25, 0.5, 0.75])
def test_a_mesh_between_two_files_of_the_same_faces_lies_on_the_line_between(share: float) -> None:
    one, two = square(1.0), square(3.0, 2.0)
    files = MadeFiles(a=one, b=two)
    scene = FrameGraph(between(share, "a", "b"), files).scene
    expected = one.vertices * (1 - share) + two.vertices * share
    assert scene.distinct[0].vertices == pytest.approx(expected)
    keys = {FrameGraph(between(each, "a", "b"), files).scene_value.content_key for each in (0.0, 0.2, 0.3, 0.7)}
    assert len(keys) == 4
    assert len({content_key(between(each, "a", "b").objects[0]) for each in (0.0, 0.2, 0.3, 0.7)}) == 4


def test_of_files_with_other_faces_the_nearer_is_taken() -> None:
    files = MadeFiles(**FILES)
    for share, name in ((0.4, "f0"), (0.6, "f1")):
        scene = FrameGraph(between(share, "f0", "f1"), files).scene
        assert np.array_equal(scene.distinct[0].vertices, FILES[name].vertices)


def test_particles_are_followed_by_their_ids_and_else_by_their_velocity() -> None:
    from texallon.core.geometry.between import mesh_between

    before = make_points([[0, 0, 0], [1, 0, 0], [2, 0, 0]], {"id": [7, 8, 9], "velocity": [[0, 5, 0]] * 3})
    after = make_points([[3, 1, 0], [0, 1, 0], [5, 5, 5], [6, 6, 6]], {"id": [8, 7, 11, 12]})
    early, late = mesh_between(before, after, 0.25, 0.1), mesh_between(before, after, 0.75, 0.1)
    # 7 and 8 are on their way to where they will be; 9 has no partner and moves 5 m/s · 0.025 s.
    assert early.vertices == pytest.approx(np.array([[0, 0.25, 0], [1.5, 0.25, 0], [2, 0.125, 0]]))
    assert late.vertices == pytest.approx(np.array([[2.5, 0.75, 0], [0, 0.75, 0], [5, 5, 5], [6, 6, 6]]))
    # Without ids: the same order where there are equally many, else they stand.
    plain, moved = make_points([[0, 0, 0], [1, 0, 0]]), make_points([[0, 4, 0], [1, 0, 4]])
    assert mesh_between(plain, moved, 0.5, 1.0).vertices == pytest.approx(np.array([[0, 2, 0], [1, 0, 2]]))
    assert mesh_between(plain, after, 0.3, 1.0).vertices == pytest.approx(plain.vertices)
