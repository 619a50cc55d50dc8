"""Copies of objects: each stands where the layout says, and pictures are those of as many objects."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, box, layer, look, recipe, shot, step
from texallon.core.document import DocumentError
from texallon.core.document.array import GridArray, RingArray
from texallon.core.geometry.copies import own_copies
from texallon.core.render.graph import FrameGraph
from texallon.core.render.needs import reckon
from texallon.core.render.render_frame import render_frame

FILES = {"ball": ball(0.2, 16), "box": box(0.3, 0.5, 0.2)}
LOOKS = [look("plain", layer("l", base_color={"recipe": recipe(step("random", per="object"), step("ramp"))}))]
AIM = {"position": [0, 4, 5], "target": [0, 0, 0]}


def item(**members: Any) -> dict[str, Any]:
    return {"name": "thing", "geometry": {"file": "box"}, "look": "plain", **members}


def frames_of(array: GridArray | RingArray) -> np.ndarray:
    return own_copies(array).frames


def test_rows_stand_about_their_place_and_upwards() -> None:
    places = frames_of(GridArray(along="grid", counts=(3, 2, 1), spacing=(0.5, 1.0, 9.0)))
    found = [tuple(each[:3, 3]) for each in places]
    assert found == [(-0.5, 0, 0), (0, 0, 0), (0.5, 0, 0), (-0.5, 1, 0), (0, 1, 0), (0.5, 1, 0)]


@pytest.mark.parametrize("turned", [True, False])
def test_a_ring_is_even_and_each_looks_outwards_where_it_is_turned(turned: bool) -> None:
    places = frames_of(RingArray(along="ring", count=7, radius=2.0, turned=turned))
    at = np.array([each[:3, 3] for each in places])
    assert np.linalg.norm(at, axis=1) == pytest.approx(np.full(7, 2.0))
    assert at.sum(axis=0) == pytest.approx(np.zeros(3), abs=1e-12)
    steps = np.linalg.norm(np.roll(at, -1, axis=0) - at, axis=1)
    assert steps == pytest.approx(np.full(7, 4 * np.sin(np.pi / 7)))  # chords of a circle
    outwards = np.array([each[:3, :3] @ [0, 0, 1] for each in places])
    assert outwards == pytest.approx(at / 2 if turned else np.tile([0, 0, 1], (7, 1)))


@pytest.mark.parametrize(
    "array",
    [{"along": "grid", "counts": [2, 1, 3], "spacing": [0.7, 1, 0.6]}, {"along": "ring", "count": 5, "radius": 0.9}],
)
def test_a_picture_of_copies_is_that_of_as_many_objects(array: dict[str, Any]) -> None:
    placed = {"position": [0.2, 0.1, 0], "rotation": [0, 30, 0], "scale": 1.3}
    plain = [look("plain")]
    copies = shot(objects=[item(array=array, **placed)], looks=plain, camera=AIM)
    scene = FrameGraph(copies, MadeFiles(**FILES)).scene
    assert len({id(mesh) for mesh in scene.meshes}) == 1, "one mesh, held once"
    # Each by itself, placed by a group that stands where the object does.
    layout = frames_of(copies.objects[0].array)
    group = {"name": "g", **placed}
    alone = []
    for number, each in enumerate(layout):
        turn = float(np.degrees(np.arctan2(each[0, 2], each[0, 0])))
        alone.append(
            {
                **item(),
                "name": f"t{number}",
                "belongs_to": "g",
                "position": each[:3, 3].tolist(),
                "rotation": [0, turn, 0],
            }
        )
    many = shot(objects=alone, looks=plain, camera=AIM, object_groups=[group])
    one, other = (render_frame(each, MadeFiles(**FILES), 48, 27, 4, 2).picture() for each in (copies, many))
    assert one == pytest.approx(other, abs=2e-3)
    assert one.std() > 0.01


def test_each_copy_has_a_random_value_of_its_own_and_counts_for_memory() -> None:
    array = {"along": "grid", "counts": [6, 1, 6], "spacing": [0.5, 1, 0.5]}
    made = shot(objects=[item(array=array)], looks=LOOKS, camera=AIM)
    graph = FrameGraph(made, MadeFiles(**FILES))
    assert len(set(graph.scene.numbers.tolist())) == 36
    assert reckon(graph.files, graph.shown, 64, 36).copies == 35


def test_too_many_and_what_is_no_layout_are_refused() -> None:
    for array, words in (
        ({"along": "grid", "counts": [600, 600, 1]}, "360,000 copies; at most 200,000"),
        ({"along": "spiral"}, "along a grid, a ring, the line"),
    ):
        with pytest.raises(DocumentError, match=words):
            shot(objects=[item(array=array)], looks=LOOKS)
