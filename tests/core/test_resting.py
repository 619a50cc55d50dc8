"""Dropping things onto what is below: held to closed forms, from above, from within, on slopes, and where nothing lies below."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import MadeFiles, shot
from texallon.core.render.resting import find_rest

PLANE = {"shape": "plane", "width": 20.0, "depth": 20.0}
FILES = MadeFiles()


def thing(name: str, geometry: dict[str, Any], **members: Any) -> dict[str, Any]:
    return {"name": name, "geometry": geometry, "look": "plain", **members}


@settings(max_examples=15, deadline=None)
@given(st.floats(0.1, 1.5), st.floats(-1.0, 4.0), st.floats(-3, 3), st.floats(-3, 3))
def test_a_box_comes_to_stand_from_above_and_out_of_the_ground(size: float, height: float, x: float, z: float) -> None:
    made = shot(
        objects=[
            thing("floor", PLANE),
            thing("box", {"shape": "box", "width": size, "height": size, "depth": size}, position=[x, height, z]),
        ]
    )
    lowest = min(make_low(made), 0) + height
    found = find_rest(made, frozenset({"box"}), FILES)
    if lowest + size < 0.002:
        return  # wholly below: nothing lies under it
    assert found is not None
    assert found.metres == pytest.approx(lowest, abs=2e-4)
    assert found.normal == pytest.approx((0, 1, 0), abs=1e-4)


def make_low(made: Any) -> float:
    from texallon.core.render.graph import make_scene

    only = made.model_copy(update={"objects": [each for each in made.objects if each.name == "box"]})
    return float(make_scene(only, FILES).meshes[0].vertices[:, 1].min())


@pytest.mark.parametrize("lean", [0.0, 10.0, 25.0, 40.0])
def test_a_ball_rests_upon_a_slope_where_geometry_says(lean: float) -> None:
    """A ball of radius r whose centre is h above a plane that leans by a: it goes down h − r / cos a (by the plane's distance)."""
    radius, height = 0.5, 3.0
    made = shot(
        objects=[
            thing("slope", PLANE, rotation=[0, 0, lean]),
            thing("ball", {"shape": "sphere", "radius": radius, "segments": 128}, position=[0, height, 0]),
        ]
    )
    found = find_rest(made, frozenset({"ball"}), FILES)
    centre = height + (0.0 if abs(make_middle(made)) < 1e-6 else make_middle(made))
    assert found is not None
    assert found.metres == pytest.approx(centre - radius / np.cos(np.radians(lean)), abs=4e-3)
    up = np.array([-np.sin(np.radians(lean)), np.cos(np.radians(lean)), 0])
    assert found.normal == pytest.approx(up, abs=5e-3)


def make_middle(made: Any) -> float:
    from texallon.core.render.graph import make_scene

    only = made.model_copy(update={"objects": [each for each in made.objects if each.name == "ball"]})
    low, high = make_scene(only, FILES).meshes[0].bounds
    return float(low[1] + high[1]) / 2


def test_a_wide_thing_rests_on_a_small_one_that_stands_between_its_corners() -> None:
    board = {"shape": "box", "width": 4.0, "height": 0.1, "depth": 4.0, "segments": 1}
    pebble = {"shape": "sphere", "radius": 0.2, "segments": 64}
    made = shot(
        objects=[
            thing("floor", PLANE),
            thing("pebble", pebble, position=[0.3, 0.0, 0.2]),
            thing("board", board, position=[0, 2, 0]),
        ]
    )
    found = find_rest(made, frozenset({"board"}), FILES)
    alone = shot(objects=[thing("floor", PLANE), thing("board", board, position=[0, 2, 0])])
    other = find_rest(alone, frozenset({"board"}), FILES)
    assert found is not None and other is not None
    only = shot(objects=[thing("floor", PLANE), thing("pebble", pebble, position=[0.3, 0.0, 0.2])])
    top = 100 - find_rest(only, frozenset(), FILES, np.array([0.3, 100.0, 0.2])).metres  # type: ignore[union-attr]
    assert other.metres - found.metres == pytest.approx(top, abs=2e-3)


def test_nothing_below_and_a_point() -> None:
    made = shot(objects=[thing("floor", PLANE), thing("box", {"shape": "box"}, position=[50, 3, 0])])
    assert find_rest(made, frozenset({"box"}), FILES) is None
    assert find_rest(made, frozenset({"floor", "box"}), FILES) is None
    found = find_rest(made, frozenset(), FILES, np.array([1.0, 2.5, 0.0]))
    assert found is not None and found.metres == pytest.approx(2.5, abs=1e-4)
