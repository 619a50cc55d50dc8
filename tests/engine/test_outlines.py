"""Falloff shapes over the picture: what is drawn lies where the mask says that the shape and its border end."""

from typing import Any

import numpy as np
import pytest

from tests.builders import layer, look, recipe, run, shot, step
from texallon.core.ops.falloff import Falloff
from texallon.core.ops.falloff_outline import outline
from texallon.core.render.camera.view import make_view
from texallon.engine.outlines import outlines

SHAPES = ["sphere", "box", "capsule", "cylinder", "cone", "plane", "torus"]
MEASURES = {"width": 0.8, "height": 1.3, "depth": 0.5, "ring": 0.2}


@pytest.mark.parametrize("grown", [-0.05, 0.0, 0.3])
@pytest.mark.parametrize("shape", SHAPES)
def test_lines_lie_on_the_shape_and_as_far_from_it_as_they_should(shape: str, grown: float) -> None:
    op = Falloff.model_validate({"shape": shape, **MEASURES})
    lines = outline(op, grown)
    assert lines
    away = np.concatenate([op.distance(line.T.astype(np.float32)) for line in lines])
    # A grown box or cylinder is drawn with its corners, where the distance goes round them.
    assert np.median(away) == pytest.approx(grown, abs=1e-5) or shape in ("box", "cylinder")
    assert (away > grown - 1e-5).all() and (away < grown + abs(grown) * 0.75 + 1e-5).all()


@pytest.mark.parametrize("shape", SHAPES)
def test_what_is_nothing_is_not_drawn(shape: str) -> None:
    op = Falloff.model_validate({"shape": shape, **MEASURES})
    assert all(np.isfinite(line).all() for line in outline(op, -5.0))


def shot_of(*steps: dict[str, Any], **members: Any) -> Any:
    return shot(
        looks=[look("a", layer("l", recipe(*steps)))],
        locators=[{"name": "here", "position": [0.5, 0.2, 0], "scale": 2.0, "rotation": [0, 30, 0]}],
        **members,
    )


AT = "/looks/0/layers/0/where"
AIM = {"camera": {"position": [0, 1, 6], "target": [0, 0, 0], "focal_length": 35}}


def test_it_stands_where_the_mask_is() -> None:
    shape = step("falloff", shape="sphere", width=1.0, border=0.25, origin={"locator": "here"})
    made = shot_of(shape, **AIM)
    view = make_view(made.camera, 640, 360)
    (drawn,) = outlines(made, AT, view)
    x, y, _ = view.project(np.array([0.5, 1.2, 0], np.float32))  # its top: half a metre, twice as large
    top = min((point for line in drawn["lines"] for point in line), key=lambda point: point[1])
    assert top[1] == pytest.approx(y, abs=0.01) and top[0] == pytest.approx(x, abs=0.01)
    data = {"position": np.array([[0.5, 0.5], [1.19, 1.71], [0, 0]])}
    found = run(shape, data=data, locators=[each.model_dump() for each in made.locators])[0]
    assert found == pytest.approx([1.0, 0.0], abs=0.05)
    highest = min(point[1] for line in drawn["faded"] for point in line)
    assert highest == pytest.approx(view.project(np.array([0.5, 1.7, 0], np.float32))[1], abs=0.02)


def test_shapes_in_inner_recipes_and_signals_are_drawn_and_those_of_steps_that_are_off_are_not() -> None:
    ball, off = step("falloff"), {**step("falloff", shape="box"), "on": False}
    inner = step("subtract", by=recipe(step("falloff", shape="cone")))
    signals = [{"name": "s", "recipe": recipe(step("falloff", shape="torus"))}]
    made = shot_of(ball, inner, step("add", by={"signal": "s"}), off, signals=signals, **AIM)
    view = make_view(made.camera, 640, 360)
    assert [each["shape"] for each in outlines(made, AT, view)] == ["sphere", "cone", "torus"]
    assert outlines(made, "", view) == outlines(made, "/looks/7/layers/0/where", view) == []


def test_what_lies_behind_the_camera_or_in_each_objects_own_space_is_not_drawn() -> None:
    behind = shot_of(step("falloff"), camera={"position": [0, 0, 3], "target": [0, 0, 9]})
    assert outlines(behind, AT, make_view(behind.camera, 640, 360)) == []
    own = shot_of(step("falloff", origin="object"), **AIM)
    assert outlines(own, AT, make_view(own.camera, 640, 360)) == []
