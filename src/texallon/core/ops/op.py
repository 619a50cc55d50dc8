"""What an op is: parameters with units and ranges, the point data it needs, and a way to run over many points.

A new op is one new file in this folder: a subclass of `Source` or `Refinement` with its kernel beside it.
The interface, the shell's list and the JSON Schema are all made from what the class says of itself.
"""

from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from texallon.core.document.base import Finite, Name
from texallon.core.document.recipe import SignalRef
from texallon.core.kernel import Array
from texallon.core.ops.points import Points

Colour = tuple[Finite, Finite, Finite]
Input = Finite | Colour | SignalRef
"""A number, a scene-linear colour, or a named signal."""


class LocatorRef(BaseModel):
    """A locator that something is measured from."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    locator: Name


Place = Literal["world", "object"] | LocatorRef
"""What coordinates are measured in: the world, the object itself, or a locator."""


def place_key(place: Place) -> str:
    """`world`, `object` or `locator:NAME`."""
    return f"locator:{place.locator}" if isinstance(place, LocatorRef) else place


def position_in(place: Place) -> str:
    """The point data that a position in a place is made from."""
    return "object_position" if place == "object" else "position"


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
    """A parameter: `low` and `high` are inclusive limits, `above` an exclusive lower one."""
    extra: dict[str, Any] = {"unit": unit} | ({"kind": kind} if kind else {})
    return Field(default, description=doc, ge=low, le=high, gt=above, json_schema_extra=extra)


class Op(BaseModel):
    """One kind of source or step. Instances hold validated parameters and never change."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: ClassVar[str]
    kind: ClassVar[Literal["source", "step"]]
    purpose: ClassVar[str]
    reference: ClassVar[str] = "definition"
    phrase: ClassVar[str]
    """How it reads in a recipe's sentence; `{parameter}` stands for a value a person can change."""
    signal_phrase: ClassVar[str] = ""
    """How it reads where its second input is a signal, if that is otherwise."""
    handles: ClassVar[tuple[str, ...]] = ()
    """Parameters that are drawn as handles on the histogram of what comes in."""
    non_finite: ClassVar[str] = "NaN stays NaN."
    """What it does with NaN and infinite values."""

    def needs(self) -> frozenset[str]:
        """Names of the point data it reads (see `Points`)."""
        return frozenset()

    def places(self) -> tuple[Place, ...]:
        """The places it measures positions in."""
        return ()

    def inputs(self) -> Mapping[str, Input]:
        """Second inputs by parameter name."""
        return {}

    def scalar_inputs(self) -> frozenset[str]:
        """The second inputs that may not be a colour."""
        return frozenset()

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        """1 for a scalar result, 3 for a colour; `incoming` is 0 for a source."""
        return max([incoming, *inputs.values()])

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        """Fill `out (width, n)` from `incoming` and second inputs, each `(1 or 3, n)`."""
        raise NotImplementedError


class Source(Op):
    """An op that stands first in a recipe."""

    kind: ClassVar[Literal["source", "step"]] = "source"

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        self.fill(points, out)

    def fill(self, points: Points, out: Array) -> None:
        """Fill `out (width, n)` for the points."""
        raise NotImplementedError

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 1


class Refinement(Op):
    """An op that takes the values of the step before it."""

    kind: ClassVar[Literal["source", "step"]] = "step"
    scalar_only: ClassVar[bool] = False
    """Whether a colour coming in is refused instead of handled channel by channel."""


class Joining(Refinement):
    """A step that joins the incoming value with one other, `by`, channel by channel."""

    by: Input = param(0.0, "A number, a colour or a signal.", kind="input")

    def inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        self.join(incoming, inputs["by"], out)

    def join(self, incoming: Array, by: Array, out: Array) -> None:
        """Fill `out (width, n)` from two arrays `(1 or 3, n)`."""
        raise NotImplementedError
