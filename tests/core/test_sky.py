"""The sky against the model it is made by, and facts about skies."""

import numpy as np
import pytest

from tests.builders import MadeFiles, lights_of, shot
from texallon.core.document.sky import Sky
from texallon.core.render.light.sky import directions, luminance_terms, perez, sky_picture, zenith

BRIGHT = np.array([0.2126, 0.7152, 0.0722])


def luminance(**members: float) -> np.ndarray:
    return sky_picture(Sky(**members)) @ BRIGHT


def test_the_zenith_brightens_as_published() -> None:
    # Preetham et al. 1999, eq. for Y_z: worked by hand for turbidity 3 and the sun 45° from the zenith:
    # χ = (4/9 − 3/120) · π/2 = 0.6589; (4.0453·3 − 4.9710)·tan χ − 0.2155·3 + 2.4192 = 7.1649·0.7743 + 1.7727 = 7.321 kcd/m².
    assert zenith(3.0, np.pi / 4)[0] == pytest.approx(7.32, abs=0.02)


def test_a_clear_sky_is_brightest_at_the_sun_and_darkest_across_from_it() -> None:
    # CIE clear sky (ISO 15469): brightest about the sun, darkest about 90° from it on the other side of the zenith.
    picture = luminance(sun_height=40.0, sun_direction=0.0, haze=2.5, stars=0.0)
    way = directions()
    row, column = np.unravel_index(picture.argmax(), picture.shape)
    sun = np.array([0, np.sin(np.radians(40)), -np.cos(np.radians(40))])
    assert np.degrees(np.arccos(way[row, column] @ sun)) < 3
    above = np.where(way[..., 1] > 0.2, picture, np.inf)
    row, column = np.unravel_index(above.argmin(), picture.shape)
    assert 70 < np.degrees(np.arccos(way[row, column] @ sun)) < 110
    assert way[row, column][2] > 0


def test_perez_function_by_hand() -> None:
    # (1 + A e^(B / cos θ)) (1 + C e^(D γ) + E cos² γ) for turbidity 3 (A −0.9269, B −0.6387, C 5.257, D −2.2153, E 0.1693),
    # worked by hand at the zenith (θ 0) and γ 0.7: (1 − 0.9269·0.5280) (1 + 5.257·0.2121 + 0.1693·0.5850) = 0.5106·2.2142.
    assert perez(np.array(1.0), np.array(0.7), *luminance_terms(3.0)) == pytest.approx(1.1306, rel=2e-3)
    # With every term but A's at nothing only the brightening towards the horizon is left.
    only = perez(np.array([1.0, 0.5]), np.array([0.3, 0.3]), 1.0, 1.0, 0.0, 0.0, 0.0)
    assert only == pytest.approx([1 + np.e, 1 + np.e**2])


def test_day_is_blue_above_and_dusk_is_red_at_the_sun() -> None:
    noon = sky_picture(Sky(sun_height=60.0, stars=0.0))
    assert noon[4, :, 2].mean() > 1.3 * noon[4, :, 0].mean()
    dusk = sky_picture(Sky(sun_height=1.0, sun_direction=0.0, stars=0.0))
    at_sun, opposite = dusk[122, 256], dusk[60, 0]
    assert at_sun[0] / at_sun[2] > opposite[0] / opposite[2]


def test_night_falls_by_ten_for_each_two_degrees() -> None:
    means = [luminance(sun_height=-h, stars=0.0).mean() for h in (2.0, 4.0, 6.0)]
    assert means[0] / means[1] == pytest.approx(10, rel=0.01)
    assert means[1] / means[2] == pytest.approx(10, rel=0.01)
    night = luminance(sun_height=-40.0)
    assert 0 < np.median(night) < 0.01
    assert night.max() > 20 * np.median(night), "stars"
    assert luminance(sun_height=-40.0, stars=0.0).max() < 1e-12


def test_the_sun_turns_the_sky() -> None:
    one = luminance(sun_height=30.0, sun_direction=0.0, stars=0.0)
    turned = luminance(sun_height=30.0, sun_direction=90.0, stars=0.0)
    assert np.allclose(np.roll(one, 128, axis=1), turned, rtol=1e-4)


def test_a_shot_is_lit_by_its_sky() -> None:
    made = shot(environment={"sky": {"sun_height": 20.0}, "intensity": 2.0})
    lights = lights_of(made, MadeFiles(), 1.0)
    assert np.allclose(lights.picture, 2 * sky_picture(Sky(sun_height=20.0)))
