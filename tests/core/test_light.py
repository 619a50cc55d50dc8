"""Lights and random numbers: what is chosen, how often, and how bright it is."""

from math import pi
from typing import Any

import numpy as np
import pytest
from scipy import stats
from scipy.spatial.transform import Rotation

from tests.builders import MadeFiles, lights_of, shot
from texallon.core.kernel import allocating
from texallon.core.random_numbers import uniform4
from texallon.core.render.light.environment import (
    environment_colours,
    environment_pdf,
    environment_uv,
    sample_environment,
)
from texallon.core.render.light.lamps import AREA, RADIANCE
from texallon.core.render.scene.lamp_shapes import lamp_mesh
from texallon.core.signal.placement import locator_matrix, object_matrix, placement


def sky_picture() -> np.ndarray:
    picture = np.random.default_rng(0).random((16, 32, 3)).astype(np.float32) ** 4
    picture[3, 5] = 40.0
    return picture


def under_sky(**members: object) -> Any:
    return lights_of(shot(**members), MadeFiles(sky=sky_picture()), 2.0)


@allocating
def many_directions(
    rows: np.ndarray, columns: np.ndarray, pdf: np.ndarray, rotation: float, count: int
) -> tuple[np.ndarray, np.ndarray]:
    ways, chances = np.empty((3, count), np.float32), np.empty(count)
    for i in range(count):
        u, v, _, _ = uniform4(i, 0, 0, 1)
        ways[0, i], ways[1, i], ways[2, i], _, _, chances[i] = sample_environment(rows, columns, pdf, rotation, u, v)
    return ways, chances


@allocating
def densities(ways: np.ndarray, pdf: np.ndarray, rotation: float) -> np.ndarray:
    out = np.empty(ways.shape[1])
    for i in range(ways.shape[1]):
        u, v = environment_uv(ways[0, i], ways[1, i], ways[2, i], rotation)
        out[i] = environment_pdf(pdf, u, v)
    return out


@pytest.mark.parametrize("degrees", [0.0, 70.0])
def test_the_sky_is_sampled_where_it_says_it_is(degrees: float) -> None:
    lights = under_sky(environment={"image": {"file": "sky"}, "rotation": degrees})
    ways, chances = many_directions(lights.rows, lights.columns, lights.density, lights.rotation, 100_000)
    assert np.allclose(np.linalg.norm(ways, axis=0), 1, atol=1e-5)
    again = densities(ways, lights.density, lights.rotation)
    assert (np.abs(again / chances - 1) < 1e-4).mean() > 0.999, "a direction on a texel's edge may fall to either side"


def test_the_sky_is_sampled_in_proportion_to_its_density() -> None:
    # Chi-square of 200,000 directions against density × solid angle, texel by texel.
    lights = under_sky(environment={"image": {"file": "sky"}})
    ways, _ = many_directions(lights.rows, lights.columns, lights.density, 0.0, 200_000)
    height, width = lights.density.shape
    x = np.floor((0.5 + np.arctan2(ways[0], -ways[2]) / (2 * pi)) % 1 * width).astype(int)
    y = np.minimum(np.floor(np.arccos(np.clip(ways[1], -1, 1)) / pi * height).astype(int), height - 1)
    counts = np.bincount(y * width + x, minlength=height * width)
    edges = np.cos(np.linspace(0, pi, height + 1))
    solid = (edges[:-1] - edges[1:])[:, None] * 2 * pi / width
    expected = (lights.density * solid).ravel() * 200_000
    assert expected.sum() == pytest.approx(200_000, rel=1e-3)
    used = expected > 8
    statistic = ((counts[used] - expected[used]) ** 2 / expected[used]).sum()
    assert stats.chi2.sf(statistic, used.sum() - 1) > 1e-4


def test_no_direction_with_light_has_no_chance() -> None:
    picture = np.zeros((16, 32, 3), np.float32)
    picture[5, 0] = 1.0
    lights = lights_of(shot(environment={"image": {"file": "sky"}}), MadeFiles(sky=picture), 1.0)
    ways = np.random.default_rng(1).normal(size=(3, 50_000)).astype(np.float32)
    ways = np.ascontiguousarray(ways / np.linalg.norm(ways, axis=0))
    out = np.empty_like(ways)
    environment_colours(lights.picture, 0.0, ways, out)
    assert (densities(ways, lights.density, 0.0)[out[0] > 1e-6] > 0).all()


def test_the_sky_turns_with_its_rotation() -> None:
    ways = np.random.default_rng(2).normal(size=(3, 200)).astype(np.float32)
    ways = np.ascontiguousarray(ways / np.linalg.norm(ways, axis=0))
    total_bounces = np.ascontiguousarray(Rotation.from_euler("y", -40, degrees=True).apply(ways.T).T, np.float32)
    plain, moved = np.empty_like(ways), np.empty_like(ways)
    environment_colours(sky_picture(), 0.0, ways, plain)
    environment_colours(sky_picture(), np.radians(40), total_bounces, moved)
    assert np.allclose(plain, moved, rtol=2e-2, atol=1e-3)


def test_chances_of_lights_add_up_and_follow_their_power() -> None:
    lamps = [
        {"name": "a", "power": 10.0},
        {"name": "b", "power": 30.0},
        {"name": "off", "power": 500.0, "on": False},
        {"name": "none", "power": 0.0},
    ]
    lights = under_sky(lights=lamps)
    assert len(lights.chance) == 3, "the sky and two lamps"
    assert lights.chance.sum() == pytest.approx(1.0)
    assert lights.chance[2] / lights.chance[1] == pytest.approx(3.0, rel=1e-4)
    dark = lights_of(shot(environment={"colour": [0, 0, 0]}), MadeFiles(), 1.0)
    assert dark.chance.sum() == 0


def test_a_rectangle_faces_its_target_with_its_size() -> None:
    made = shot(lights=[{"name": "l", "position": [1, 2, 3], "target": [1, 0, 3], "width": 0.5, "height": 2.0}])
    found = lamp_mesh(made.lights[0])
    assert found is not None
    corners, _ = found
    assert np.allclose(corners.mean(axis=0), [1, 2, 3], atol=1e-6)
    sides = sorted(np.linalg.norm(corners[1:] - corners[:-1], axis=1)[:2])
    assert sides == pytest.approx([0.5, 2.0], rel=1e-5)
    assert np.allclose(corners[:, 1], 2), "it lies level, as it looks straight down"


def test_power_is_what_the_rectangle_sends_out() -> None:
    # A Lambertian emitter of radiance L and area A sends out π L A watts.
    made = lights_of(shot(lights=[{"name": "l", "width": 0.4, "height": 0.5, "power": 12.0}]), MadeFiles(), 1.0)
    radiance, area = made.lamps[0, RADIANCE], made.lamps[0, AREA]
    assert pi * radiance * area == pytest.approx(12.0, rel=1e-5)


def test_random_numbers_are_even_and_repeat() -> None:
    drawn = draw(200_000, 3)
    assert np.array_equal(drawn, draw(200_000, 3))
    assert not np.array_equal(drawn, draw(200_000, 4))
    assert drawn.min() >= 0
    assert drawn.max() < 1
    for column in drawn:
        counts, _ = np.histogram(column, bins=64, range=(0, 1))
        assert stats.chisquare(counts).pvalue > 1e-4


def test_neighbouring_pixels_samples_and_dimensions_are_unrelated() -> None:
    base = draw(50_000, 0)
    for other in (draw(50_000, 0, pixel=1), draw(50_000, 0, sample=1), draw(50_000, 0, dimension=1), draw(50_000, 1)):
        for column in range(4):
            assert abs(np.corrcoef(base[column], other[column])[0, 1]) < 0.02


@allocating
def draw(count: int, seed: int, pixel: int = 0, sample: int = 0, dimension: int = 0) -> np.ndarray:
    out = np.empty((4, count))
    for i in range(count):
        out[0, i], out[1, i], out[2, i], out[3, i] = uniform4(i * 2 + pixel, sample, dimension, seed)
    return out


def test_placements_agree_with_scipy() -> None:
    # Fixed axes x, then y, then z: SciPy's lower-case "xyz".
    angles = (25.0, -70.0, 130.0)
    matrix = placement((1.0, 2.0, 3.0), angles, 2.5)
    assert np.allclose(matrix[:3, :3], 2.5 * Rotation.from_euler("xyz", angles, degrees=True).as_matrix())
    assert matrix[:3, 3].tolist() == [1, 2, 3]


def test_an_object_that_follows_a_locator_goes_where_it_goes() -> None:
    def place(height: float) -> np.ndarray:
        made = shot(
            locators=[{"name": "w", "position": [0, height, 0], "rotation": [0, 90, 0], "scale": 2}],
            objects=[{"name": "o", "geometry": {"file": "f"}, "look": "plain", "follows": "w", "position": [1, 0, 0]}],
        )
        assert np.allclose(locator_matrix(made, "w")[1, 3], height)
        return object_matrix(made, "o")[:3, 3]

    assert np.allclose(place(0.5), [0, 0.5, -2], atol=1e-9), "one unit along the turned and doubled x axis"
    assert np.allclose(place(0.9) - place(0.5), [0, 0.4, 0])
