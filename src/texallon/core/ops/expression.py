"""A safe subset of Python's expressions, turned into operations on whole arrays.

The text is parsed by Python's own parser and never run: every node of the tree is either one of those known here or an error
that points at its character. What may be written: numbers; the names in `NAMES`; `.x`, `.y`, `.z` (or `.r`, `.g`, `.b`,
`.u`, `.v`); + - * / // % **; comparisons, `and`, `or`, `not`, `a if b else c`; the functions in `FUNCTIONS`; and
`signal("name")`, `attribute("name")` and `number("name")`.
"""

import ast
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import isfinite, pi
from typing import Any

import numpy as np

from texallon.core.document.names import nearest
from texallon.core.kernel import Array
from texallon.core.ops.points import Points
from texallon.core.points import ATTRIBUTE, point_data_kinds

MOST_NODES = 400
DEEPEST = 150

POINT_DATA = {name: 3 if kind.width > 1 else 1 for name, kind in point_data_kinds().items() if kind.in_formulas}

NAMES = {**POINT_DATA, "camera": 3, "distance": 1, "time": 1, "frame": 1, "pi": 1}
"""What a formula may name, with its width. `uv` has 0 for its third; `distance` is to the camera, in metres."""

COMPONENTS = {"x": 0, "y": 1, "z": 2, "r": 0, "g": 1, "b": 2, "u": 0, "v": 1}


class FormulaError(ValueError):
    """What is wrong with a formula, and at which character (counted from 1)."""

    def __init__(self, at: int, reason: str) -> None:
        super().__init__(f"character {at + 1}: {reason}")
        self.at = at


@dataclass(frozen=True)
class Function:
    """`least` to `most` arguments; the result is as wide as the widest argument unless `width` says otherwise.

    `numbers_only` refuses vectors, `vectors` lists the arguments that must be vectors.
    """

    run: Callable[..., Any]
    least: int
    most: int
    width: int = 0
    vectors: bool = False
    numbers_only: bool = False


def _power(a: Any, b: Any) -> Any:
    whole = np.floor(b) == b
    base = np.where((a < 0) & ~whole, np.float32(0), a)
    return np.where((a < 0) & ~whole, np.float32(0), np.power(base, b))


def _smoothstep(low: Any, high: Any, x: Any) -> Any:
    t = np.clip((x - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def _dot(a: Any, b: Any) -> Any:
    return (a[0] * b[0] + a[1] * b[1] + a[2] * b[2])[None]


def _length(a: Any) -> Any:
    return np.sqrt(_dot(a, a))


def _normalize(a: Any) -> Any:
    size = _length(a)
    return a / np.where(size > 0, size, np.float32(1))


def _cross(a: Any, b: Any) -> Any:
    return np.stack([a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]])


def _vector(x: Any, y: Any, z: Any) -> Any:
    return np.concatenate(np.broadcast_arrays(x, y, z))


def _lowest(*values: Any) -> Any:
    result = values[0]
    for value in values[1:]:
        result = np.minimum(result, value)
    return result


def _highest(*values: Any) -> Any:
    result = values[0]
    for value in values[1:]:
        result = np.maximum(result, value)
    return result


FUNCTIONS: dict[str, Function] = {
    "min": Function(_lowest, 2, 16),
    "max": Function(_highest, 2, 16),
    "clamp": Function(lambda x, low=0.0, high=1.0: np.minimum(np.maximum(x, low), high), 1, 3),
    "mix": Function(lambda a, b, t: a + t * (b - a), 3, 3),
    "smoothstep": Function(_smoothstep, 3, 3),
    "step": Function(lambda edge, x: np.greater_equal(x, edge), 2, 2),
    "abs": Function(np.abs, 1, 1),
    "sign": Function(np.sign, 1, 1),
    "floor": Function(np.floor, 1, 1),
    "ceil": Function(np.ceil, 1, 1),
    "round": Function(np.rint, 1, 1),
    "fract": Function(lambda x: x - np.floor(x), 1, 1),
    "mod": Function(np.mod, 2, 2),
    "pow": Function(_power, 2, 2),
    "sqrt": Function(np.sqrt, 1, 1),
    "exp": Function(np.exp, 1, 1),
    "log": Function(np.log, 1, 1),
    "sin": Function(np.sin, 1, 1),
    "cos": Function(np.cos, 1, 1),
    "tan": Function(np.tan, 1, 1),
    "asin": Function(np.arcsin, 1, 1),
    "acos": Function(np.arccos, 1, 1),
    "atan": Function(np.arctan, 1, 1),
    "atan2": Function(np.arctan2, 2, 2),
    "radians": Function(np.radians, 1, 1),
    "degrees": Function(np.degrees, 1, 1),
    "length": Function(_length, 1, 1, width=1, vectors=True),
    "dot": Function(_dot, 2, 2, width=1, vectors=True),
    "normalize": Function(_normalize, 1, 1, width=3, vectors=True),
    "cross": Function(_cross, 2, 2, width=3, vectors=True),
    "vector": Function(_vector, 3, 3, width=3, numbers_only=True),
    "colour": Function(_vector, 3, 3, width=3, numbers_only=True),
}

OPERATORS: dict[type[ast.AST], Callable[..., Any]] = {
    ast.Add: np.add,
    ast.Sub: np.subtract,
    ast.Mult: np.multiply,
    ast.Div: np.divide,
    ast.FloorDiv: np.floor_divide,
    ast.Mod: np.mod,
    ast.Pow: _power,
    ast.Lt: np.less,
    ast.LtE: np.less_equal,
    ast.Gt: np.greater,
    ast.GtE: np.greater_equal,
    ast.Eq: np.equal,
    ast.NotEq: np.not_equal,
}


@dataclass(frozen=True)
class Term:
    """One node: how to find its width from the signals' widths, and its values from the leaves' values."""

    at: int
    width: Callable[[Mapping[str, int]], int]
    run: Callable[[Mapping[str, Any]], Any]


@dataclass(frozen=True)
class Parsed:
    """A formula ready to run."""

    term: Term
    names: frozenset[str]
    signals: frozenset[str]
    attributes: frozenset[str]

    @property
    def required_data(self) -> frozenset[str]:
        """The point data it reads."""
        data = self.names & POINT_DATA.keys()
        data |= {"position"} if "distance" in self.names else set()
        return frozenset(data | {ATTRIBUTE + name for name in self.attributes})

    @property
    def uses_camera(self) -> bool:
        return bool(self.names & {"camera", "distance"})

    @property
    def time_dependent(self) -> bool:
        return bool(self.names & {"time", "frame"})

    def width(self, signals: Mapping[str, int]) -> int:
        """1 or 3, given the widths of its signals; raises `FormulaError` where widths do not fit.

        Parameters
        ----------
        signals : mapping
            Widths of its signals by name.
        """
        return self.term.width(signals)

    def values(self, points: Points, signals: Mapping[str, Array]) -> Any:
        """Values `(1 or 3, n)`, or of a shape that widens to it.

        Parameters
        ----------
        points : Points
            Where the op is evaluated, with the data it asked for.
        signals : mapping
            Values of its signals by name.
        """
        leaves: dict[str, Any] = {f"signal:{name}": values for name, values in signals.items()}
        for name in self.names & POINT_DATA.keys():
            leaves[name] = points.position("uv") if name == "uv" else points.data[name]
        for name in self.attributes:
            leaves[ATTRIBUTE + name] = points.data[ATTRIBUTE + name][:1]
        if self.uses_camera:
            matrix = points.world_to_space["camera"].astype(np.float64)
            eye = (-matrix[:, :3].T @ matrix[:, 3]).astype(np.float32)[:, None]
            leaves["camera"] = eye
            if "distance" in self.names:
                leaves["distance"] = _length(points.data["position"] - eye)
        leaves["time"] = np.full((1, 1), points.time, np.float32)
        leaves["frame"] = np.full((1, 1), points.frame, np.float32)
        leaves["pi"] = np.full((1, 1), pi, np.float32)
        return self.term.run(leaves)


def parse(text: str) -> Parsed:
    """Read a formula; raises `FormulaError`, whatever the text is. It may be broken into lines anywhere.

    Parameters
    ----------
    text : str
        A formula.
    """
    text = text.replace("\n", " ").replace("\r", " ")
    try:
        tree = ast.parse(text, mode="eval")
    except SyntaxError as error:
        # Where the text ends too soon there is no offset: then its last character is pointed at.
        at = error.offset - 1 if error.offset else len(text.rstrip()) - 1
        raise FormulaError(min(max(at, 0), len(text)), f"this can't be read ({error.msg})") from None
    except (ValueError, RecursionError, MemoryError, OverflowError):
        raise FormulaError(0, "this can't be read: it is nested too deeply or holds what is no text") from None
    if sum(1 for _ in ast.walk(tree)) > MOST_NODES:
        raise FormulaError(0, f"the formula is too long: at most {MOST_NODES} names, numbers and operations")
    reader = _Reader(text)
    term = reader.term(tree.body, 0)
    return Parsed(term, frozenset(reader.names), frozenset(reader.signals), frozenset(reader.attributes))


def renamed_signal(text: str, old: str, new: str) -> str:
    """The formula with one signal called by another name; what can't be read stays as it is.

    Parameters
    ----------
    text : str
        A formula.
    old : str
        The name until now.
    new : str
        The name from now on.
    """
    try:
        parse(text)
    except FormulaError:
        return text
    reader = _Reader(text)
    calls = [
        node.args[0]
        for node in ast.walk(ast.parse(text, mode="eval"))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "signal" and node.args
    ]
    named = [each for each in calls if isinstance(each, ast.Constant) and each.value == old]
    for each in sorted(named, key=reader.at, reverse=True):
        start, end = reader.at(each), reader.end(each)
        quoted = '"' + new.replace("\\", "\\\\").replace('"', '\\"') + '"'
        text = text[:start] + quoted + text[end:]
    return text


class _Reader:
    """Turns nodes of the tree into terms."""

    def __init__(self, text: str) -> None:
        lines = text.split("\n")
        self._starts = [sum(len(line) + 1 for line in lines[:number]) for number in range(len(lines))]
        self._lines = lines
        self.names: set[str] = set()
        self.signals: set[str] = set()
        self.attributes: set[str] = set()

    def at(self, node: Any) -> int:
        """The character that a node starts at; Python counts bytes.

        Parameters
        ----------
        node : ast.AST
            Of the parsed formula.

        Returns
        -------
        int
            From the start of the text.
        """
        line: str = self._lines[node.lineno - 1]
        start: int = self._starts[node.lineno - 1]
        return start + len(line.encode()[: node.col_offset].decode(errors="ignore"))

    def end(self, node: Any) -> int:
        """The character after a node.

        Parameters
        ----------
        node : ast.AST
            Of the parsed formula.

        Returns
        -------
        int
            From the start of the text.
        """
        line: str = self._lines[node.end_lineno - 1]
        start: int = self._starts[node.end_lineno - 1]
        return start + len(line.encode()[: node.end_col_offset].decode(errors="ignore"))

    def term(self, node: ast.AST, depth: int) -> Term:
        """A node as what is computed for it; raises `FormulaError` with its place.

        Parameters
        ----------
        node : ast.AST
            Of the parsed formula.
        depth : int
            How deep it is nested, at most `DEEPEST`.
        """
        at = self.at(node)
        if depth > DEEPEST:
            raise FormulaError(at, f"nested more than {DEEPEST} deep")
        inner = depth + 1
        if isinstance(node, ast.Constant):
            return self._number(node, at)
        if isinstance(node, ast.Name):
            return self._name(node.id, at)
        if isinstance(node, ast.Attribute):
            return self._part(node, at, inner)
        if isinstance(node, ast.BinOp) and type(node.op) in OPERATORS:
            return _joined(at, OPERATORS[type(node.op)], [self.term(node.left, inner), self.term(node.right, inner)])
        if isinstance(node, ast.UnaryOp) and isinstance(node.op, (ast.USub, ast.UAdd, ast.Not)):
            run: Any = {ast.USub: np.negative, ast.UAdd: np.positive, ast.Not: lambda x: x == 0}[type(node.op)]
            return _joined(at, run, [self.term(node.operand, inner)])
        if isinstance(node, ast.Compare) and all(type(op) in OPERATORS for op in node.ops):
            values = [self.term(each, inner) for each in (node.left, *node.comparators)]
            pairs = [
                _joined(at, OPERATORS[type(op)], [a, b])
                for op, a, b in zip(node.ops, values[:-1], values[1:], strict=True)
            ]
            return pairs[0] if len(pairs) == 1 else _joined(at, _all_of, pairs)
        if isinstance(node, ast.BoolOp):
            join = _all_of if isinstance(node.op, ast.And) else _any_of
            return _joined(at, join, [self.term(each, inner) for each in node.values])
        if isinstance(node, ast.IfExp):
            terms = [self.term(each, inner) for each in (node.test, node.body, node.orelse)]
            return _joined(at, lambda test, yes, no: np.where(test != 0, yes, no), terms)
        if isinstance(node, ast.Call):
            return self._call(node, at, inner)
        raise FormulaError(at, f"this is not part of a formula ({type(node).__name__})")

    def _number(self, node: ast.Constant, at: int) -> Term:
        value = node.value
        if isinstance(value, bool) or not isinstance(value, (int, float)):
            raise FormulaError(at, "only numbers may stand here")
        try:
            number = float(value)
        except OverflowError:
            number = float("inf")
        if not isfinite(number) or abs(number) > 1e30:
            raise FormulaError(at, "this number is too large")
        made = np.full((1, 1), number, np.float32)
        return Term(at, lambda widths: 1, lambda leaves: made)

    def _name(self, name: str, at: int) -> Term:
        if name not in NAMES:
            hint = "a function needs its brackets" if name in FUNCTIONS else nearest(name, NAMES)
            raise FormulaError(at, f"there is nothing named “{name}”: {hint}")
        self.names.add(name)
        return Term(at, lambda widths: NAMES[name], lambda leaves: leaves[name])

    def _part(self, node: ast.Attribute, at: int, depth: int) -> Term:
        whole = self.term(node.value, depth)
        end = self.end(node) - len(node.attr)
        if node.attr not in COMPONENTS:
            raise FormulaError(end, f"there is no “.{node.attr}”: use .x, .y or .z")
        part = COMPONENTS[node.attr]

        def width(widths: Mapping[str, int]) -> int:
            if whole.width(widths) != 3:
                raise FormulaError(end, f"a number has no “.{node.attr}”")
            return 1

        return Term(at, width, lambda leaves: whole.run(leaves)[part : part + 1])

    def _call(self, node: ast.Call, at: int, depth: int) -> Term:
        if not isinstance(node.func, ast.Name):
            raise FormulaError(at, "only the listed functions can be called")
        name = node.func.id
        if node.keywords:
            raise FormulaError(at, f"“{name}” takes its values in order, without names")
        if name in ("signal", "attribute", "number"):  # a number is written out before a formula is run
            return self._stored(name, node, at)
        if name not in FUNCTIONS:
            raise FormulaError(
                at, f"there is no function “{name}”: {nearest(name, [*FUNCTIONS, 'signal', 'attribute', 'number'])}"
            )
        function = FUNCTIONS[name]
        count = len(node.args)
        if not function.least <= count <= function.most:
            wanted = str(function.least) if function.least == function.most else f"{function.least} to {function.most}"
            raise FormulaError(at, f"“{name}” takes {wanted} values, not {count}")
        return _joined(at, function.run, [self.term(each, depth) for each in node.args], name, function)

    def _stored(self, kind: str, node: ast.Call, at: int) -> Term:
        given = node.args[0] if len(node.args) == 1 else None
        if not isinstance(given, ast.Constant) or not isinstance(given.value, str) or not 1 <= len(given.value) <= 80:
            raise FormulaError(at, f'“{kind}” takes one name in quotes, such as {kind}("damp")')
        name = given.value
        leaf = f"{kind}:{name}"
        if kind == "number":
            return Term(at, lambda widths: 1, lambda leaves: np.zeros((1, 1), np.float32))
        if kind == "attribute":
            self.attributes.add(name)
            return Term(at, lambda widths: 1, lambda leaves: leaves[leaf])
        self.signals.add(name)
        return Term(at, lambda widths: widths[name], lambda leaves: leaves[leaf])


def _all_of(*values: Any) -> Any:
    result = values[0] != 0
    for value in values[1:]:
        result = result & (value != 0)
    return result


def _any_of(*values: Any) -> Any:
    result = values[0] != 0
    for value in values[1:]:
        result = result | (value != 0)
    return result


def _joined(
    at: int, run: Callable[..., Any], terms: list[Term], name: str = "", function: Function | None = None
) -> Term:
    def width(widths: Mapping[str, int]) -> int:
        found = [term.width(widths) for term in terms]
        if function is not None:
            for term, own in zip(terms, found, strict=True):
                if function.vectors and own != 3:
                    raise FormulaError(term.at, f"“{name}” takes vectors, and this is a number")
                if function.numbers_only and own != 1:
                    raise FormulaError(term.at, f"“{name}” takes numbers, and this is a vector")
            if function.width:
                return function.width
        return max(found)

    def values(leaves: Mapping[str, Any]) -> Any:
        result = run(*(term.run(leaves) for term in terms))
        return result.astype(np.float32) if result.dtype != np.float32 else result

    return Term(at, width, values)
