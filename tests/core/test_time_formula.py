"""Formulas of frame and time: what they give, what they refuse, and numbers of a shot that follow them."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_tracks import PLACES, document, ids
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.resolved import resolve
from texallon.core.document.time_formula import Clock, TimeFormulaError, formula_bounds, parse_time_formula
from texallon.core.signal.check_recipes import check_shot

CLOCK = Clock(11, 59, 24.0)


def at(text: str, frame: float) -> float:
    return parse_time_formula(text)(CLOCK.at(frame))


EXAMPLES = [
    ("frame", 35.0), ("time", 1.0), ("share", 0.5), ("rate", 24.0), ("-time + 3", 2.0), ("2 ** 3 // 3 % 2", 0.0),
    ("sin(pi / 2 * time)", 1.0), ("1 if time >= 1 else 5", 1.0), ("0 < time < 2 and not share > 0.6", 1.0),
    ("clamp(frame, 0, 20) + min(1, 2) + max(3, 4, 5)", 26.0), ("mix(2, 4, share)", 3.0), ("smoothstep(0, 1, share)", 0.5),
    ("step(30, frame) + step(40, frame)", 1.0), ("wave(0.5 * time)", 1.0), ("floor(2.7) + ceil(0.2) + round(1.4)", 4.0),
    ("(-8) ** 0.5", 0.0), ("sqrt(-4) + exp(0) + log(1) + abs(-2) + tan(0) + cos(0)", 4.0),
]  # fmt: skip


@pytest.mark.parametrize(("text", "value"), EXAMPLES)
def test_what_may_be_written_gives_what_it_says(text: str, value: float) -> None:
    assert at(text, 35) == pytest.approx(value, abs=1e-12)


WRONG = [
    ("", "can't be read"), ("2 +", "can't be read"), ("tiem", "did you mean “time”"), ("sni(time)", "did you mean “sin”"),
    ("sin()", "takes 1 values"), ("__import__('os')", "there is no function"), ("time.real", "only numbers"), ("[1, 2]", "only numbers"),
    ("(lambda: 1)()", "only numbers"), ("'a'", "only numbers"), ("True", "only numbers"), ("f'{time}'", "only numbers"),
    ("sin(x=1)", "only numbers"), ("+".join(["1"] * 400), "more than 300 parts"), ("-" * 90 + "1", "brackets within"), ("1" + "0" * 400, "too large"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "words"), WRONG)
def test_what_may_not_is_refused_with_its_character(text: str, words: str) -> None:
    with pytest.raises(TimeFormulaError, match="character") as found:
        parse_time_formula(text)
    assert words in str(found.value)


@settings(deadline=None, max_examples=300)
@given(st.text(alphabet="0123456789.+-*/%()<>= ,timefrashwvnoglxp", max_size=40))
def test_any_text_gives_a_number_or_an_error(text: str) -> None:
    try:
        formula = parse_time_formula(text)
    except TimeFormulaError:
        return
    assert isinstance(formula(CLOCK.at(20.0)), float)


def test_what_wanders_is_smooth_stays_within_and_does_not_repeat() -> None:
    values = np.array([at(f"wander({x})", 11) for x in np.arange(0, 400, 0.05)])
    assert np.abs(values).max() <= 1 and values.std() > 0.3 and np.abs(np.diff(values)).max() < 0.2
    again = np.corrcoef(values[:4000], values[4000:])[0, 1]
    assert abs(again) < 0.2


def test_bounds_are_those_over_the_shot_and_none_where_it_has_no_value() -> None:
    assert formula_bounds("time * 2 - 1", CLOCK) == (-1.0, 3.0)
    assert math.isnan(formula_bounds("1 / (frame - 20)", CLOCK)[0])
    assert math.isnan(formula_bounds("9 ** 9 ** 9", CLOCK)[0])


def numbers_in(part: Any) -> list[float]:
    if isinstance(part, dict):
        return [number for each in part.values() for number in numbers_in(each)]
    if isinstance(part, (list, tuple)):
        return [number for each in part for number in numbers_in(each)]
    return [float(part)] if isinstance(part, (int, float)) else []


@pytest.mark.parametrize("place", PLACES)
def test_numbers_of_every_kind_of_place_follow(place: str) -> None:
    low, high = PLACES[place]
    plain = document()
    made = document(tracks=[{"at": ids(plain)[place], "formula": f"mix({low}, {high}, clamp(time * 2.4, 0, 1))"}])
    shot = read_shot(made)
    check_shot(shot)
    keys = [{"frame": f, "value": v, "interpolation": "linear"} for f, v in ((1, low), (11, high))]
    by_keys = read_shot(document(tracks=[{"at": ids(plain)[place], "keys": keys}]))
    for frame in (1, 6, 11):
        ours, theirs = (
            np.array(numbers_in(resolve(each, frame).model_dump(exclude={"tracks"}))) for each in (shot, by_keys)
        )
        assert np.allclose(ours, theirs, atol=1e-9)


AMISS: list[tuple[dict[str, Any], str, str]] = [
    ({"formula": "tiem * 2"}, "/tracks/0/formula", "character 1"),
    ({"formula": "1 / (frame - 5)"}, "/tracks/0/formula", "no finite number"),
    ({"formula": "10 ** 9"}, "/tracks/0/formula", "it gives 1e+09"),
    ({"formula": "-5 - time"}, "/tracks/0/formula", "can't be"),
    ({}, "/tracks/0", "keys, or a formula"),
    ({"formula": "time", "keys": [{"frame": 1, "value": 2.0}]}, "/tracks/0", "keys, or a formula"),
]


@pytest.mark.parametrize(("track", "path", "words"), AMISS)
def test_what_is_amiss_is_named_with_its_place(track: dict[str, Any], path: str, words: str) -> None:
    plain = document()
    with pytest.raises(DocumentError) as found:
        check_shot(read_shot(document(tracks=[{"at": ids(plain)["power"], **track}])))
    assert any(each.pointer == path and words in each.reason for each in found.value.problems), found.value.problems


def test_a_formula_that_leaves_what_its_place_can_have_beyond_the_shot_is_held_there() -> None:
    plain = document()
    shot = read_shot(document(tracks=[{"at": ids(plain)["opacity"], "formula": "share"}]))
    check_shot(shot)
    assert resolve(shot, 500).looks[0].layers[0].opacity == 1.0
    assert resolve(shot, -500).looks[0].layers[0].opacity == 0.0
