"""Ramps and curves against SciPy's interpolation and a reference colour library."""

import colour
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from tests.builders import apply, step
from texallon.core.ops.ramp import from_oklab, to_oklab

X = np.linspace(-0.4, 1.6, 4001).astype(np.float32)
AT = [0.0, 0.15, 0.4, 0.45, 1.2]
VALUES = [0.2, 0.9, 0.85, 0.1, 0.6]
STOPS = [{"at": a, "value": v} for a, v in zip(AT, VALUES, strict=True)]


def ramp(interpolation: str, stops: object = STOPS, to: np.ndarray = X, **params: object) -> np.ndarray:
    return apply(step("ramp", stops=stops, interpolation=interpolation, **params), to=to)


def test_linear_ramps_agree_with_numpys_interpolation() -> None:
    assert np.allclose(ramp("linear"), np.interp(X, AT, VALUES), atol=1e-5)


def test_constant_ramps_hold_each_stop_until_the_next() -> None:
    place = np.clip(np.searchsorted(np.float32(AT), X, side="right") - 1, 0, 4)
    assert np.allclose(ramp("constant"), np.array(VALUES)[place], atol=1e-6)


def test_smooth_ramps_ease_between_neighbours() -> None:
    place = np.clip(np.searchsorted(AT, X, side="right") - 1, 0, 3)
    t = np.clip((X - np.array(AT)[place]) / np.diff(AT)[place], 0, 1)
    v = np.array(VALUES)
    expected = v[place] + t * t * (3 - 2 * t) * np.diff(v)[place]
    assert np.allclose(ramp("smooth"), expected, atol=1e-5)


def test_monotone_ramps_agree_with_scipy() -> None:
    # SciPy's PchipInterpolator: Fritsch & Butland 1984, the same method.
    inside = np.clip(X, AT[0], AT[-1])
    assert np.allclose(ramp("monotone"), PchipInterpolator(AT, VALUES)(inside), atol=2e-5)


@given(
    st.lists(
        st.tuples(st.floats(-5, 5), st.floats(-3, 3)), min_size=2, max_size=12, unique_by=lambda pair: round(pair[0], 2)
    )
)
def test_curves_agree_with_scipy_and_overshoot_nowhere(knots: list[tuple[float, float]]) -> None:
    knots = sorted((round(x, 2), round(y, 3)) for x, y in knots)
    x, y = np.array(knots).T
    at = np.linspace(x[0] - 1, x[-1] + 1, 300).astype(np.float32)
    found = apply(step("curve", points=[list(knot) for knot in knots]), to=at)
    expected = PchipInterpolator(x, y)(np.clip(at, x[0], x[-1]))
    assert np.allclose(found, expected, atol=2e-3 * max(1, np.ptp(y)))
    assert found.min() >= y.min() - 1e-4
    assert found.max() <= y.max() + 1e-4


def test_a_ramp_of_one_stop_is_even_and_nan_stays_nan() -> None:
    odd = np.float32([np.nan, 0.1, np.inf, -np.inf])
    for interpolation in ("constant", "linear", "smooth", "monotone"):
        even = ramp(interpolation, [{"at": 0.3, "value": 0.7}], odd)
        assert np.isnan(even[0])
        assert even[1:] == pytest.approx([0.7] * 3)
        ends = ramp(interpolation, STOPS, odd)
        assert ends[2:] == pytest.approx([0.6, 0.2], abs=1e-5)


def test_two_stops_in_one_place_make_a_hard_edge() -> None:
    stops = [{"at": 0, "value": 0}, {"at": 0.5, "value": 0.2}, {"at": 0.5, "value": 0.8}, {"at": 1, "value": 1}]
    for interpolation in ("linear", "smooth", "monotone"):
        before, after = ramp(interpolation, stops, np.float32([0.4999, 0.5001]))
        assert (before, after) == pytest.approx((0.2, 0.8), abs=0.005)


def test_sixty_four_stops_are_as_good_as_two() -> None:
    at = np.linspace(0, 1, 64)
    many = [{"at": float(a), "value": float(a)} for a in at]
    assert np.allclose(ramp("linear", many), np.clip(X, 0, 1), atol=1e-5)


RED, BLUE = [0.9, 0.05, 0.02], [0.02, 0.1, 0.8]
COLOURS = [{"at": 0, "value": RED}, {"at": 1, "value": BLUE}]


def test_colours_mix_as_light() -> None:
    t = np.float32([0, 0.25, 0.5, 1])
    expected = np.outer(RED, 1 - t) + np.outer(BLUE, t)
    assert np.allclose(ramp("linear", COLOURS, t), expected, atol=1e-6)


def test_perceptual_colours_mix_in_oklab() -> None:
    # colour-science's Oklab as the reference, between the same ends.
    t = np.float32([0, 0.2, 0.5, 0.8, 1])

    def oklab(rgb: list[float]) -> np.ndarray:
        return colour.XYZ_to_Oklab(
            colour.RGB_to_XYZ(np.array(rgb), colour.RGB_COLOURSPACES["ITU-R BT.709"], apply_cctf_decoding=False)
        )

    middle = np.outer(oklab(RED), 1 - t) + np.outer(oklab(BLUE), t)
    expected = colour.XYZ_to_RGB(
        colour.Oklab_to_XYZ(middle.T), colour.RGB_COLOURSPACES["ITU-R BT.709"], apply_cctf_encoding=False
    ).T
    assert np.allclose(ramp("linear", COLOURS, t, colours="perceptual"), expected, atol=2e-3)


@given(st.lists(st.tuples(*[st.floats(0, 4)] * 3), min_size=1, max_size=8))
def test_oklab_comes_back(colours: list[tuple[float, float, float]]) -> None:
    rgb = np.array(colours).T
    assert np.allclose(from_oklab(to_oklab(rgb).astype(np.float32)), rgb, atol=2e-3)


def test_levels_take_their_gain_first() -> None:
    x = np.linspace(0, 0.999, 500, dtype=np.float32)
    assert np.array_equal(apply(step("levels", gain=2.0, count=4), to=x), apply(step("levels", count=4), to=2 * x))
