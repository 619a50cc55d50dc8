"""What advice finds out about the scene itself: shells that are looked through, and lamps that are shut in."""

from dataclasses import replace
from typing import Any, cast

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, box, layer, look, shot, square, value
from texallon.core.advice.look_around import AROUND, _directions, look_around
from texallon.core.render.camera.view import make_view
from texallon.core.render.graph import make_scene

FILES = MadeFiles(floor=square(20, -1), ball=ball(1.0, 24), box=box(2, 2, 2))
GLASS = look("glass", layer("g", transmission_weight=value(1.0)))
LACE = look("lace", layer("c", geometry_opacity=value(0.5)))
STONE = look("stone", layer("s", base_color=value([0.3, 0.3, 0.3])))


def shells(*nested: tuple[str, float], **members: Any) -> tuple[int, int]:
    """Boundaries by kind, of balls of some looks and sizes about the origin, seen from close by."""
    objects = [
        {"name": f"b{n}", "geometry": {"file": "ball"}, "look": worn, "scale": size}
        for n, (worn, size) in enumerate(nested)
    ]
    made = shot(
        camera={"position": [0, 0, 4], "target": [0, 0, 0], "focal_length": 200},
        objects=objects,
        looks=[GLASS, LACE, STONE],
        **members,
    )
    found = look_around(made, make_scene(made, FILES), make_view(made.camera, 64, 36))
    return found.through, found.cut_out


def test_a_ball_is_met_going_in_and_coming_out() -> None:
    assert shells(("glass", 1.0)) == (2, 0)
    assert shells(("lace", 1.0)) == (0, 2)
    assert shells(("glass", 1.0), ("glass", 0.8), ("lace", 0.6)) == (4, 2)


def test_what_is_opaque_ends_the_counting() -> None:
    assert shells(("glass", 1.0), ("stone", 0.8), ("glass", 0.5)) == (1, 0)
    assert shells(("stone", 1.0), ("glass", 0.5)) == (0, 0)


def test_with_nothing_clear_nothing_is_traced() -> None:
    made = shot(looks=[STONE], objects=[{"name": "b", "geometry": {"file": "ball"}, "look": "stone"}])

    untouched = replace(make_scene(made, FILES), rays=cast(Any, None))  # no ray is needed
    found = look_around(made, untouched, make_view(made.camera, 16, 9))
    assert (found.through, found.cut_out, found.shut_in) == (0, 0, {})


def shut_in(worn: str, camera: tuple[float, float, float] = (0, 0, 6), **light: Any) -> dict[str, str]:
    lamp = {"name": "lamp", "shape": "sphere", "width": 0.2, "position": [0, 0, 0], "target": [0, 0, 1], **light}
    made = shot(
        camera={"position": list(camera), "target": [0, 0, 0.5]},
        objects=[{"name": "case", "geometry": {"file": "box"}, "look": worn}],
        looks=[GLASS, LACE, STONE],
        lights=[lamp],
    )
    return look_around(made, make_scene(made, FILES), make_view(made.camera, 32, 18)).shut_in


def test_a_lamp_in_a_stone_box_is_shut_in_and_the_box_is_named() -> None:
    assert shut_in("stone") == {"lamp": "case"}
    assert shut_in("stone", shape="point") == {"lamp": "case"}


@pytest.mark.parametrize("worn", ["glass", "lace"])
def test_what_lets_light_out_shuts_nothing_in(worn: str) -> None:
    assert shut_in(worn) == {}


def test_a_camera_in_the_same_room_sees_its_lamp() -> None:
    assert shut_in("stone", camera=(0.5, 0.2, 0.7)) == {}


@pytest.mark.parametrize("more", [{"on": False}, {"power": 0}, {"shape": "sun"}, {"position": [0, 3, 0]}])
def test_lamps_that_do_not_shine_or_stand_outside_are_passed_over(more: dict[str, Any]) -> None:
    assert shut_in("stone", **more) == {}


def test_lamps_are_looked_out_from_in_all_directions() -> None:
    way = _directions()
    assert way.shape == (3, AROUND)
    assert np.linalg.norm(way, axis=0) == pytest.approx(1.0, abs=1e-6)
    assert way.mean(axis=1) == pytest.approx([0, 0, 0], abs=0.02)
    # No direction is farther than 25° from one that is looked along: 48 caps of that size cover the sphere more than twice.
    anywhere = np.random.default_rng(0).normal(size=(3, 4000))
    anywhere /= np.linalg.norm(anywhere, axis=0)
    assert (anywhere.T @ way).max(axis=1).min() > np.cos(np.radians(25))
