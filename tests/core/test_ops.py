"""Each op by its definition, with negative, zero and non-finite input."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import apply, run, step
from texallon.core.document import DocumentError
from texallon.core.ops.registry import describe, ops

X = np.array([-2.0, -0.5, 0.0, 0.25, 0.5, 0.75, 1.0, 3.0], np.float32)


def test_remap_is_linear_between_its_ends_and_clamps_beyond() -> None:
    # The remap and range nodes of the MaterialX 1.39 specification: outlow + (in − inlow)(outhigh − outlow)/(inhigh − inlow).
    expected = 10 + (np.clip(X, 0, 1) - 0) * (20 - 10) / (1 - 0)
    assert np.allclose(apply(step("remap", to_start=10, to_end=20), to=X), expected)
    free = apply(step("remap", from_start=0, from_end=0.5, clamp=False), to=X)
    assert np.allclose(free, X / 0.5)


def test_remap_runs_backwards_when_its_ends_are_swapped() -> None:
    assert np.allclose(
        apply(step("remap", from_start=0.35, from_end=0.0), to=[0.5, 0.35, 0.175, 0, -1]), [0, 0, 0.5, 1, 1]
    )


def test_smooth_ease_is_smoothstep() -> None:
    # smoothstep of the MaterialX 1.39 specification: 3t² − 2t³.
    t = np.linspace(0, 1, 101, dtype=np.float32)
    assert np.allclose(apply(step("remap", ease="smooth"), to=t), 3 * t**2 - 2 * t**3, atol=1e-6)
    assert np.allclose(apply(step("remap", ease="smoother"), to=t), 6 * t**5 - 15 * t**4 + 10 * t**3, atol=1e-5)


def test_a_range_of_no_width_is_a_step() -> None:
    assert apply(step("remap", from_start=0.5, from_end=0.5), to=X).tolist() == [0, 0, 0, 0, 1, 1, 1, 1]


def test_remap_keeps_nan_and_clamps_infinity() -> None:
    odd = apply(step("remap"), to=[np.nan, np.inf, -np.inf])
    assert np.isnan(odd[0])
    assert odd[1:].tolist() == [1, 0]


def test_threshold_cuts_hard_or_softly() -> None:
    assert apply(step("threshold", level=0.5), to=X).tolist() == [0, 0, 0, 0, 1, 1, 1, 1]
    assert apply(step("threshold", level=0.5, keep="below"), to=X).tolist() == [1, 1, 1, 1, 0, 0, 0, 0]
    soft = apply(step("threshold", level=0.5, width=1.0), to=np.array([-1, 0, 0.5, 1, 2], np.float32))
    assert np.allclose(soft, [0, 0, 0.5, 1, 1])
    assert np.isnan(apply(step("threshold"), to=[np.nan, 0.0])[0])


def test_invert_is_its_own_inverse() -> None:
    assert np.allclose(apply(step("invert"), to=X), 1 - X)
    assert np.allclose(apply(step("invert"), step("invert"), to=X), X)


def test_arithmetic_with_numbers_colours_and_signals() -> None:
    assert np.allclose(apply(step("multiply", by=3), to=X), X * 3)
    assert np.allclose(apply(step("add", by=-1), to=X), X - 1)
    assert np.allclose(apply(step("mix", other=5, amount=0.25), to=X), X + 0.25 * (5 - X))
    coloured = apply(step("multiply", by=[1, 2, 3]), to=X)
    assert np.allclose(coloured, np.stack([X, X * 2, X * 3])), "a number widens to a colour by itself"
    signal = {"name": "half", "recipe": {"steps": [step("constant", value=0.5)]}}
    assert np.allclose(apply(step("multiply", by={"signal": "half"}), to=X, signals=[signal]), X * 0.5)


def test_ramp_agrees_with_linear_interpolation() -> None:
    at, values = [0.0, 0.2, 0.7, 1.0], [0.1, 0.9, 0.3, 0.6]
    stops = [{"at": a, "value": v} for a, v in zip(at, values, strict=True)]
    x = np.linspace(-0.503, 1.5, 400, dtype=np.float32)
    from scipy.interpolate import interp1d  # the reference library

    reference = interp1d(at, values, bounds_error=False, fill_value=(values[0], values[-1]))(x)
    assert np.allclose(apply(step("ramp", stops=stops), to=x), reference, atol=1e-5)
    held = interp1d(at, values, kind="previous", bounds_error=False, fill_value=(values[0], values[-1]))(x)
    assert np.allclose(apply(step("ramp", stops=stops, interpolation="constant"), to=x), held, atol=1e-6)


def test_smooth_ramp_eases_between_neighbours() -> None:
    x = np.linspace(0, 1, 11, dtype=np.float32)
    assert np.allclose(apply(step("ramp", interpolation="smooth"), to=x), 3 * x**2 - 2 * x**3, atol=1e-6)


def test_ramp_gives_colours_and_refuses_them() -> None:
    stops = [{"at": 0, "value": [1, 0, 0]}, {"at": 1, "value": 1.0}]
    assert np.allclose(apply(step("ramp", stops=stops), to=[0.0, 1.0]), [[1, 1], [0, 1], [0, 1]])
    with pytest.raises(DocumentError, match="takes a number"):
        apply(step("multiply", by=[1, 1, 1]), step("ramp"), to=X)


def test_height_is_measured_from_where_it_says() -> None:
    position = np.array([[1.0, 2.0], [3.0, 4.0], [5.0, 6.0]], np.float32)
    data = {"position": position, "object_position": position * 10}
    assert run(step("height"), data=data)[0].tolist() == [3, 4]
    assert run(step("height", axis="z", origin="object"), data=data)[0].tolist() == [50, 60]
    tilted = {"name": "l", "position": [0, 1, 0], "rotation": [0, 0, 90], "scale": 2}
    # Turned a quarter about z the locator's y axis points along −x; its scale of two halves what it measures.
    measured = run(step("height", origin={"locator": "l"}), data=data, locators=[tilted])[0]
    assert np.allclose(measured, [-0.5, -1.0], atol=1e-6)


def test_an_attribute_is_read_as_a_number_or_a_colour() -> None:
    colour = np.array([[0.1, 0.2], [0.3, 0.4], [0.5, 0.6]], np.float32)
    data = {"attribute:paint": colour}
    assert np.allclose(run(step("attribute", attribute="paint"), data=data), colour[:1])
    assert np.allclose(run(step("attribute", attribute="paint", read="colour"), data=data), colour)


@pytest.mark.parametrize("name", list(ops()))
def test_every_op_says_what_a_person_needs_to_know(name: str) -> None:
    said = describe(ops()[name])
    assert said["purpose"].endswith(".")
    assert said["source"]
    assert said["phrase"]
    for parameter in said["parameters"]:
        assert parameter["purpose"].endswith("."), parameter["name"]
    for handle in said["handles"]:
        assert handle in [parameter["name"] for parameter in said["parameters"]]


numbers = st.floats(-1e6, 1e6, width=32)


@given(st.lists(numbers, min_size=1, max_size=20), numbers, numbers, numbers, numbers)
def test_a_clamped_remap_never_leaves_its_output_range(
    x: list[float], a: float, b: float, low: float, high: float
) -> None:
    values = np.atleast_1d(apply(step("remap", from_start=a, from_end=b, to_start=low, to_end=high), to=x))
    slack = 1e-5 * max(abs(low), abs(high), 1)
    assert (values >= min(low, high) - slack).all()
    assert (values <= max(low, high) + slack).all()
