"""What an op is: parameters with units and ranges, the point data it needs, and a way to run over many points.

A new op is one new file in this folder: a subclass of `Source` or `Modifier` with its kernel beside it.
The interface, the shell's list and the JSON Schema are all made from what the class says of itself.
"""

from collections.abc import Mapping
from typing import Any, ClassVar, Literal, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, PrivateAttr

from texallon.core.document.base import SMALLEST, Finite
from texallon.core.document.recipe import Recipe, SignalRef
from texallon.core.document.space import Space, footprint_in, position_in, space_key
from texallon.core.kernel import Array
from texallon.core.ops.points import Points

__all__ = ["Space", "footprint_in", "position_in", "space_key"]

Colour = tuple[Finite, Finite, Finite]
Input = Finite | Colour | SignalRef | Recipe
"""A number, a scene-linear colour, a named signal, or a recipe of its own."""

Kind = Literal["warp", "source", "modifier"]


class WrongParameterError(ValueError):
    """A parameter that is wrong in a way that only shows once everything around it is known."""

    def __init__(self, parameter: str, reason: str, hint: str = "", character: int | None = None) -> None:
        super().__init__(reason)
        self.parameter, self.reason, self.hint, self.character = parameter, reason, hint, character


def format_input(value: Any) -> str:
    """A number as a person reads it, or what stands in its place.

    Parameters
    ----------
    value : object
        A number, a colour, a signal or a recipe.
    """
    if isinstance(value, SignalRef):
        return f"“{value.signal}”"
    if isinstance(value, Recipe):
        return "its own recipe"
    return f"{float(np.ravel(value)[0]):.3g}"


def param(
    default: Any,
    doc: str,
    *,
    unit: str = "",
    low: float | None = None,
    high: float | None = None,
    above: float | None = None,
    kind: str | None = None,
) -> Any:
    """A parameter: `low` and `high` are inclusive limits, `above` an exclusive lower one.

    Parameters
    ----------
    default : object
        The value it has unless given.
    doc : str
        What it does, in a sentence.
    unit : str, optional
        As it is written.
    low : float, optional
        Least, itself allowed.
    high : float, optional
        Most, itself allowed.
    above : float, optional
        Least, itself not allowed.
    kind : str, optional
        What the page offers for it, where its type does not say.
    """
    if above == 0:  # a number so small that its reciprocal is infinite is none
        low, above = SMALLEST, None
    extra: dict[str, Any] = {"unit": unit} | ({"kind": kind} if kind else {})
    return Field(default, description=doc, ge=low, le=high, gt=above, json_schema_extra=extra)


def value_at(value: float, inputs: Mapping[str, Array], name: str) -> Any:
    """A parameter for NumPy's arithmetic: a number, or `(n,)` where it varies from point to point.

    Parameters
    ----------
    value : float
        Where it is the same everywhere.
    inputs : mapping
        By parameter, each `(1 or 3, n)`.
    name : str
        Of the parameter.
    """
    return inputs[name][0] if name in inputs else np.float32(value)


def row_of(value: float, inputs: Mapping[str, Array], name: str, count: int) -> Array:
    """A parameter at each point `(n,)`, for kernels.

    Parameters
    ----------
    value : float
        Where it is the same everywhere.
    inputs : mapping
        By parameter, each `(1 or 3, n)`.
    name : str
        Of the parameter.
    count : int
        Number of points, n.

    Returns
    -------
    Array
        `(n,)`.
    """
    return inputs[name][0] if name in inputs else np.full(count, value, np.float32)


def change_of(name: str) -> str:
    """Under which name a source finds how much a parameter that varies changes within a sample, `(1, n)`.

    Parameters
    ----------
    name : str
        Of a parameter in `bends`.
    """
    return f"{name} within a sample"


class Op(BaseModel):
    """One kind of source or step. Instances hold validated parameters and never change."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: ClassVar[str]
    kind: ClassVar[Kind]
    category: ClassVar[str] = ""
    """Under which heading it is offered."""
    purpose: ClassVar[str]
    reference: ClassVar[str] = "definition"
    narrow: ClassVar[Mapping[str, Any]] = {}
    """Parameters that make it give one number where it would give a colour or vector."""
    fresh: ClassVar[Mapping[str, Any]] = {}
    """Parameters that a person who puts it into a recipe begins with, where they differ from the defaults."""
    phrase: ClassVar[str]
    """How it reads in a recipe's sentence; `{parameter}` stands for a value a person can change."""
    signal_phrase: ClassVar[str] = ""
    """How it reads where its second input is a signal, if that is otherwise."""
    handles: ClassVar[tuple[str, ...]] = ()
    """Parameters that are drawn as handles on the histogram of what comes in."""
    non_finite: ClassVar[str] = "NaN stays NaN."
    """What it does with NaN and infinite values."""
    can_vary: ClassVar[tuple[str, ...]] = ()
    """Parameters that a signal or a recipe may stand in for: the op is then, at each point, the one with the value there."""
    bends: ClassVar[frozenset[str]] = frozenset()
    """Those of them that move the lookup, so that it matters how fast they change (see `change_of`)."""
    ends_last: ClassVar[tuple[str, ...]] = ()
    """Two parameters between which values of 0…1 are put last of all."""

    _varied: dict[str, SignalRef | Recipe] = PrivateAttr(default_factory=dict)

    @property
    def varied(self) -> Mapping[str, SignalRef | Recipe]:
        """What stands in for parameters that vary from point to point; the field itself then holds its default."""
        return self._varied

    def with_varied(self, varied: Mapping[str, SignalRef | Recipe], **changed: Any) -> Self:
        """The same op with other things in the place of parameters.

        Parameters
        ----------
        varied : mapping
            Signals and recipes by parameter, all of them.
        **changed : object
            Other values of parameters.
        """
        made = self.model_copy(update=changed)
        made._varied = dict(varied)
        return made

    def settled(self, inputs: Mapping[str, Array]) -> Self:
        """The op as it is at one point, where what varies is a number.

        Parameters
        ----------
        inputs : mapping
            By parameter, each `(1 or 3, 1)`.
        """
        return self.model_copy(update={name: float(inputs[name][0, 0]) for name in self._varied if name in inputs})

    def required_data(self) -> frozenset[str]:
        """Names of the point data it reads (see `Points`)."""
        return frozenset()

    def spaces(self) -> tuple[Space, ...]:
        """The places it measures positions in."""
        return ()

    def time_dependent(self) -> bool:
        """Whether its values change with time while its parameters do not."""
        return False

    def second_inputs(self) -> Mapping[str, Input]:
        """What it always takes beside the incoming value, by parameter; a `/` leads into a list."""
        return {}

    def inputs(self) -> Mapping[str, Input]:
        """All that it takes beside the incoming value: second inputs, and what stands in for parameters that vary."""
        return {**self.second_inputs(), **self._varied}

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        """At one point: why the incoming value did not matter, in a few words; empty where it did.

        `incoming` and `inputs` are `(1 or 3, 1)`; called only for steps.

        Parameters
        ----------
        incoming : Array
            `(1 or 3, 1)`.
        inputs : mapping
            By parameter, each `(1 or 3, 1)`.
        out : Array
            `(1 or 3, 1)` what it made of them.
        """
        return ""

    def affine_in(self, varying: frozenset[str]) -> bool:
        """Whether the mean of its results is its result for the mean, when only some of what it takes varies: inputs by name, and
        `incoming`.

        Parameters
        ----------
        varying : frozenset of str
            Which of what it takes varies: inputs by name, and `incoming`.
        """
        return False

    def scalar_inputs(self) -> frozenset[str]:
        """The second inputs that may not be a colour."""
        return frozenset()

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        """1 for a scalar result, 3 for a colour; `incoming` is 0 for a source.

        Parameters
        ----------
        incoming : int
            Width of what comes in; 0 for a source.
        inputs : mapping
            Widths of second inputs by parameter.
        """
        return max([incoming, *inputs.values()])

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        """Fill `out (width, n)` from `incoming` and second inputs, each `(1 or 3, n)`.

        Parameters
        ----------
        points : Points
            Where the op is evaluated, with the data it asked for.
        incoming : Array
            `(1 or 3, n)` values of the step before; `(0, n)` for a source.
        inputs : mapping
            Second inputs by parameter, each `(1 or 3, n)`.
        out : Array
            `(width, n)`, filled.
        """
        self._run(points, incoming, inputs, out)

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        """What `run` does; each op says it here, or in what its kind calls from here."""
        raise NotImplementedError


class Source(Op):
    """An op that stands first in a recipe."""

    kind: ClassVar[Kind] = "source"

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        self._fill(points.with_parameters(inputs) if inputs else points, out)

    def _fill(self, points: Points, out: Array) -> None:
        """Fill `out (width, n)` for the points.

        Parameters
        ----------
        points : Points
            Where the op is evaluated, with the data it asked for.
        out : Array
            `(width, n)`, filled.
        """
        raise NotImplementedError

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 1


class DomainWarp(Op):
    """A step that stands before the source and changes where it is looked up.

    Its result is `(4, n)`: the changed coordinates of what it bends (see `warps`), and by how much more of the
    pattern a sample now covers.
    """

    kind: ClassVar[Kind] = "warp"
    category: ClassVar[str] = "space"
    non_finite: ClassVar[str] = "A position that is not finite stays so."

    space: Space = param("world", "Whose coordinates it bends; sources measured in others do not notice.", kind="place")

    def required_data(self) -> frozenset[str]:
        width = {footprint_in(self.space)} if self.varied.keys() & self.bends else set()
        return frozenset({self.warps(), *width})

    def warps(self) -> str:
        """The point data that it changes; a camera and locators are measured from `position`."""
        return position_in(self.space)

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 4

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        key = space_key(self.space)
        after = np.zeros((3, points.count), np.float32)
        stretch = np.ones(points.count, np.float32)
        if self.varied.keys() & self.bends:
            inputs = {**inputs, "footprint": points.footprint(key)[None]}
        self._warp(points.position(key), inputs, after, stretch)
        out[:3] = points.from_place(key, after)
        out[3] = stretch * points.stretch(self.warps())

    def _warp(self, position: Array, inputs: Mapping[str, Array], after: Array, stretch: Array) -> None:
        """Fill `after (3, n)` and `stretch (n,)` from positions `(3, n)` in `space`.

        Parameters
        ----------
        position : Array
            `(3, n)` positions in `space`, in its units.
        inputs : mapping
            Second inputs by parameter, each `(1 or 3, n)`; and a sample's `footprint (1, n)` where what bends varies.
        after : Array
            `(3, n)` positions in `space`, filled.
        stretch : Array
            `(n,)` by how much more of the pattern a sample covers, filled.
        """
        raise NotImplementedError


class Modifier(Op):
    """An op that takes the values of the step before it."""

    kind: ClassVar[Kind] = "modifier"
    scalar_only: ClassVar[bool] = False
    """Whether a colour coming in is refused instead of handled channel by channel."""

    def corners(self) -> tuple[float, ...]:
        """Incoming values at which it behaves otherwise from then on; its handles, unless it says more."""
        return tuple(float(getattr(self, name)) for name in self.handles)


class BinaryOp(Modifier):
    """A step that joins the incoming value with one other, `by`, channel by channel."""

    by: Input = param(0.0, "A number, a colour or a signal.", kind="input")

    def second_inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        self._join(incoming, inputs["by"], out)

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        """Fill `out (width, n)` from two arrays `(1 or 3, n)`.

        Parameters
        ----------
        incoming : Array
            `(1 or 3, n)` values of the step before; `(0, n)` for a source.
        by : Array
            `(1 or 3, n)` the other value.
        out : Array
            `(width, n)`, filled.
        """
        raise NotImplementedError
