"""Rendered pictures against light that can be worked out in closed form."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from math import atan, pi, sqrt
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, layer, look, shot, square, value
from texallon.core.derived import DerivedStore, Interrupted
from texallon.core.document import Shot
from texallon.core.render.film.film import Film
from texallon.core.render.render_frame import make_context, render_frame

pytestmark = pytest.mark.slow

DULL = layer("dull", base_color=value([0.5, 0.5, 0.5]), specular_weight=value(0.0))


def floor_shot(**members: Any) -> Shot:
    """A Lambertian floor of albedo 0.5 seen from straight above."""
    plain: dict[str, Any] = {
        "camera": {"position": [0, 3, 0.001], "target": [0, 0, 0], "focal_length": 400},
        "objects": [{"name": "floor", "geometry": {"file": "floor"}, "look": "dull"}],
        "looks": [look("dull", DULL)],
        "environment": {"colour": [0, 0, 0]},
    }
    return shot(**(plain | members))


def mean(made: Shot, samples: int, size: tuple[int, int] = (24, 24), **files: Any) -> np.ndarray:
    film = render_frame(made, MadeFiles(**({"floor": square(20.0)} | files)), *size, samples, 2)
    return film.picture().mean(axis=(0, 1))


def test_a_dull_floor_under_an_even_sky() -> None:
    # Radiometry: a Lambertian surface under even radiance L gives back albedo × L.
    made = floor_shot(environment={"colour": [2.0, 1.0, 0.5]})
    assert np.allclose(mean(made, 64), [1.0, 0.5, 0.25], rtol=0.01)


def test_a_dull_floor_under_a_picture_of_the_sky_that_is_even() -> None:
    # The same through the importance-sampled picture, one half of it black: half the cosine-weighted hemisphere.
    picture = np.ones((32, 64, 3), np.float32)
    picture[:, :32] = 0
    made = floor_shot(environment={"image": {"file": "sky"}})
    assert np.allclose(mean(made, 256, sky=picture), 0.25, rtol=0.02)


def test_a_sky_picture_is_sampled_to_its_integral() -> None:
    # A bright spot of known radiance and solid angle straight above: E = L Ω, radiance out = albedo E / π.
    picture = np.zeros((64, 128, 3), np.float32)
    picture[:2] = 50.0
    # Interpolation between rows spreads the edge; the closed form integrates the same linear ramp over angle.
    theta = np.linspace(0, pi * 4 / 64, 20_001)
    row = theta / pi * 64 - 0.5
    radiance = 50 * np.clip(2 - row, 0, 1)
    expected = 0.5 / pi * np.trapezoid(radiance * np.cos(theta) * 2 * pi * np.sin(theta), theta)
    made = floor_shot(environment={"image": {"file": "sky"}})
    assert np.allclose(mean(made, 256, sky=picture), expected, rtol=0.02)


@pytest.mark.parametrize("size", [0.1, 1.0, 4.0])
def test_a_dull_floor_under_a_rectangle_of_light(size: float) -> None:
    # Irradiance at the foot of the axis of a square source (form factor of a rectangle parallel to a small patch, four
    # corners; J. R. Howell, A Catalog of Radiation Heat Transfer Configuration Factors, C-11; from memory).
    height, power = 2.0, 20.0
    light = {"name": "l", "position": [0, height, 0], "target": [0, 0, 0], "width": size, "height": size}
    made = floor_shot(lights=[{**light, "power": power, "visible": False}])
    radiance = power / (pi * size * size)
    x = size / 2 / height
    corner = x / sqrt(1 + x * x)
    factor = 4 / (2 * pi) * (corner * atan(x / sqrt(1 + x * x)) * 2)
    expected = 0.5 * radiance * factor
    narrow = {"position": [0, 3, 0.001], "target": [0, 0, 0], "focal_length": 4000}
    made = made.model_copy(update={"camera": made.camera.model_validate(narrow)})
    assert np.allclose(mean(made, 400), expected, rtol=0.02)


def test_light_falls_with_the_square_of_the_distance() -> None:
    def at(height: float) -> float:
        light = {"name": "l", "position": [0, height, 0], "target": [0, 0, 0], "width": 0.02, "height": 0.02}
        return float(mean(floor_shot(lights=[{**light, "visible": False}]), 64)[0])

    assert at(2.0) / at(4.0) == pytest.approx(4.0, rel=0.03)


def test_a_light_shines_from_its_front_only() -> None:
    light = {"name": "l", "position": [0, 2, 0], "target": [0, 5, 0], "visible": False}
    assert mean(floor_shot(lights=[light]), 32).max() == 0.0


def test_light_by_both_strategies_is_counted_once() -> None:
    # A mirror-like floor sees a rectangle by scattering, a dull one by asking for it: both must show its radiance.
    light = {"name": "l", "position": [0, 6, 0.0], "target": [0, 0, 0], "width": 90, "height": 90, "power": 8100 * pi}
    even = {"environment": {"colour": [1, 1, 1]}}
    above = {"lights": [{**light, "visible": False}]}
    for roughness, lit in ((0.0, above), (0.1, above), (0.0, even), (0.1, even), (0.3, even), (0.8, even)):
        metal = layer(
            "m", base_color=value([1.0, 1.0, 1.0]), base_metalness=value(1.0), specular_roughness=value(roughness)
        )
        made = floor_shot(**lit, looks=[look("dull", metal)])
        assert mean(made, 128)[0] == pytest.approx(1.0, rel=0.02), roughness


@pytest.mark.parametrize(("albedo", "known"), [(1.0, 1.0), (0.5, 0.358), (0.2, 0.134)])
def test_still_water_shows_what_lies_below(albedo: float, known: float) -> None:
    # Seen straight down through one water surface, lit by an even white sky. Radiance over n² is constant through the boundary, so in
    # terms of it the underside lets 1 − R̄ through from outside and sends R̄ back: B = ρ (1 − R̄) / (1 − ρ R̄), of which 1 − R(0) leaves.
    dull = layer("dull", base_color=value([albedo] * 3), specular_weight=value(0.0))
    water = layer("w", transmission_weight=value(1.0), specular_ior=value(1.333), specular_roughness=value(0.0))
    made = floor_shot(
        environment={"colour": [1, 1, 1]},
        looks=[look("dull", dull), look("water", water)],
        objects=[
            {"name": "floor", "geometry": {"file": "floor"}, "look": "dull"},
            {"name": "water", "geometry": {"file": "floor"}, "look": "water", "position": [0, 0.5, 0]},
        ],
        bounces=64,
        limits={"diffuse": 64, "glossy": 64, "transmission": 64},
    )
    mu = (np.arange(20_000) + 0.5) / 20_000

    def reflectance(cosine: np.ndarray, eta: float) -> np.ndarray:
        sine2 = (1 - cosine**2) / eta**2
        t = np.sqrt(np.clip(1 - sine2, 0, 1))
        r = 0.5 * (((cosine - eta * t) / (cosine + eta * t)) ** 2 + ((eta * cosine - t) / (eta * cosine + t)) ** 2)
        return np.where(sine2 >= 1, 1.0, r)

    back = 2 * np.mean(reflectance(mu, 1 / 1.333) * mu)
    head_on = float(reflectance(np.ones(1), 1.333)[0])
    floor = albedo * (1 - back) / (1 - albedo * back)
    expected = head_on + (1 - head_on) * floor
    assert expected == pytest.approx(known, abs=0.001)
    assert mean(made, 400)[0] == pytest.approx(expected, rel=0.015)


def test_a_glowing_floor_shows_its_own_light() -> None:
    glowing = layer(
        "g",
        base_color=value([0.0, 0, 0]),
        specular_weight=value(0.0),
        emission_luminance=value(3.0),
        emission_color=value([1, 0.5, 0]),
    )
    assert np.allclose(mean(floor_shot(looks=[look("dull", glowing)]), 4), [3.0, 1.5, 0.0], atol=1e-5)


def test_two_facing_floors_gather_light_bounce_by_bounce() -> None:
    # A closed white-lit slot: with albedo ρ on both sides and emission E, radiosity is E / (1 − ρ) (geometric series).
    lit = layer("g", base_color=value([0.5] * 3), specular_weight=value(0.0), emission_luminance=value(1.0))
    made = floor_shot(
        looks=[look("dull", lit)],
        camera={"position": [0, 0.005, 0], "target": [0, 0, 0.0001], "focal_length": 4000},
        objects=[
            {"name": "a", "geometry": {"file": "floor"}, "look": "dull"},
            {
                "name": "b",
                "geometry": {"file": "floor"},
                "look": "dull",
                "position": [0, 0.01, 0],
                "rotation": [180, 0, 0],
            },
        ],
        bounces=32,
    )
    assert mean(made, 128, floor=square(60.0))[0] == pytest.approx(2.0, rel=0.01)
    two = made.model_copy(update={"bounces": 2})
    assert mean(two, 128, floor=square(60.0))[0] == pytest.approx(1.75, rel=0.01), "1 + 1/2 + 1/4"


def light_shot() -> Shot:
    light = {"name": "l", "position": [1.5, 2, 0], "target": [0, 0, 0], "width": 0.5, "height": 0.5}
    return floor_shot(lights=[light], environment={"colour": [0.2, 0.3, 0.5]})


def test_error_falls_with_the_root_of_the_samples() -> None:
    # Monte Carlo: the standard error of a mean of N independent samples is σ / √N.
    files = MadeFiles(floor=square(20.0))
    made = light_shot()
    truth = render_frame(made, files, 16, 16, 4096, 2).picture()

    def error(samples: int) -> float:
        means = [
            render_frame(made.model_copy(update={"seed": seed}), files, 16, 16, samples, 2).picture() - truth
            for seed in range(1, 5)
        ]
        return float(np.sqrt(np.mean(np.square(means))))

    assert error(8) / error(128) == pytest.approx(4.0, rel=0.2)


def test_a_render_repeats_exactly_on_any_number_of_threads() -> None:
    files = MadeFiles(floor=square(20.0))
    one = render_frame(light_shot(), files, 200, 120, 2, 1).picture()
    three = render_frame(light_shot(), files, 200, 120, 2, 3).picture()
    assert np.array_equal(one, three)
    other = render_frame(light_shot().model_copy(update={"seed": 5}), files, 200, 120, 2, 1).picture()
    assert not np.array_equal(one, other)


def test_kept_primary_hits_change_nothing() -> None:
    context = make_context(light_shot(), MadeFiles(floor=square(20.0)), 40, 30)
    cache = DerivedStore()
    pictures = []
    for _ in range(3):
        film = Film(40, 30)
        film.add_sample(context, store=cache)
        pictures.append(film.picture())
    plain = Film(40, 30)
    plain.add_sample(context)
    assert all(np.array_equal(picture, plain.picture()) for picture in pictures)


def test_a_picture_no_longer_wanted_stops() -> None:
    context = make_context(light_shot(), MadeFiles(floor=square(20.0)), 64, 64)
    asked = []

    def wanted() -> bool:
        asked.append(1)
        return len(asked) < 5

    unwanted = replace(context, wanted=wanted)
    film = Film(64, 64)
    with ThreadPoolExecutor(2) as pool, pytest.raises(Interrupted):
        film.add_sample(unwanted, pool)
    assert film.samples == 0
    assert len(asked) < 8


def test_denoising_keeps_the_light_and_removes_the_noise() -> None:
    context = make_context(light_shot(), MadeFiles(floor=square(20.0)), 128, 128)
    film = Film(128, 128)
    film.add_sample(context)
    noisy, smooth = film.picture(), film.denoised()
    truth = render_frame(light_shot(), MadeFiles(floor=square(20.0)), 128, 128, 128, 2).picture()
    assert smooth.mean() == pytest.approx(truth.mean(), rel=0.05)
    assert np.abs(smooth - truth).mean() < 0.3 * np.abs(noisy - truth).mean()


def test_a_hidden_light_lights_but_is_not_seen() -> None:
    up = {"position": [0, 0.5, 0.001], "target": [0, 2, 0], "focal_length": 400}
    light = {"name": "l", "position": [0, 2, 0], "target": [0, 0, 0], "power": pi * 0.25}
    assert mean(floor_shot(camera=up, lights=[{**light, "visible": True}]), 4)[0] == pytest.approx(1.0, rel=1e-3)
    assert mean(floor_shot(camera=up, lights=[{**light, "visible": False}]), 4)[0] == 0.0
