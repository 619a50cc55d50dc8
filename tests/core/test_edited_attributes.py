"""Stored attributes under other names and in other ranges, through the real document to what a look reads."""

from typing import Any

import colour
import numpy as np
import pytest

from tests.builders import MadeFiles, gbuffer_of, layer, look, recipe, shot, square, step
from texallon.core.document import DocumentError
from texallon.core.document.attribute_edit import AttributeEdit
from texallon.core.geometry.edited_attributes import edited_attributes
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.render.graph import FrameGraph
from texallon.core.signal.look_plan import plan_look

SHEET = square(2.0)
COLOURS = np.array([[0.1, 0.5, 0.9], [1, 0, 0], [0.2, 0.2, 0.2], [0, 1, 0.5]], np.float32)
HEAT = np.array([300, 600, 900, 1500], np.float32)
MESH = make_mesh(SHEET.vertices, SHEET.faces, None, None, {"Cd": COLOURS, "temp": HEAT})


def edited(*edits: dict[str, Any]) -> Mesh:
    return edited_attributes(MESH, tuple(AttributeEdit.model_validate(each) for each in edits))


def test_another_name_and_range() -> None:
    made = edited(
        {"attribute": "temp", "name": "heat", "from_start": 300, "from_end": 1500, "to_start": 1, "to_end": 0}
    )
    assert made.attributes["heat"][:, 0] == pytest.approx(1 - (HEAT - 300) / 1200)
    assert made.attributes["temp"][:, 0] == pytest.approx(HEAT), "the file's own stays"


@pytest.mark.parametrize(
    ("part", "wanted"),
    [
        ("x", COLOURS[:, :1]), ("z", COLOURS[:, 2:3]), ("w", np.zeros((4, 1))), ("all", COLOURS),
        ("length", np.linalg.norm(COLOURS, axis=1, keepdims=True)),
        ("luminance", COLOURS @ np.array([[0.2126], [0.7152], [0.0722]])),  # ITU-R BT.709
        ("painted colour", colour.models.eotf_sRGB(COLOURS)),  # of the reference library
    ],
)  # fmt: skip
def test_another_kind(part: str, wanted: np.ndarray) -> None:
    assert edited({"attribute": "Cd", "name": "n", "part": part}).attributes["n"] == pytest.approx(wanted, abs=1e-5)


def test_a_later_one_takes_up_an_earlier_and_what_is_not_there_makes_nothing() -> None:
    made = edited(
        {"attribute": "Cd", "name": "red", "part": "x"},
        {"attribute": "red", "name": "more", "to_end": 10},
        {"attribute": "Cf", "name": "none"},
    )
    assert made.attributes["more"][:, 0] == pytest.approx(10 * COLOURS[:, 0])
    assert "none" not in made.attributes
    assert edited_attributes(MESH, ()) is MESH


def test_a_look_reads_it_and_each_object_has_its_own() -> None:
    reads = {"recipe": recipe(step("attribute", attribute="heat"))}
    edit = {"attribute": "temp", "name": "heat", "from_end": 2000}
    items = [
        {"name": "a", "geometry": {"file": "m"}, "look": "l", "attributes": [edit]},
        {"name": "b", "geometry": {"file": "m"}, "look": "l", "position": [0, -1, 0], "scale": 5.0},
    ]
    aim = {"position": [0, 6, 0.01], "target": [0, 0, 0], "focal_length": 40}
    made = shot(looks=[look("l", layer("x", base_weight=reads))], objects=items, camera=aim)
    graph = FrameGraph(made, MadeFiles(m=MESH))
    batch = gbuffer_of(graph.scene, made, 32, 24).batch(0)
    found = batch.values(plan_look(made, made.looks[0]))["base_weight"][0]
    assert found[batch.instance == 0].min() >= 300 / 2000 - 1e-4 and found[batch.instance == 0].max() <= 0.76
    assert (found[batch.instance == 1] == 0).all(), "the other object carries none of that name"


def test_a_range_that_is_none_is_refused_at_its_place() -> None:
    edit = {"attribute": "temp", "name": "heat", "from_start": 1, "from_end": 1}
    with pytest.raises(DocumentError, match="/objects/0/attributes/0"):
        shot(looks=[look("l")], objects=[{"name": "a", "geometry": {"file": "m"}, "look": "l", "attributes": [edit]}])
