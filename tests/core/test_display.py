"""What a screen shows, against the standards and the reference library."""

import colour
import numpy as np
import pytest

from texallon.core.document import Camera
from texallon.core.render.camera.moves import dolly, fit_box, orbit, pan
from texallon.core.render.camera.view import camera_rays, make_view
from texallon.core.render.film.display import VIEWS, data_bytes, exact_view, srgb_curve, view_bytes
from texallon.core.signal.statistics import statistics


def test_the_srgb_curve_is_that_of_the_standard() -> None:
    # IEC 61966-2-1: linear below 0.0031308, joined without a step; against colour-science over the whole range.
    x = np.linspace(0, 1, 4001)
    assert np.allclose(srgb_curve(x), colour.models.eotf_inverse_sRGB(x), atol=1e-7)
    assert srgb_curve(np.array(0.0031308)) == pytest.approx(12.92 * 0.0031308, abs=1e-7)
    assert srgb_curve(np.array([-1.0, 0.0, 1.0, 2.0, np.nan])).tolist() == pytest.approx([0, 0, 1, 1, 0])


def test_the_baked_view_agrees_with_opencolorio() -> None:
    rng = np.random.default_rng(0)
    light = (0.18 * 2.0 ** rng.uniform(-8, 6, (4000, 1)) * rng.uniform(0.05, 1, (4000, 3))).astype(np.float32)
    exact = np.clip(exact_view(light), 0, 1) * 255
    shown = view_bytes(light[None], 0.0)[0].astype(float)
    error = np.abs(shown - exact)
    assert np.quantile(error, 0.99) < 2.0
    assert error.max() < 8.0


def test_exposure_is_in_stops() -> None:
    light = np.full((1, 1, 3), 0.05, np.float32)
    assert np.array_equal(view_bytes(light, 2.0), view_bytes(light * 4, 0.0))


def test_light_that_is_no_number_shows_black() -> None:
    assert view_bytes(np.full((1, 1, 3), np.nan, np.float32), 0.0).max() < 5


def test_data_is_shown_as_it_is() -> None:
    # Common practice, no published source: a mask of one half is shown as the middle grey level, raw.
    assert data_bytes(np.array([-1, 0, 0.5, 1, 2, np.nan, np.inf])).tolist() == [0, 0, 128, 255, 255, 0, 255]


def test_rays_pass_through_the_place_that_a_point_projects_to() -> None:
    camera = Camera(position=(1.0, 2.0, 3.0), target=(0.2, 0.1, -0.3), focal_length=50.0)
    view = make_view(camera, 160, 90)
    pixels = np.array([0, 80, 160 * 45 + 80, 160 * 90 - 1], np.int32)
    origin, direction = camera_rays(view, pixels, 0, 0)
    for i, pixel in enumerate(pixels):
        x, y, depth = view.project(origin[:, i] + direction[:, i] * 5)
        assert depth > 0
        assert 0 <= x * 160 - pixel % 160 <= 1
        assert 0 <= y * 90 - pixel // 160 <= 1


def test_the_field_of_view_is_that_of_film_and_lens() -> None:
    # Pinhole: a 36 mm film behind a 50 mm lens sees 2 atan(18/50) = 39.6° across.
    view = make_view(Camera(position=(0.0, 0.0, 5.0), target=(0.0, 0.0, 0.0), focal_length=50.0), 400, 200)
    x, y, _ = view.project(np.array([5 * 18 / 50, 0, 0], np.float32))
    assert (x, y) == pytest.approx((1.0, 0.5), abs=1e-6)


def test_orbiting_keeps_the_distance_and_never_goes_over_the_top() -> None:
    camera = Camera(position=(1.0, 2.0, 3.0), target=(0.0, 0.5, 0.0))

    def away(each: Camera) -> np.ndarray:
        return np.array(each.position) - np.array(each.target)

    turned = orbit(camera, 0.3, -0.1)
    assert np.linalg.norm(away(turned)) == pytest.approx(np.linalg.norm(away(camera)), rel=1e-4)
    assert orbit(camera, 0, 9).position[1] > 0.5
    assert np.allclose(orbit(camera, 2.0, 0).position, camera.position, atol=1e-4), "two widths are a whole turn"


def test_panning_moves_the_point_at_the_target_with_the_hand() -> None:
    camera = Camera(position=(0.0, 1.0, 4.0), target=(0.0, 0.5, 0.0))
    moved = pan(camera, 0.1, 0.2, 16 / 9)
    x, y, _ = make_view(moved, 1600, 900).project(np.array([0, 0.5, 0], np.float32))
    assert (x, y) == pytest.approx((0.6, 0.7), abs=1e-3)


def test_dollying_goes_towards_the_target_and_back() -> None:
    camera = Camera(position=(0.0, 0.0, 4.0), target=(0.0, 0.0, 0.0))
    assert dolly(camera, np.log(2)).position[2] == pytest.approx(2.0)
    assert dolly(dolly(camera, 0.7), -0.7).position[2] == pytest.approx(4.0, abs=1e-4)


def test_a_framed_box_fits_the_picture() -> None:
    low, high = np.array([-3.0, 0.0, -1.0]), np.array([2.0, 7.0, 4.0])
    view = make_view(fit_box(Camera(), low, high), 1600, 900)
    corners = [(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
    spaces = np.array([view.project(np.array(corner, np.float32))[:2] for corner in corners])
    assert spaces.min() >= 0
    assert spaces.max() <= 1
    assert np.ptp(spaces[:, 1]) > 0.5, "and fills much of it"


def test_statistics_agree_with_numpy() -> None:
    values = np.random.default_rng(1).normal(size=(1, 5000)).astype(np.float32)
    found = statistics(np.concatenate([values, [[np.nan, np.inf]]], axis=1).astype(np.float32))
    assert found.not_finite == 2
    assert (found.low, found.high) == (values.min(), values.max())
    assert found.mean == pytest.approx(values.mean(), abs=1e-6)
    assert (found.inner_low, found.inner_high) == pytest.approx(tuple(np.percentile(values, (2, 98))), abs=1e-6)
    reference, _ = np.histogram(values.astype(np.float64), bins=64)
    assert np.abs(np.array(found.counts) - reference).sum() <= 4, "a value on a bin's edge may fall to either side"


def test_statistics_of_nothing_and_of_one_value() -> None:
    assert statistics(np.full((1, 3), np.nan, np.float32)).count == 0
    same = statistics(np.full((1, 3), 2.0, np.float32))
    assert (same.low, same.high, same.counts[0]) == (2.0, 2.0, 3)


@pytest.mark.parametrize("view", VIEWS)
def test_every_view_is_the_configurations_own(view: str) -> None:
    rng = np.random.default_rng(4)
    light = (0.18 * 2.0 ** rng.uniform(-8, 6, (40, 50, 1)) * rng.uniform(0.05, 1, (40, 50, 3))).astype(np.float32)
    exact = np.clip(exact_view(light, view), 0, 1) * 255
    error = np.abs(view_bytes(light, 0.0, view=view).astype(float) - exact)
    assert np.quantile(error, 0.99) < 2.0


def test_gamma_bends_what_is_shown_and_nothing_else() -> None:
    light = np.full((1, 1, 3), 0.18, np.float32)
    plain, lifted = view_bytes(light, 0.0)[0, 0, 0], view_bytes(light, 0.0, gamma=2.0)[0, 0, 0]
    assert lifted == round(255 * (plain / 255) ** 0.5)
