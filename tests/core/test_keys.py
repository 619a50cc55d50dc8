"""Values between keys and beyond them, held against SciPy's interpolators."""

from typing import Any

import numpy as np
import pytest
from scipy import interpolate

from texallon.core.document.keys import Key, slopes_at, speed_at, value_at

RANDOM = np.random.default_rng(5)


def keys(frames: Any, values: Any, **more: Any) -> list[Key]:
    return [Key(frame=float(a), value=float(b), **more) for a, b in zip(frames, values, strict=True)]


def sampled(made: list[Key], at: np.ndarray, **beyond: Any) -> np.ndarray:
    return np.array([value_at(made, float(each), **beyond) for each in at])


@pytest.mark.parametrize("count", [2, 3, 4, 9])
@pytest.mark.parametrize("seed", range(6))
def test_smooth_keys_are_the_monotone_cubic_of_scipy(count: int, seed: int) -> None:
    random = np.random.default_rng(seed)
    frames, values = np.cumsum(random.uniform(0.2, 9, count)), random.normal(0, 4, count).round(seed % 2)
    at = np.linspace(frames[0], frames[-1], 301)
    want = interpolate.PchipInterpolator(frames, values)(at) if count > 2 else np.interp(at, frames, values)
    assert sampled(keys(frames, values), at) == pytest.approx(want, abs=1e-9)


def test_slopes_that_are_given_are_kept() -> None:
    frames, values, slopes = [1.0, 4.0, 6.0], [2.0, -1.0, 3.0], [0.5, -2.0, 1.0]
    made = [Key(frame=f, value=v, slope_in=s, slope_out=s) for f, v, s in zip(frames, values, slopes, strict=True)]
    at = np.linspace(1, 6, 101)
    assert sampled(made, at) == pytest.approx(interpolate.CubicHermiteSpline(frames, values, slopes)(at), abs=1e-12)
    assert speed_at(made, 4.0) == pytest.approx(-2.0, abs=1e-4)


def test_straight_stepped_and_eased_stretches() -> None:
    frames, values, at = [0.0, 3.0, 7.0, 8.0], [1.0, 5.0, -2.0, 0.0], np.linspace(0, 8, 97)
    assert sampled(keys(frames, values, interpolation="linear"), at) == pytest.approx(np.interp(at, frames, values))
    stepped = interpolate.interp1d(frames, values, kind="previous")(at)
    assert sampled(keys(frames, values, interpolation="stepped"), at) == pytest.approx(stepped)
    eased = interpolate.CubicHermiteSpline(frames, values, np.zeros(4))(at)
    assert sampled(keys(frames, values, interpolation="eased"), at) == pytest.approx(eased)


@pytest.mark.parametrize("interpolation", ["smooth", "linear", "eased", "stepped"])
def test_every_stretch_ends_at_its_keys_and_smooth_ones_never_overshoot(interpolation: Any) -> None:
    frames, values = np.arange(0, 40, 4.0), RANDOM.normal(0, 1, 10)
    made = keys(frames, values, interpolation=interpolation)
    assert sampled(made, frames) == pytest.approx(values)
    for k in range(9):
        inner = sampled(made, np.linspace(frames[k], frames[k + 1], 50))
        low, high = sorted(values[k : k + 2])
        assert (inner >= low - 1e-12).all() and (inner <= high + 1e-12).all()


def test_beyond_the_ends() -> None:
    made = keys([2.0, 6.0], [1.0, 5.0], interpolation="linear")
    at = np.array([-7.0, 0.0, 1.0, 7.0, 9.0, 15.0])
    assert sampled(made, at) == pytest.approx([1, 1, 1, 5, 5, 5])
    assert sampled(made, at, before="go on", after="go on") == pytest.approx(at - 1)
    assert sampled(made, at, before="loop", after="loop") == pytest.approx((at - 2) % 4 + 1)
    back = np.abs((at - 2 + 4) % 8 - 4) + 1  # a triangle wave
    assert sampled(made, at, before="ping-pong", after="ping-pong") == pytest.approx(back)


def test_going_on_keeps_the_slope_of_the_end() -> None:
    made = keys([0.0, 3.0, 4.0], [0.0, 1.0, 4.0])
    spline = interpolate.PchipInterpolator([0, 3, 4], [0, 1, 4])
    assert value_at(made, 6.0, after="go on") == pytest.approx(4 + 2 * float(spline(4, 1)))
    assert value_at(made, -2.0, before="go on") == pytest.approx(-2 * float(spline(0, 1)))
    assert value_at(keys([0.0, 3.0], [0.0, 1.0], interpolation="eased"), 9.0, after="go on") == 1.0


def test_one_key_is_a_constant() -> None:
    assert sampled(keys([5.0], [3.0]), np.array([-9.0, 5.0, 70.0]), before="loop", after="go on") == pytest.approx(
        [3, 3, 3]
    )


@pytest.mark.parametrize("count", [2, 3, 5, 9])
def test_slopes_at_keys_are_those_of_scipys_monotone_cubic(count: int) -> None:
    random = np.random.default_rng(count)
    frames, values = np.cumsum(random.uniform(0.2, 9, count)), random.normal(0, 4, count)
    spline = interpolate.PchipInterpolator(frames, values)
    want = spline.derivative()(frames)
    found = slopes_at(keys(frames, values))
    assert np.array(found) == pytest.approx(np.stack([want, want], 1), abs=1e-9)
    assert slopes_at(keys(frames[:1], values[:1])) == [(0.0, 0.0)] and slopes_at([]) == []
