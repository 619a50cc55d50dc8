"""The thin lens: how far what is out of focus spreads, and that what is in focus does not."""

import numpy as np
import pytest

from tests.builders import shot
from texallon.core.derived import content_key
from texallon.core.document.camera import Camera
from texallon.core.render.camera.moves import fly
from texallon.core.render.camera.view import camera_rays, make_view

CAMERA = {"position": [0, 0, 5], "target": [0, 0, 0], "focal_length": 50, "film_width": 36}


def rays(f_stop: float, focus: float, samples: int = 400) -> tuple[np.ndarray, np.ndarray]:
    """Rays `(3, n)` of the middle pixel."""
    made = shot(camera={**CAMERA, "f_stop": f_stop, "focus_distance": focus})
    view = make_view(made.camera, 501, 501)
    middle = np.array([250 * 501 + 250], np.int32)
    parts = [camera_rays(view, middle, sample, 3) for sample in range(samples)]
    return np.concatenate([o for o, _ in parts], axis=1), np.concatenate([d for _, d in parts], axis=1)


@pytest.mark.parametrize(("f_stop", "focus", "depth"), [(1.4, 3.0, 6.0), (2.8, 4.0, 2.0), (8.0, 2.0, 40.0)])
def test_the_blur_of_a_point_is_the_thin_lens_formula(f_stop: float, focus: float, depth: float) -> None:
    # Thin-lens geometry: rays through an opening A that meet at depth s spread over A |d − s| / s at depth d.
    origin, direction = rays(f_stop, focus)
    at = origin + direction * ((5 - depth - origin[2]) / direction[2])
    pixel = 2 * 0.36 / 501 * depth  # the pixel's own width there
    expected = 0.05 / f_stop * abs(depth - focus) / focus
    spread = 2 * np.hypot(at[0], at[1]).max()
    assert spread == pytest.approx(expected, rel=0.06, abs=1.5 * pixel)


def test_what_is_in_focus_stays_within_its_pixel() -> None:
    origin, direction = rays(1.0, 3.0)
    at = origin + direction * ((2 - origin[2]) / direction[2])
    pixel = 0.36 * 2 / 501 * 3.0
    assert np.abs(at[:2]).max() < pixel
    assert np.hypot(origin[0], origin[1]).max() == pytest.approx(0.025, rel=0.03), "the whole lens is used"


def test_a_pinhole_has_no_lens() -> None:
    origin, _ = rays(0.0, 3.0, 8)
    assert np.allclose(origin, [[0], [0], [5]])


def test_the_lens_is_covered_evenly() -> None:
    origin, _ = rays(1.0, 3.0, 4000)
    inner = np.hypot(origin[0], origin[1]) < 0.025 / np.sqrt(2)
    assert inner.mean() == pytest.approx(0.5, abs=0.03)


def test_a_smaller_opening_is_a_view_of_its_own() -> None:
    views = [make_view(shot(camera={**CAMERA, "f_stop": f}).camera, 64, 36) for f in (0.0, 2.8, 5.6)]
    assert len({content_key(view) for view in views}) == 3
    assert views[1].sharp.lens == views[0].lens == 0


def test_flying_moves_eye_and_target_alike() -> None:
    camera = Camera(position=(0.0, 1.0, 4.0), target=(0.0, 1.0, 0.0))
    ahead = fly(camera, 0.0, 0.25)
    assert ahead.position == pytest.approx((0, 1, 3)) and ahead.target == pytest.approx((0, 1, -1))
    aside = fly(camera, 0.5, 0.0)
    assert aside.position == pytest.approx((2, 1, 4)) and aside.target == pytest.approx((2, 1, 0))
    assert fly(fly(camera, 0.1, 0.2), -0.1, -0.2).position == pytest.approx(camera.position, abs=1e-4)
