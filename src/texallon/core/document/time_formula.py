"""Numbers that follow from the moment: a formula of `frame` and `time`, a safe subset of Python's expressions that is parsed and never run.

May be written: numbers; `frame`, `time` in seconds since the first frame, `share` 0…1 over the shot, `rate`, `pi`; + - * / // % **; comparisons,
`and`, `or`, `not`, `a if b else c`; and the functions in `FUNCTIONS`.
"""

import ast
import math
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import NamedTuple

from texallon.core.document.names import nearest

MOST_NODES, DEEPEST = 300, 60

NAMES = ("frame", "time", "share", "rate", "pi")


class Moment(NamedTuple):
    """When a formula is looked at."""

    frame: float
    time: float
    share: float
    rate: float
    pi: float = math.pi


class Clock(NamedTuple):
    """A shot's frames, by which a frame has a time."""

    first: int
    last: int
    rate: float

    def at(self, frame: float) -> Moment:
        """The moment of a frame.

        Parameters
        ----------
        frame : float
            Of the shot; may lie outside of it.
        """
        length = max(self.last - self.first, 1)
        return Moment(frame, (frame - self.first) / self.rate, (frame - self.first) / length, self.rate)


class TimeFormulaError(ValueError):
    """What is wrong with a formula, and at which character (counted from 1)."""

    def __init__(self, at: int, reason: str) -> None:
        super().__init__(f"character {at + 1}: {reason}")


Term = Callable[[Moment], float]


def _smoothstep(low: float, high: float, x: float) -> float:
    share = min(max((x - low) / (high - low), 0.0), 1.0) if high != low else float(x >= low)
    return share * share * (3 - 2 * share)


def _wave(turns: float) -> float:
    """Up and down between 0 and 1, once a turn, from 0."""
    return 0.5 - 0.5 * math.cos(2 * math.pi * turns)


def _chance(number: int) -> float:
    mixed = (number * 0x9E3779B97F4A7C15 + 0x632BE59BD9B4E019) & 0xFFFFFFFFFFFFFFFF
    mixed = ((mixed ^ (mixed >> 30)) * 0xBF58476D1CE4E5B9) & 0xFFFFFFFFFFFFFFFF
    mixed = ((mixed ^ (mixed >> 27)) * 0x94D049BB133111EB) & 0xFFFFFFFFFFFFFFFF
    return ((mixed ^ (mixed >> 31)) >> 11) / 2.0**53


def _wander(x: float) -> float:
    """Smooth irregular values between −1 and 1, about one swing a unit (S. Vigna's and G. Steele's mixing of integers, 2014)."""
    low = math.floor(x)
    share = x - low
    eased = share * share * share * (share * (share * 6 - 15) + 10)
    a, b = (2 * _chance(low + step) - 1 for step in (0, 1))
    return a + (b - a) * eased


FUNCTIONS: Mapping[str, tuple[Callable[..., float], int, int]] = {
    "abs": (abs, 1, 1),
    "min": (min, 2, 8),
    "max": (max, 2, 8),
    "floor": (math.floor, 1, 1),
    "ceil": (math.ceil, 1, 1),
    "round": (round, 1, 1),
    "sqrt": (lambda x: math.sqrt(max(x, 0.0)), 1, 1),
    "exp": (math.exp, 1, 1),
    "log": (math.log, 1, 1),
    "sin": (math.sin, 1, 1),
    "cos": (math.cos, 1, 1),
    "tan": (math.tan, 1, 1),
    "clamp": (lambda x, low, high: min(max(x, low), high), 3, 3),
    "mix": (lambda a, b, share: a + (b - a) * share, 3, 3),
    "step": (lambda edge, x: float(x >= edge), 2, 2),
    "smoothstep": (_smoothstep, 3, 3),
    "wave": (_wave, 1, 1),
    "wander": (_wander, 1, 1),
}

_TWO: Mapping[type[ast.AST], Callable[[float, float], float]] = {
    ast.Add: lambda a, b: a + b,
    ast.Sub: lambda a, b: a - b,
    ast.Mult: lambda a, b: a * b,
    ast.Div: lambda a, b: a / b,
    ast.FloorDiv: lambda a, b: a // b,
    ast.Mod: lambda a, b: a % b,
    ast.Pow: lambda a, b: 0.0 if a < 0 and b != math.floor(b) else math.pow(a, b),
}
_COMPARED: Mapping[type[ast.AST], Callable[[float, float], bool]] = {
    ast.Lt: lambda a, b: a < b,
    ast.LtE: lambda a, b: a <= b,
    ast.Gt: lambda a, b: a > b,
    ast.GtE: lambda a, b: a >= b,
    ast.Eq: lambda a, b: a == b,
    ast.NotEq: lambda a, b: a != b,
}


@lru_cache(2048)
def parse_time_formula(text: str) -> Term:
    """A formula as a function of the moment.

    Parameters
    ----------
    text : str
        As a person wrote it.

    Returns
    -------
    callable
        Gives a number, which may be infinite or none.

    Raises
    ------
    TimeFormulaError
        With the character.

    Examples
    --------
    >>> parse_time_formula("2 * time + 1")(Clock(1, 48, 24.0).at(13))
    2.0
    """
    try:
        tree = ast.parse(text.strip() or " ", mode="eval")
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        at = getattr(error, "offset", None) or 1
        raise TimeFormulaError(at - 1, "this can't be read as a formula") from error
    if sum(1 for _ in ast.walk(tree)) > MOST_NODES:
        raise TimeFormulaError(0, f"a formula of more than {MOST_NODES} parts")
    term = _term(tree.body, 0)

    def value(moment: Moment) -> float:
        try:
            found = float(term(moment))
        except OverflowError:
            return math.inf
        except (ArithmeticError, ValueError):
            return math.nan
        return found

    return value


def _term(node: ast.AST, depth: int) -> Term:
    at = getattr(node, "col_offset", 0)
    if depth > DEEPEST:
        raise TimeFormulaError(at, "brackets within brackets within brackets: use a simpler formula")
    inner = depth + 1
    if isinstance(node, ast.Constant) and isinstance(node.value, (int, float)) and not isinstance(node.value, bool):
        try:
            number = float(node.value)
        except OverflowError as error:
            raise TimeFormulaError(at, "this number is too large") from error
        return lambda _: number
    if isinstance(node, ast.Name):
        if node.id not in NAMES:
            raise TimeFormulaError(at, f"there is no “{node.id}”: {nearest(node.id, NAMES)}")
        name = node.id
        return lambda moment: float(getattr(moment, name))
    if isinstance(node, ast.BinOp) and type(node.op) in _TWO:
        two, a, b = _TWO[type(node.op)], _term(node.left, inner), _term(node.right, inner)
        return lambda moment: two(a(moment), b(moment))
    if isinstance(node, ast.UnaryOp):
        one = _term(node.operand, inner)
        if isinstance(node.op, ast.USub):
            return lambda moment: -one(moment)
        if isinstance(node.op, ast.UAdd):
            return one
        if isinstance(node.op, ast.Not):
            return lambda moment: float(not one(moment))
    if isinstance(node, ast.BoolOp):
        parts, every = [_term(each, inner) for each in node.values], isinstance(node.op, ast.And)
        return lambda moment: float((all if every else any)(each(moment) for each in parts))
    if isinstance(node, ast.IfExp):
        test, yes, no = (_term(each, inner) for each in (node.test, node.body, node.orelse))
        return lambda moment: yes(moment) if test(moment) else no(moment)
    if isinstance(node, ast.Compare) and all(type(each) in _COMPARED for each in node.ops):
        sides = [_term(each, inner) for each in (node.left, *node.comparators)]
        signs = [_COMPARED[type(each)] for each in node.ops]
        return lambda moment: float(
            all(s(a(moment), b(moment)) for s, a, b in zip(signs, sides, sides[1:], strict=False))
        )
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and not node.keywords:
        return _call(node.func.id, node, at, inner)
    raise TimeFormulaError(
        at, "only numbers, frame, time, share, rate, pi, their arithmetic and functions can stand here"
    )


def _call(name: str, node: ast.Call, at: int, depth: int) -> Term:
    if name not in FUNCTIONS:
        raise TimeFormulaError(at, f"there is no function “{name}”: {nearest(name, FUNCTIONS)}")
    run, least, most = FUNCTIONS[name]
    if not least <= len(node.args) <= most:
        wanted = f"{least}" if least == most else f"{least} to {most}"
        raise TimeFormulaError(at, f"“{name}” takes {wanted} values, not {len(node.args)}")
    given = [_term(each, depth) for each in node.args]
    return lambda moment: run(*(each(moment) for each in given))


MOST_LOOKED_AT = 2048


@lru_cache(1024)
def formula_bounds(text: str, clock: Clock) -> tuple[float, float]:
    """The lowest and highest value over a shot's frames; of a longer shot over as many as 2 048.

    Parameters
    ----------
    text : str
        A formula that can be read.
    clock : Clock
        Of the shot.
    """
    formula = parse_time_formula(text)
    count = max(clock.last - clock.first, 0)
    steps = min(count, MOST_LOOKED_AT)
    values = [formula(clock.at(clock.first + (count * at / steps if steps else 0))) for at in range(steps + 1)]
    if any(not math.isfinite(each) for each in values):
        return math.nan, math.nan
    return min(values), max(values)
