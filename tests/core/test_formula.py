"""Formulas: they compute what they say, point at what is wrong, and reach nothing else, whatever is written."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.builders import plan_of, recipe, run, shot, step
from texallon.core.document import DocumentError
from texallon.core.ops.expression import FUNCTIONS, MOST_NODES, NAMES, FormulaError, parse, renamed_signal
from texallon.core.signal.check_recipes import check_shot

RNG = np.random.default_rng(31)
P = RNG.uniform(-3, 3, (3, 500)).astype(np.float32)
N = (lambda v: v / np.linalg.norm(v, axis=0))(RNG.normal(size=(3, 500))).astype(np.float32)
UV = RNG.uniform(0, 1, (2, 500)).astype(np.float32)
DATA = {"position": P, "normal": N, "uv": UV, "view": N[[2, 0, 1]], "attribute:heat": P[:1]}
CAMERA = {"camera": {"position": [1, 2, 10], "target": [0, 0, 0]}}
EYE = np.array([[1], [2], [10]])


def value(text: str, frame: float | None = None, **members: Any) -> np.ndarray:
    return run(step("formula", expression=text), data=DATA, frame=frame, **(CAMERA | members))


def test_a_fog_ramp_is_one_line() -> None:
    assert np.allclose(value("length(position - camera) / 40")[0], np.linalg.norm(P - EYE, axis=0) / 40, atol=1e-5)
    assert np.allclose(value("distance / 40"), value("length(position - camera) / 40"), atol=1e-6)


X, Y, Z = P.astype(np.float64)
CASES: list[tuple[str, Any]] = [
    ("position.x + 2 * position.y - position.z / 4", X + 2 * Y - Z / 4),
    ("-position.x ** 2", -(X**2)),
    ("7 // 2 + 7 % 4", np.full(500, 6.0)),
    ("min(position.x, 0.5, position.y)", np.minimum(np.minimum(X, 0.5), Y)),
    ("max(position.x, position.z)", np.maximum(X, Z)),
    ("clamp(position.x)", np.clip(X, 0, 1)),
    ("clamp(position.x, -1, 2)", np.clip(X, -1, 2)),
    ("mix(1, 3, position.x)", 1 + X * 2),
    ("smoothstep(-1, 1, position.x)", (lambda t: t * t * (3 - 2 * t))(np.clip((X + 1) / 2, 0, 1))),
    ("step(0.5, position.x)", (X >= 0.5).astype(float)),
    ("abs(sin(position.x)) + cos(position.y) * tan(0.3)", np.abs(np.sin(X)) + np.cos(Y) * math.tan(0.3)),
    ("fract(position.x) + floor(position.y) + ceil(position.z)", X - np.floor(X) + np.floor(Y) + np.ceil(Z)),
    ("sqrt(abs(position.x)) + exp(position.y) + log(2)", np.sqrt(np.abs(X)) + np.exp(Y) + math.log(2)),
    ("atan2(position.x, position.z) + degrees(pi) + radians(90)", np.arctan2(X, Z) + 180 + math.pi / 2),
    ("1 if position.x > 0 and not position.y > 0 else -1", np.where((X > 0) & ~(Y > 0), 1, -1)),
    ("0 < position.x < 1 or position.y == position.y", np.ones(500)),
    ("dot(normal, normal)", np.ones(500)),
    ("length(cross(normal, view))", np.linalg.norm(np.cross(N.T, N[[2, 0, 1]].T), axis=1)),
    ("uv.u * 2 + uv.v", UV[0] * 2.0 + UV[1]),
    ("attribute(\"heat\") * 3", X * 3),
    ("sign(position.x) + mod(position.y, 0.5)", np.sign(X) + np.mod(Y, 0.5)),
]  # fmt: skip


@pytest.mark.parametrize(("text", "expected"), CASES, ids=[text for text, _ in CASES])
def test_formulas_mean_what_they_say(text: str, expected: np.ndarray) -> None:
    # NumPy in double precision as the reference.
    found = value(text)
    assert found.shape == (1, 500)
    assert np.allclose(found[0], expected, atol=3e-5, rtol=1e-4)


def test_vectors_and_colours() -> None:
    assert np.allclose(value("position * 2 - 1"), P * 2 - 1, atol=1e-5)
    assert np.allclose(value("normalize(position)"), P / np.linalg.norm(P, axis=0), atol=1e-5)
    made = value("colour(position.x, 0, 1)")
    assert np.allclose(made, np.stack([X, np.zeros(500), np.ones(500)]), atol=1e-6)
    assert value("position if position.x > 0 else normal").shape == (3, 500)


def test_time_and_frame_run_with_the_shot() -> None:
    frames = {"frames": {"first": 10, "last": 60, "rate": 25}}
    assert value("frame", frame=35, **frames)[0, 0] == 35
    assert value("time", frame=35, **frames)[0, 0] == pytest.approx(1.0)
    early, late = (plan_of(step("formula", expression="time"), frame=frame) for frame in (1, 2))
    assert early.key("value") != late.key("value"), "another frame is another value"
    assert plan_of(step("formula", expression="1"), frame=1).key("value") == plan_of(
        step("formula", expression="1"), frame=2
    ).key("value")


def test_signals_can_be_named_and_their_width_counts() -> None:
    signals = {
        "signals": [
            {"name": "damp", "recipe": recipe(step("position", read="x"))},
            {"name": "hue", "recipe": recipe(step("constant", value=[1, 0.5, 0]))},
        ]
    }
    assert np.allclose(value('signal("damp") * 2', **signals)[0], X * 2, atol=1e-5)
    assert np.allclose(value('signal("hue").g', **signals)[0], 0.5)
    with pytest.raises(DocumentError, match=r"a number has no “\.g”"):
        value('signal("damp").g', **signals)


def test_a_loop_through_a_formula_is_refused_by_naming_it() -> None:
    loop = [
        {"name": "a", "recipe": recipe(step("formula", expression='signal("b") + 1'))},
        {"name": "b", "recipe": recipe(step("signal", signal="a"))},
    ]
    assert any("a → b → a" in problem.reason for problem in check_shot(shot(signals=loop)))


def test_a_negative_base_has_no_fractional_power() -> None:
    assert value("(-8) ** 0.5")[0, 0] == 0
    assert value("pow(-2, 3)")[0, 0] == -8


@pytest.mark.parametrize(
    ("text", "character", "words"),
    [
        ("position.y +", 12, "can't be read"),
        ("2 * pozition.x", 5, "position"),
        ("sin position.x", 5, "can't be read"),
        ("clamp(position.y, 0, 1, 2)", 1, "1 to 3 values"),
        ("1 + sin(position.x, 2)", 5, "“sin” takes 1"),
        ("position.w", 10, "use .x, .y or .z"),
        ("length(2)", 8, "takes vectors"),
        ("1 + lenght(position)", 5, "length"),
        ("'text'", 1, "only numbers"),
        ("1e99", 1, "too large"),
        ("sin", 1, "needs its brackets"),
        ("signal(damp)", 1, "one name in quotes"),
        ("ümlaut + positoin", 1, "nothing named"),
        ("1 +\n 2 * bogus", 10, "nothing named"),
    ],
)
def test_errors_point_at_the_character(text: str, character: int, words: str) -> None:
    with pytest.raises(FormulaError) as caught:
        parse(text).width({})
    assert caught.value.at + 1 == character
    assert words in str(caught.value)
    problem = check_shot(
        shot(looks=[{"name": "l", "layers": [{"name": "a", "where": recipe(step("formula", expression=text))}]}])
    )[0]
    assert problem.pointer == "/looks/0/layers/0/where/steps/0/params/expression"
    assert problem.character == character - 1
    assert words in problem.reason


HOSTILE = [
    "__import__('os').system('true')",
    "open('/etc/passwd').read()",
    "().__class__.__bases__[0].__subclasses__()",
    "position.__class__",
    "position.real.data",
    "normal.tofile('x')",
    "eval('1')",
    "exec('1')",
    "(lambda: 1)()",
    "[x for x in (1, 2)]",
    "{1: 2}",
    "{1, 2}",
    "(1, 2)",
    "[1]",
    "f'{position}'",
    "b'1'",
    "position[0]",
    "x := 3",
    "(y := 3)",
    "await position",
    "yield",
    "*position",
    "max(*position)",
    "max(position, key=1)",
    "signal(signal('a'))",
    "signal(name='a')",
    "attribute('x' * 9)",
    "min.__globals__",
    "np.load('x')",
    "1 @ 2",
    "1 << 40",
    "1 & 2",
    "~1",
    "...",
    "None",
    "True",
    "1j",
    "9 ** 9 ** 9 ** 9 ** 9 and 1; 2",
    "import os",
    "position = 1",
    "del position",
    "\x00",
    "\ud800",
    "1" * 5000,
    "1e999",
    "-" * 2000 + "1",
    "(" * 300 + "1" + ")" * 300,
    "not " * 200 + "1",
    "+".join(["1"] * 900),
    "sin(" * 190 + "1" + ")" * 190,
]


@pytest.mark.parametrize("text", HOSTILE, ids=range(len(HOSTILE)))
def test_hostile_text_is_refused_and_nothing_else_happens(text: str) -> None:
    with pytest.raises(FormulaError):
        parse(text)


def test_a_power_tower_costs_no_more_than_its_operations() -> None:
    # Python would count digits for ever; arrays of float32 give infinity at once.
    assert np.isinf(value("9 ** 9 ** 9")[0, 0])


def test_formulas_have_a_size() -> None:
    assert np.allclose(value("+".join(["1"] * 120)), 120)
    with pytest.raises(FormulaError, match="too long"):
        parse("+".join(["1"] * MOST_NODES))


WORDS = st.sampled_from(
    [*NAMES, *FUNCTIONS, "signal", "attribute", "(", ")", ",", ".", ".x", "+", "-", "*", "/", "**", "<", "==", "if", "else",
     "and", "not", "0", "1.5", "'a'", '"damp"', "[", "]", "lambda", "__class__", ":", "for", "in", " ", "\n", "é", "=", "@"]
)  # fmt: skip


@given(st.one_of(st.lists(WORDS, max_size=24).map(" ".join), st.text(max_size=60)))
@example("position.x if distance > 2 else uv.v ** 0.5")
@example("\r0")
@settings(max_examples=400)
def test_any_text_is_a_formula_or_a_formula_error(text: str) -> None:
    try:
        parsed = parse(text)
        width = parsed.width(dict.fromkeys(parsed.signals, 1))
    except FormulaError as error:
        where = error.at
        width = 0
    if width == 0:
        assert 0 <= where <= len(text)
        return
    assert width in (1, 3)
    assert parsed.names <= set(NAMES)
    if not parsed.signals and not parsed.attributes and text.strip():
        made = run(step("formula", expression=text), data=DATA, **CAMERA) if 1 <= len(text) <= 1000 else None
        assert made is None or made.shape == (width, 500)


def test_a_signal_is_renamed_within_formulas_and_nowhere_else() -> None:
    text = 'signal("damp") * attribute("damp") + signal( \'damp\' ) + signal("damper")'
    assert renamed_signal(text, "damp", 'we"t') == (
        'signal("we\\"t") * attribute("damp") + signal( "we\\"t" ) + signal("damper")'
    )
    assert renamed_signal("nonsense(", "damp", "wet") == "nonsense("
    assert parse(renamed_signal(text, "damp", 'we"t')).signals == {'we"t', "damper"}
