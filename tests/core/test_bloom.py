"""Bloom moves light about and makes none."""

import numpy as np
import pytest

from texallon.core.document.bloom import Bloom
from texallon.core.render.film.bloom import BLOCK, bloomed, glow, interpolated, light_above, spread


def star(height: int = 121, width: int = 181, light: float = 500.0) -> np.ndarray:
    picture = np.full((height, width, 3), 0.1, np.float32)
    picture[height // 2, width // 2] = [light, light / 2, light / 4]
    return picture


@pytest.mark.parametrize("radius", [0.5, 3.0, 20.0])
def test_a_glow_adds_up_to_one(radius: float) -> None:
    assert glow(radius, 80).sum() == pytest.approx(1.0, rel=1e-12)


@pytest.mark.parametrize("intensity", [0.1, 1.0])
def test_energy_is_conserved(intensity: float) -> None:
    # A bright point amid a wide dark picture: all of its light stays within it.
    picture = star()
    found = bloomed(picture, Bloom(intensity=intensity, threshold=1.0, size=0.01))
    assert found.sum(dtype=np.float64) == pytest.approx(picture.sum(dtype=np.float64), rel=1e-3)
    assert found.max() < picture.max()
    assert found.min() >= 0.0999


def test_what_lies_below_the_threshold_is_left_alone() -> None:
    picture = np.random.default_rng(0).uniform(0, 0.9, (40, 60, 3)).astype(np.float32)
    for rough in (False, True):
        assert bloomed(picture, Bloom(intensity=0.8, threshold=1.0), rough) is picture, (
            "nothing is transformed for nothing"
        )
    assert bloomed(picture, Bloom()) is picture


def test_the_glow_has_the_colour_of_its_light_and_falls_with_distance() -> None:
    found = bloomed(star(), Bloom(intensity=0.5, threshold=1.0, size=0.03)) - np.float32(0.1)
    row = found[60, 91:150]
    assert (np.diff(row[:25, 0]) < 0).all()
    assert row[20, 0] / row[20, 1] == pytest.approx(2.0, rel=0.01)


def test_the_fourier_transform_is_a_plain_convolution() -> None:
    light = np.zeros((15, 17, 3), np.float32)
    light[4, 9], light[11, 2] = 3.0, 1.0
    kernel = glow(1.5, 9)
    found = spread(light, 1.5)
    expected = np.zeros((15, 17))
    for y in range(15):
        for x in range(17):
            for (j, i), value in (((4, 9), 3.0), ((11, 2), 1.0)):
                if abs(y - j) <= 9 and abs(x - i) <= 9:
                    expected[y, x] += value * kernel[y - j + 9, x - i + 9]
    assert np.allclose(found[:, :, 0], expected, atol=1e-8)


@pytest.mark.parametrize("size", [(60, 90), (61, 91)])
def test_a_rough_glow_has_the_same_energy_and_nearly_the_same_shape(size: tuple[int, int]) -> None:
    light = np.zeros((*size, 3), np.float32)
    light[30, 40] = 5.0
    blocks = light_above(light, Bloom(intensity=1, threshold=0), BLOCK)
    assert blocks.sum() == light.sum()
    fine, rough = spread(light, 6.0), interpolated(spread(blocks, 6.0 / BLOCK), *size)
    assert rough.sum() == pytest.approx(fine.sum(), rel=0.02)
    assert np.abs(rough - fine).sum() < 0.25 * fine.sum()


def test_odd_light_does_no_harm() -> None:
    picture = star()
    picture[3, 3] = np.nan
    picture[5, 5] = np.inf
    found = bloomed(picture, Bloom(intensity=0.5))
    assert np.isfinite(np.delete(found.reshape(-1, 3), [3 * 181 + 3, 5 * 181 + 5], axis=0)).all()


def test_a_glow_ends_in_a_circle_and_without_an_edge() -> None:
    # A square of light about a lamp was seen on coarse pictures: the tail was cut off where it still had a share in a thousand.
    kernel = glow(4.0, 24)
    line = np.arange(-24, 25)
    away = np.hypot(line[:, None], line[None, :])
    assert (kernel[away > 24] == 0).all()
    across = kernel[24, 24:] / kernel[24, 24]
    assert (np.diff(across) <= 0).all() and across[-2] < 1e-4
    # Up to half of its reach it is the published shape.
    near = away <= 12
    assert kernel[near] / kernel[24, 24] == pytest.approx((1 + away[near] ** 2 / 16) ** -1.5, rel=1e-9)
