"""Velocities in pixels a frame, against differences of where things are projected to, worked out here."""

import numpy as np
import pytest

from tests.builders import MadeFiles
from tests.core.test_shutter import ACROSS, SIZE, card, keys, moving
from texallon.core.document import Shot
from texallon.core.document.resolved import resolve
from texallon.core.geometry.mesh import make_mesh
from texallon.core.render.graph import FrameGraph
from texallon.core.render.velocity import velocity_pass

METRE = SIZE[0] / ACROSS
"""Pixels at the origin."""


def velocities(made: Shot, frame: float = 10, **files: object) -> np.ndarray:
    return velocity_pass(FrameGraph(resolve(made, frame), MadeFiles(**files)), *SIZE)


MIDDLE = (SIZE[1] // 2, SIZE[0] // 2)


def test_a_thing_that_slides_moves_by_its_pixels_and_what_stands_does_not() -> None:
    tracks = [keys("/objects/aa/position/0", (1, -18), (19, 18)), keys("/objects/aa/position/1", (1, 9), (19, -9))]
    found = velocities(moving(tracks), thing=card(1.0, 1.0))
    assert found[MIDDLE] == pytest.approx([2 * METRE, METRE], rel=1e-4)
    assert not found[0].any()


def test_a_thing_that_turns_moves_by_the_chord_of_its_way() -> None:
    turn = np.radians(10)
    found = velocities(moving([keys("/objects/aa/rotation/2", (1, -90), (19, 90))]), thing=card(3.0, 2.0))
    height, width = SIZE[1], SIZE[0]
    x = (np.arange(width) + 0.5 - width / 2)[None, :] + 0 * found[:, :, 0]
    y = (np.arange(height) + 0.5 - height / 2)[:, None] + 0 * found[:, :, 0]
    on = found.any(axis=2)
    # Half a turn before and after: the difference of two rotations is 2 sin(φ/2) across the radius; y points down in the picture.
    expected = np.stack([y, -x], axis=2) * 2 * np.sin(turn / 2)
    assert on.sum() > 1000
    assert np.abs(found - expected)[on].max() < 0.2  # samples lie anywhere within their pixels


def test_a_dolly_makes_all_flow_from_the_middle() -> None:
    # A wall at distance d, approached at v: a point at r pixels moves by r·d·(1/(d − v/2) − 1/(d + v/2)).
    found = velocities(moving([keys("/camera/position/2", (1, 19), (19, 1))]), thing=card(9.0, 9.0))
    factor = 10 * (1 / 9.5 - 1 / 10.5)
    x = np.arange(SIZE[0]) + 0.5 - SIZE[0] / 2
    assert np.abs(found[MIDDLE[0], :, 0] - x * factor).max() < 0.06


def test_what_lies_behind_everything_moves_as_the_camera_turns_not_as_it_goes() -> None:
    going = [keys(f"/camera/{what}/0", (1, -9), (19, 9)) for what in ("position", "target")]
    assert np.abs(velocities(moving(going), thing=card(0.1, 0.1))[0]).max() < 1e-3
    turning = [keys("/camera/target/0", (1, -9), (19, 9))]
    # The target moves by a metre at ten metres' distance: all moves to the left by 24 pixels in the middle.
    found = velocities(moving(turning), thing=card(0.1, 0.1))
    assert found[0, MIDDLE[1], 0] == pytest.approx(-METRE, rel=0.03)


def test_what_bends_and_what_is_gone() -> None:
    tracks = [keys("/objects/aa/position/0", (1, -9), (19, 9))]
    one, two = card(1.0, 1.0), card(1.0, 1.0)
    stretched = make_mesh(np.add(one.vertices, [0, 0.5, 0]), one.faces)
    item = {"id": "aa", "name": "thing", "geometry": {"file": "a"}, "look": "glow"}
    files = {"files": [{"file": "a"}, {"file": "b"}], "first": 10}
    made = moving([], objects=[item | {"sequence": files}])
    # Held before frame 10, on its way to half a metre higher afterwards: half of that within half a frame.
    assert velocities(made, a=one, b=stretched)[MIDDLE] == pytest.approx([0, -0.25 * METRE], rel=1e-3)
    finer = make_mesh(np.vstack([two.vertices, [[0, 0, 0]]]), [[0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4]])
    gone = moving(tracks, objects=[item | {"sequence": files | {"first": 9}}])
    assert np.isfinite(velocities(gone, frame=9.7, a=one, b=finer)).all()


def test_what_does_not_blur_has_no_velocity_of_its_own() -> None:
    item = {"id": "aa", "name": "thing", "geometry": {"file": "thing"}, "look": "glow", "blurs": False}
    tracks = [keys("/objects/aa/position/0", (1, -18), (19, 18))]
    assert not velocities(moving(tracks, objects=[item]), thing=card(1.0, 1.0)).any()
