"""Parameters that vary from point to point: at each point the op with the value there, filtered as finely as what it makes of it."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from jsonschema import Draft202012Validator

from tests.builders import MadeFiles, apply, document, layer, look, recipe, run, shot, square, step
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.problem import Problem
from texallon.core.ops.registry import limits_of, ops, type_word
from texallon.core.render.render_frame import render_frame
from texallon.core.signal import sharing
from texallon.core.signal.check_recipes import check_shot
from texallon.core.signal.schema import shot_schema

RNG = np.random.default_rng(12)
COUNT = 500
VARYING = [(name, parameter) for name, kind in ops().items() for parameter in kind.can_vary]


def here(reach: float = 3.0, footprint: float = 0.0, count: int = COUNT) -> dict[str, np.ndarray]:
    rng = np.random.default_rng(3)
    return {
        "position": rng.uniform(-reach, reach, (3, count)),
        "object_position": rng.uniform(-0.05, 0.05, (3, count)),
        "footprint": np.full(count, footprint),
        "object_footprint": np.full(count, footprint),
        "attribute:x": rng.uniform(0.02, 0.98, count),
        "attribute:a": rng.integers(0, 2, count),
    }


def before(op: str) -> list[dict[str, Any]]:
    kind = ops()[op].kind
    return [step("attribute", attribute="x")] if kind == "modifier" else []


def after(op: str) -> list[dict[str, Any]]:
    return [step("noise", octaves=2, size=0.3)] if ops()[op].kind == "warp" else []


def around(op: str, made: dict[str, Any]) -> list[dict[str, Any]]:
    return [*before(op), made, *after(op)]


def some_value(op: str, parameter: str, share: float) -> float:
    low, high = limits_of(ops()[op], parameter)
    low = 0.2 if parameter == "size" else max(-2.0, low if low is not None else -2.0)  # finer is a matter of rounding
    return float(np.float32(low + 0.01 + share * (min(3.0, high if high is not None else 3.0) - low - 0.02)))


def constant(number: float) -> dict[str, Any]:
    return recipe(step("constant", value=number))


def either(first: float, second: float) -> dict[str, Any]:
    """One value where the stored attribute `a` is 0, and another where it is 1."""
    return recipe(
        step("attribute", attribute="a"), step("remap", from_start=0, from_end=1, to_start=first, to_end=second)
    )


@pytest.mark.parametrize(("op", "parameter"), VARYING)
def test_the_same_everywhere_is_as_the_number(op: str, parameter: str) -> None:
    for share, footprint in ((0.0, 0.0), (0.31, 0.002), (0.5, 0.1), (1.0, 5.0)):
        number = some_value(op, parameter, share)
        data = here(footprint=footprint)
        wanted = run(*around(op, step(op, **{parameter: number})), data=data)
        found = run(*around(op, step(op, **{parameter: constant(number)})), data=data)
        assert found == pytest.approx(wanted, abs=2e-3, rel=5e-3)


@pytest.mark.parametrize(("op", "parameter"), VARYING)
@settings(max_examples=8)
@given(first=st.floats(0, 1), second=st.floats(0, 1))
def test_each_point_has_the_value_there(op: str, parameter: str, first: float, second: float) -> None:
    data = here()
    values = some_value(op, parameter, first), some_value(op, parameter, second)
    found = run(*around(op, step(op, **{parameter: either(*values)})), data=data)
    for which, number in enumerate(values):
        mine = data["attribute:a"] == which
        wanted = run(*around(op, step(op, **{parameter: number})), data=data)
        assert found[:, mine] == pytest.approx(wanted[:, mine], abs=3e-4, rel=1e-3)


@pytest.mark.parametrize(("op", "parameter"), VARYING)
def test_what_is_no_number_stays_none_and_ends_hold(op: str, parameter: str) -> None:
    data = here(footprint=0.01)
    data["attribute:a"] = np.where(np.arange(COUNT) % 2, np.nan, 1e30)
    found = run(*around(op, step(op, **{parameter: recipe(step("attribute", attribute="a"))})), data=data)
    if op not in ("swirl", "twirl", "clamp"):
        assert np.isnan(found[:, 1::2]).all()
    high = limits_of(ops()[op], parameter)[1]
    if high is not None:
        wanted = run(*around(op, step(op, **{parameter: high})), data=data)
        assert found[:, ::2] == pytest.approx(wanted[:, ::2], abs=1e-3, rel=1e-3)


@pytest.mark.parametrize(("op", "parameter"), VARYING)
def test_nothing_depends_on_where_a_chunk_ends(op: str, parameter: str) -> None:
    wavy = recipe(step("noise", size=0.7, octaves=2, low=0.1, high=0.9))
    made = around(op, step(op, **{parameter: wavy}))
    data = here(footprint=0.05)
    assert np.array_equal(run(*made, data=data, chunk=128), run(*made, data=data), equal_nan=True)


SIZES = recipe(step("noise", size=2.0, octaves=1, low=0.1, high=0.5))
TURNED = recipe(step("noise", size=1.0, octaves=1, low=-200, high=200))
GROWN = recipe(step("noise", size=0.5, octaves=1, low=0, high=9))
FAR = np.array([[12.0], [0.4], [-9.0]]) + np.random.default_rng(5).uniform(-1.5, 1.5, (3, 2000))


def differences(made: list[dict[str, Any]], width: float, footprint: float) -> float:
    """How much neighbours a sample apart differ: root of the mean square over places and axes, in deviations of the pattern."""

    def values(aside: np.ndarray, wide: float) -> np.ndarray:
        return run(*made, data={"position": FAR + aside[:, None], "footprint": np.full(FAR.shape[1], wide)})[0]

    middle = values(np.zeros(3), footprint)
    apart = [values(width * axis, footprint) - middle for axis in np.eye(3)]
    return float(np.sqrt(np.mean(np.square(apart))) / values(np.zeros(3), 0.0).std())


@pytest.mark.parametrize(
    ("made", "plain"),
    [
        ([step("noise", size=SIZES, octaves=3)], [step("noise", size=0.3, octaves=3)]),
        ([step("billow", size=SIZES, octaves=3)], [step("billow", size=0.3, octaves=3)]),
        ([step("ridged", size=SIZES, octaves=3)], [step("ridged", size=0.3, octaves=3)]),
        ([step("cellular", size=SIZES)], [step("cellular", size=0.3)]),
        ([step("noise", size=0.4, octaves=2, evolution=GROWN)], [step("noise", size=0.4, octaves=2)]),
        ([step("swirl", angle=TURNED, radius=40.0), step("noise", size=0.4)], [step("noise", size=0.4)]),
        ([step("twirl", angle=TURNED), step("noise", size=0.4)], [step("noise", size=0.4)]),
    ],
    ids=["noise", "billow", "ridged", "cellular", "evolution", "swirl", "twirl"],
)
def test_neighbours_differ_no_more_than_those_of_a_pattern_whose_parameters_stay(
    made: list[dict[str, Any]], plain: list[dict[str, Any]]
) -> None:
    """Far from the middle most of a pattern's fineness comes from how its size changes: nothing finer than a sample may be left
    (the sampling theorem), and what is coarser must be."""
    widths = [0.004, 0.01, 0.025, 0.06, 0.15, 0.4, 1.0]
    allowed = max(differences(plain, width, width) for width in widths)
    assert max(differences(made, width, 0.0) for width in widths) > 1.2 * allowed
    for width in widths:
        assert differences(made, width, width) < 1.15 * allowed
    kept = run(*made, data={"position": FAR, "footprint": np.full(FAR.shape[1], 1e-5)})
    assert kept == pytest.approx(run(*made, data={"position": FAR, "footprint": np.zeros(FAR.shape[1])}), abs=0.02)


def test_the_mean_stays_however_wide_a_sample_is() -> None:
    for op in ("noise", "billow", "cellular"):
        fine, wide = (
            run(step(op, size=SIZES), data={"position": FAR * 7, "footprint": np.full(FAR.shape[1], width)}).mean()
            for width in (0.0, 0.7)
        )
        assert wide == pytest.approx(fine, abs=0.02)


def test_steps_after_a_faded_parameter_are_applied_before_the_mean() -> None:
    """A level that a pattern too fine to see gives: the share of samples that lie above it, not all or nothing."""
    fine = recipe(step("noise", size=0.002, octaves=1, spread="even"))
    come = np.full(400, 0.3)
    data = {"position": FAR[:, :400], "footprint": np.full(400, 0.5), "attribute:x": come}
    found = run(step("attribute", attribute="x"), step("threshold", level=fine), data=data)
    assert found.mean() == pytest.approx(0.3, abs=0.03)


def problems_of(*steps: dict[str, Any], **members: Any) -> list[Problem]:
    made = document(looks=[look("a", layer("l", recipe(*steps)))], **members)
    return check_shot(read_shot(made))


PLACE = "/looks/0/layers/0/where/steps/0/params"


def test_what_cannot_vary_is_refused_with_what_can() -> None:
    (problem,) = problems_of(step("noise", seed=constant(1.0)))
    assert problem.pointer == f"{PLACE}/seed"
    assert "one number for all points" in problem.reason
    assert "size, evolution, gain" in problem.hint
    (problem,) = problems_of(step("noise", octaves={"signal": "x"}))
    assert problem.pointer == f"{PLACE}/octaves"


@pytest.mark.parametrize(
    ("inner", "where", "says"),
    [
        (recipe(step("noise", fields="colour")), "size", "size is a number, and this is a colour"),
        ({"signal": "nowhere"}, "size", "there is no signal “nowhere”"),
        (recipe(step("noise", size=-1)), "size/steps/0/params/size", "greater than or equal"),
        ({"steps": []}, "size/steps", "at least 1 item"),
        ({"signal": "round"}, "size", "round → round"),
    ],
)
def test_errors_lead_into_a_parameters_recipe(inner: Any, where: str, says: str) -> None:
    signals = [{"name": "round", "recipe": recipe(step("noise", size={"signal": "round"}))}]
    members = {"signals": signals} if inner == {"signal": "round"} else {}
    try:
        found = problems_of(step("noise", size=inner), **members)
    except DocumentError as error:
        found = error.problems
    assert any(says in problem.reason for problem in found)
    assert any(problem.pointer == f"{PLACE}/{where}" or "/signals/0" in problem.pointer for problem in found)


STOPS = [0.1, [0.8, 0.2, 0.0], 0.9, [0.0, 0.3, 1.0]]
PLACES = [0.0, 0.3, 0.3, 0.9]


def ramp(values: list[Any], **params: Any) -> dict[str, Any]:
    stops = [{"at": at, "value": value} for at, value in zip(PLACES, values, strict=True)]
    return step("ramp", stops=stops, **params)


@pytest.mark.parametrize("interpolation", ["constant", "linear", "smooth", "monotone"])
@pytest.mark.parametrize("colours", ["linear", "perceptual"])
def test_stops_by_recipe_are_as_their_values(interpolation: str, colours: str) -> None:
    more = {"interpolation": interpolation, "colours": colours}
    come = np.linspace(-0.5, 1.5, 400)
    come[7] = np.nan
    wanted = apply(ramp(STOPS, **more), to=come)
    for varied in ([0], [1, 3], [0, 1, 2, 3]):
        values = [recipe(step("constant", value=each)) if k in varied else each for k, each in enumerate(STOPS)]
        assert apply(ramp(values, **more), to=come) == pytest.approx(wanted, abs=2e-6, nan_ok=True)


def test_a_stop_takes_a_signal_and_its_errors_say_which_stop() -> None:
    paint = {"name": "paint", "recipe": recipe(step("noise", fields="colour", size=0.3))}
    data = {**here(), "attribute:x": np.full(COUNT, 0.9)}
    made = [step("attribute", attribute="x"), ramp([0.0, 0.0, 0.0, {"signal": "paint"}])]
    assert np.array_equal(run(*made, data=data, signals=[paint]), run(*paint["recipe"]["steps"], data=data))
    (problem,) = problems_of(step("noise"), ramp([0.0, 0.0, {"signal": "pint"}, 0.0]), signals=[paint])
    assert problem.pointer == "/looks/0/layers/0/where/steps/1/params/stops/2/value"
    assert "paint" in problem.hint


def test_signals_in_parameters_and_stops_are_renamed_found_and_written_out() -> None:
    signals = [{"name": "s", "recipe": recipe(step("noise", size=0.3, low=0.1, high=0.6))}]
    steps = [step("noise", size={"signal": "s"}), ramp([{"signal": "s"}, 0.1, recipe(step("signal", signal="s")), 1.0])]
    made = document(signals=signals, looks=[look("a", layer("l", recipe(*steps)))])
    assert [use.where for use in sharing.uses(made, "s")] == ["l · where"]
    data = here(footprint=0.01)
    wanted = run(*steps, data=data, signals=signals)

    def values(changed: dict[str, Any]) -> np.ndarray:
        own = changed["looks"][0]["layers"][0]["where"]["steps"]
        return run(*own, data=data, signals=changed["signals"])

    renamed = sharing.rename(made, "s", "other")
    assert '"s"' not in str(renamed["looks"]).replace("'", '"')
    assert np.array_equal(values(renamed), wanted)
    alone = sharing.inline(made, "s")
    assert alone["signals"] == []
    assert np.array_equal(values(alone), wanted)


def test_what_varies_meets_the_published_schema() -> None:
    numbers = [{"name": "n", "value": 0.2}]
    steps = [
        step("noise", size=recipe(step("noise")), gain={"signal": "s"}, octaves={"number": "n", "plus": 3}),
        ramp([{"number": "n"}, [0.1, {"number": "n"}, 0], {"signal": "s"}, recipe(step("noise"))]),
    ]
    made = document(
        numbers=numbers,
        signals=[{"name": "s", "recipe": recipe(step("noise"))}],
        looks=[look("a", layer("l", base_color={"recipe": recipe(*steps)}))],
        schema=2,
    )
    Draft202012Validator(shot_schema()).validate(made)
    assert check_shot(read_shot(made)) == []
    bad = document(looks=[look("a", layer("l", recipe(step("noise", octaves={"steps": [step("noise")]}))))], schema=2)
    assert not Draft202012Validator(shot_schema()).is_valid(bad)


def test_every_parameter_that_varies_is_a_number_and_told() -> None:
    for op, parameter in VARYING:
        assert type_word(ops()[op], parameter) == "number"
        assert ops()[op].bends <= set(ops()[op].can_vary)


def test_the_picture_through_the_renderer_is_that_of_the_number() -> None:
    files = MadeFiles(floor=square(4.0))
    things = [{"name": "f", "geometry": {"file": "floor"}, "look": "a"}]

    def picture(size: Any) -> np.ndarray:
        paint = {"recipe": recipe(step("noise", size=size, octaves=1), step("contrast", amount=constant(1.5)))}
        made = shot(
            objects=things,
            looks=[look("a", layer("l", base_color=paint))],
            camera={"position": [0, 0.5, 2], "target": [0, 0, 0]},
        )
        return render_frame(made, files, 32, 18, 4, 2).picture()

    # Large enough that nothing of it is finer than a pixel: what stands for what is finer is drawn at random.
    same = np.abs(picture(constant(3.0)) - picture(3.0))
    assert np.median(same) < 1e-3
    assert same.mean() < 1e-3
    assert np.abs(picture(SIZES) - picture(3.0)).mean() > 0.005
