"""Waves on water against dispersion, published spectra, and what they are defined by; through recipes and pictures."""

from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from tests import builders
from tests.builders import MadeFiles, layer, look, recipe, run, step, value
from texallon.core.document import read_shot
from texallon.core.document.ids import complete_ids
from texallon.core.ops import points
from texallon.core.ops.wave_spectrum import (
    GRAVITY,
    Sea,
    angular_frequency,
    directions,
    energy,
    group_velocity,
    peak_frequency,
    wave_modes,
)
from texallon.core.ops.wave_surface import foam_of, folds, look_up_water, water_at, wave_tile
from texallon.core.ops.waves import MOST_MOMENTS
from texallon.core.render.object_geometry import object_geometry


def sea(**more: Any) -> Sea:
    known = {
        "wind": 10.0, "direction": 0.0, "fetch": 20000.0, "depth": 500.0, "spread": 0.5, "size": 400.0, "across": 128,
        "loop": 0.0, "seed": 1,
    }  # fmt: skip
    return Sea(**{**known, **more})


def test_long_waves_over_deep_and_shallow_water_have_the_dispersion_of_the_handbook() -> None:
    """ω² = gk tanh(kd) (H. Lamb, Hydrodynamics, 229); ω = √(gk) over deep water and k√(gd) over shallow."""
    k = 2 * np.pi / np.array([200.0, 50.0, 5.0])
    assert np.allclose(angular_frequency(k, 1000.0), np.sqrt(GRAVITY * k), rtol=1e-4)
    assert np.allclose(angular_frequency(k, 0.05), k * np.sqrt(GRAVITY * 0.05), rtol=2e-3)
    assert np.allclose(angular_frequency(k, 10.0), np.sqrt(GRAVITY * k * np.tanh(k * 10.0)), rtol=1e-4)


def test_the_slowest_ripples_are_those_of_1_7_centimetres() -> None:
    """Of clean water: 0.231 m/s at 1.73 cm (Lamb, 267)."""
    lengths = np.linspace(0.005, 0.1, 4000)
    k = 2 * np.pi / lengths
    speed = angular_frequency(k, 10.0) / k
    assert speed.min() == pytest.approx(0.231, abs=0.001) and lengths[np.argmin(speed)] == pytest.approx(
        0.0173, abs=4e-4
    )


@pytest.mark.parametrize("depth", [0.3, 4.0, 500.0])
def test_the_group_velocity_is_the_slope_of_the_dispersion(depth: float) -> None:
    k = np.geomspace(0.01, 300, 200)
    right = (angular_frequency(k * 1.0001, depth) - angular_frequency(k * 0.9999, depth)) / (0.0002 * k)
    assert np.allclose(group_velocity(k, depth), right, rtol=1e-4)


OMEGA = np.linspace(0.01, 60, 600_000)


@pytest.mark.parametrize("wind", [5.0, 12.0, 20.0])
def test_a_full_sea_is_as_high_as_pierson_and_moskowitz_say(wind: float) -> None:
    """Significant height 0.21 U²/g and peak at 0.877 g/U, U at 19.5 m (R. Stewart, Introduction to Physical Oceanography, 16.4)."""
    spectrum = energy(OMEGA, wind, 0.0, 1e4)
    height = 4 * np.sqrt(np.trapezoid(spectrum, OMEGA))
    above = 1.026 * wind
    assert height == pytest.approx(0.21 * above**2 / GRAVITY, rel=0.02)
    assert OMEGA[np.argmax(spectrum)] == pytest.approx(0.877 * GRAVITY / above, rel=0.01)


@pytest.mark.parametrize(("wind", "fetch"), [(8.0, 5e3), (15.0, 1e5)])
def test_a_growing_sea_has_the_peak_of_jonswap(wind: float, fetch: float) -> None:
    """ωp = 22 (g²/UF)^⅓, α = 0.076 (U²/Fg)^0.22, γ = 3.3 at the peak (Hasselmann et al. 1973, as in Stewart 16.4)."""
    spectrum = energy(OMEGA, wind, fetch, 1e4)
    peak = 22 * (GRAVITY**2 / (wind * fetch)) ** (1 / 3)
    assert OMEGA[np.argmax(spectrum)] == pytest.approx(peak, rel=0.005)
    steepness = 0.076 * (wind**2 / (fetch * GRAVITY)) ** 0.22
    assert spectrum.max() == pytest.approx(steepness * GRAVITY**2 * peak**-5 * np.exp(-1.25) * 3.3, rel=0.005)


def test_it_grows_no_higher_than_the_wind_makes_any() -> None:
    assert peak_frequency(10.0, 1e9) == pytest.approx(0.855 * GRAVITY / 10.0)


def test_over_shallow_water_long_waves_are_lower() -> None:
    """TMA's factor is ½ ωd² below 1 and 1 − ½ (2 − ωd)² up to 2, ωd = ω √(d/g) (Bouws et al. 1985)."""
    deep, shallow = energy(OMEGA, 10.0, 5e4, 1e4), energy(OMEGA, 10.0, 5e4, 4.0)
    scaled = OMEGA * np.sqrt(4.0 / GRAVITY)
    for at, factor in ((0.8, 0.5 * 0.64), (1.5, 1 - 0.5 * 0.25), (3.0, 1.0)):
        here = np.argmin(np.abs(scaled - at))
        assert shallow[here] / deep[here] == pytest.approx(factor, rel=1e-3)


@pytest.mark.parametrize("spread", [0.0, 0.4, 1.0])
def test_energy_by_direction_adds_up_to_all(spread: float) -> None:
    angle = np.linspace(-np.pi, np.pi, 20001)
    share = directions(angle, spread)
    assert np.trapezoid(share, angle) == pytest.approx(1, rel=1e-3)
    assert share[10000] / share.mean() == pytest.approx(1.0, rel=1e-3) or spread < 1


@pytest.mark.parametrize("across", [128, 256])
def test_a_patch_is_as_high_as_its_spectrum(across: int) -> None:
    waves = sea(fetch=8000.0, size=500.0, across=across)
    found = []
    for seed in range(12):
        modes = wave_modes(waves._replace(seed=seed))
        found += [float(water_at(modes, t, 0.0)[0].var()) for t in (0.0, 37.0)]
    shortest = 2 * np.pi / 500 * across / 2
    right = np.trapezoid(
        np.where(
            angular_frequency(OMEGA**2 / GRAVITY, 500.0) < np.sqrt(GRAVITY * shortest),
            energy(OMEGA, 10.0, 8000.0, 500.0),
            0,
        ),
        OMEGA,
    )
    assert np.mean(found) == pytest.approx(right, rel=0.08)


def test_finer_cells_keep_the_long_waves() -> None:
    coarse, fine = (water_at(wave_modes(sea(across=n)), 3.0, 0.0)[0] for n in (128, 256))
    assert np.corrcoef(coarse.ravel(), fine[::2, ::2].ravel())[0, 1] > 0.97


def test_waves_go_with_the_wind_at_their_speed() -> None:
    modes = wave_modes(sea(spread=0.0, direction=0.0))
    before = np.fft.rfft(water_at(modes, 10.0, 0.0)[0].mean(axis=0))
    after = np.fft.rfft(water_at(modes, 10.2, 0.0)[0].mean(axis=0))
    number = int(np.argmax(np.abs(before)))
    k = 2 * np.pi * number / 400.0
    # Going along x the phase falls with time.
    turned = np.angle(after[number] / before[number])
    assert turned == pytest.approx(-angular_frequency(np.array([k]), 500.0)[0] * 0.2, rel=0.05)


@pytest.mark.parametrize("loop", [2.0, 7.5])
def test_a_loop_closes_to_the_last_bits(loop: float) -> None:
    modes = wave_modes(sea(loop=loop))
    first, later = water_at(modes, 0.3, 0.8), water_at(modes, 0.3 + loop, 0.8)
    assert np.abs(first - later).max() < 2e-5 * np.abs(first[:3]).max() + 2e-5
    position = np.random.default_rng(1).uniform(-9, 9, (3, 500)).astype(np.float32)
    rate = {"first": 1, "last": 400, "rate": 20.0}
    at = [run(step("waves", loop=loop, size=4.0, gives="foam", detail="coarse"), data={"position": position}, frame=f, frames=rate) for f in (3, 3 + int(loop * 20))]  # fmt: skip
    assert np.array_equal(*at)


def test_ways_sideways_and_the_jacobian_are_the_derivatives_of_each_other() -> None:
    modes = wave_modes(sea(across=256))
    _, x, z, left = water_at(modes, 2.0, 0.7).astype(np.float64)
    n, length = 256, 400.0
    k = np.fft.fftfreq(n, length / n) * 2 * np.pi

    def along(field: np.ndarray, axis: int) -> np.ndarray:
        by = 1j * (k[None, :] if axis == 1 else k[:, None])
        found: np.ndarray = np.fft.ifft2(np.fft.fft2(field) * by).real
        return found

    right = (1 + along(x, 1)) * (1 + along(z, 0)) - along(x, 0) * along(z, 1)
    assert np.allclose(left, right, atol=2e-3)


def test_points_are_drawn_to_crests() -> None:
    height, x, _, left = water_at(wave_modes(sea(spread=0.0)), 1.0, 0.8)
    ahead = np.roll(x, -1, axis=1) - x
    crests, troughs = height > 1.5 * height.std(), height < -1.5 * height.std()
    assert ahead[crests].mean() < 0 < ahead[troughs].mean()
    assert left[crests].mean() < 1 < left[troughs].mean()


def test_foam_lies_where_less_than_a_share_of_the_area_is_left() -> None:
    modes = wave_modes(sea(fetch=3000.0, size=60.0, across=256))
    left = water_at(modes, 4.0, 1.2)[3]
    found = folds(modes, 4.0, 1.2, 0.6)
    assert np.array_equal(found > 0, left < np.float32(0.6)) and 0.001 < (found > 0).mean() < 0.3


def test_foam_decays_and_ages_from_its_birth() -> None:
    none, born = np.zeros((2, 2), np.float32), np.array([[0.8, 0.0], [0.0, 0.0]], np.float32)
    foam, age = foam_of((born, *[none] * 24), 1 / 12, 2.0)
    assert foam[0, 0] == pytest.approx(0.8 * np.exp(-1.0), rel=1e-5) and age[0, 0] == pytest.approx(2.0, rel=1e-5)
    assert foam[1, 1] == 0 and age[1, 1] == 0
    again, young = foam_of((born, *[none] * 24, born), 1 / 12, 2.0)
    assert again[0, 0] == pytest.approx(0.8) and young[0, 0] == 0


def look_up(places: np.ndarray, width: float = 0.0, blended: bool = False, field: int = 0, **more: Any) -> np.ndarray:
    waves = sea(**more)
    tile = wave_tile(water_at(wave_modes(waves), 1.0, 0.0), None, waves.size)
    out = np.empty(places.shape[1], np.float32)
    at, wide = places.astype(np.float32), np.full(len(out), width, np.float32)
    look_up_water(tile, at, wide, blended, 3, field, out)
    return out


def test_between_cells_heights_are_those_of_the_sum_of_waves() -> None:
    coarse, fine = sea(across=128, fetch=0.0), sea(across=512, fetch=0.0)
    exact = water_at(wave_modes(fine), 1.0, 0.0)[0]
    at = np.arange(512) * 400.0 / 512
    x, z = np.meshgrid(at, at)
    found = look_up(np.stack([x.ravel(), z.ravel()]), fetch=0.0).reshape(512, 512)
    assert coarse.size == fine.size and np.corrcoef(found.ravel(), exact.ravel())[0, 1] > 0.995


def test_blended_copies_keep_the_height_everywhere_and_repeat_nowhere() -> None:
    chance = np.random.default_rng(5)
    places = chance.uniform(-4000, 4000, (2, 60_000))
    plain, mixed = look_up(places), look_up(places, blended=True)
    assert mixed.std() == pytest.approx(plain.std(), rel=0.03)
    shifted = places + np.array([[400.0], [0.0]])
    assert np.corrcoef(plain, look_up(shifted))[0, 1] > 0.999
    assert abs(np.corrcoef(mixed, look_up(shifted, blended=True))[0, 1]) < 0.1


def test_nothing_jumps_between_copies() -> None:
    along = np.stack([np.linspace(-700, 700, 200_001), np.full(200_001, 12.3)])
    found = look_up(along, blended=True)
    steps = np.abs(np.diff(found))
    assert steps.max() < 12 * steps.mean()


def test_what_a_sample_covers_is_averaged() -> None:
    places = np.random.default_rng(2).uniform(0, 400, (2, 20_000))
    stds = [float(look_up(places, width).std()) for width in (0.0, 6.0, 25.0, 100.0, 5000.0)]
    assert stds == sorted(stds, reverse=True) and stds[-1] < 0.1 * stds[0] and stds[1] > 0.7 * stds[0]


def test_a_recipe_gives_heights_in_metres_whichever_way_is_up() -> None:
    position = np.random.default_rng(1).uniform(-20, 20, (3, 4000)).astype(np.float32)
    level = run(step("waves", size=10.0, tiling="repeated"), data={"position": position})
    turned = run(step("waves", size=10.0, tiling="repeated", up="z"), data={"position": position[[0, 2, 1]]})
    assert np.array_equal(level, turned)
    twice = run(step("waves", size=10.0, tiling="repeated", scale=2.0), data={"position": position})
    assert np.allclose(twice, 2 * level)
    vector = run(step("waves", size=10.0, tiling="repeated", gives="displacement"), data={"position": position})
    assert vector.shape == (3, 4000) and np.array_equal(vector[1], level[0])


def test_calm_is_lower_than_storm_and_less_turbulent_means_longer() -> None:
    places = np.random.default_rng(1).uniform(-20, 20, (3, 4000)).astype(np.float32)
    heights = [
        float(run(step("waves", size=200.0, wind=w, sea="full", detail="coarse"), data={"position": places}).std())
        for w in (3, 8, 20)
    ]
    assert heights == sorted(heights) and heights[2] > 8 * heights[0]


def test_a_sheet_is_moved_as_the_recipe_says_and_moves_on() -> None:
    swell = {"recipe": recipe(step("waves", size=4.0, wind=5.0, fetch=100.0, scale=3.0, detail="coarse"))}
    item = {
        "name": "pond", "look": "water", "geometry": {"shape": "plane", "width": 4.0, "depth": 4.0, "segments": 60},
        "displacement": {"most": 1.0},
    }  # fmt: skip
    made = read_shot(complete_ids(builders.document(objects=[item], looks=[look("water", layer("w", base_color=value([0.1] * 3), displacement=swell))])))  # fmt: skip
    first, later = (object_geometry(made, "pond", MadeFiles(), frame).vertices[:, 1] for frame in (1, 5))
    assert 0.01 < first.std() < 0.3 and np.abs(first - later).max() > 0.3 * first.std()


def test_a_place_that_is_none_gives_none() -> None:
    position = np.array([[np.nan, np.inf, 0], [0, 0, 0], [0, 0, 0]], np.float32)
    found = run(step("waves", detail="coarse"), data={"position": position})
    assert np.isnan(found[0, :2]).all() and np.isfinite(found[0, 2])


def test_foam_that_lasts_is_made_from_no_more_moments_and_grows_without_jumps() -> None:
    position = np.random.default_rng(3).uniform(-2, 2, (3, 400)).astype(np.float32)
    seen: list[str] = []
    stop = points.TABLES.listen(lambda access: None if access.reused else seen.append(access.kind))
    foam = [
        run(
            step("waves", gives="foam", foam_lasts=400.0, size=4.0, detail="coarse", choppiness=1.5, folds_below=0.8),
            data={"position": position}, frame=frame, frames={"first": 1, "last": 99, "rate": 240.0},
        )
        for frame in (1, 2, 3)
    ]  # fmt: skip
    stop()
    assert seen.count("crests that fold") <= MOST_MOMENTS + 4
    assert foam[0].max() > 0.05
    steps = [np.abs(b - a).max() for a, b in pairwise(foam)]
    assert max(steps) < 0.1, "between moments what folds now counts as well"
