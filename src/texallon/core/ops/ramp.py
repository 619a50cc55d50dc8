"""A ramp: values read off a row of stops, numbers or colours."""

from collections.abc import Mapping
from itertools import pairwise
from typing import Annotated, ClassVar, Literal

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, ConfigDict, Field, model_validator

from texallon.core.document.base import Finite
from texallon.core.document.recipe import Recipe, SignalRef
from texallon.core.kernel import TINY, Array, Int, kernel
from texallon.core.ops.curve import follow_curve, monotone_slopes
from texallon.core.ops.op import Input, Modifier, param
from texallon.core.ops.points import Points

INTERPOLATIONS = {"constant": 0, "linear": 1, "smooth": 2, "monotone": 3}

Doubles = npt.NDArray[np.float64]

TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
FROM_CONES = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
"""Oklab's two matrices as published."""


class Stop(BaseModel):
    """A value at a place on the ramp."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    at: Finite
    value: Input


class Ramp(Modifier):
    name: ClassVar[str] = "ramp"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "Read a number or colour off a row of stops; the end stops hold beyond the ends."
    reference: ClassVar[str] = (
        "piecewise interpolation; smooth is 3t²−2t³ between neighbours; monotone as Fritsch & Butland 1984; "
        "perceptual in Oklab (B. Ottosson 2020)"
    )
    phrase: ClassVar[str] = "as {stops}"
    scalar_only: ClassVar[bool] = True

    stops: Annotated[tuple[Stop, ...], Field(min_length=1, max_length=64)] = param(
        (Stop(at=0.0, value=0.0), Stop(at=1.0, value=1.0)),
        "The stops, in order of `at`; a value is a number, a colour, a signal or a recipe.",
        kind="stops",
    )
    interpolation: Literal["constant", "linear", "smooth", "monotone"] = param(
        "linear", "How it goes from stop to stop; monotone is a curve that overshoots nowhere."
    )
    colours: Literal["linear", "perceptual"] = param(
        "linear", "What colours are mixed in: light, or even steps to the eye."
    )

    @model_validator(mode="after")
    def _in_order(self) -> "Ramp":
        spaces = [stop.at for stop in self.stops]
        if spaces != sorted(spaces):
            raise ValueError("the stops are not in order of `at`")
        return self

    def second_inputs(self) -> Mapping[str, Input]:
        stops = enumerate(self.stops)
        return {_input_name(number): each.value for number, each in stops if isinstance(each.value, SignalRef | Recipe)}

    def corners(self) -> tuple[float, ...]:
        return tuple(stop.at for stop in self.stops)

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        own = 3 if any(isinstance(stop.value, tuple) for stop in self.stops) else 1
        return max([own, *inputs.values()])

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        if inputs:
            self._run_varied(incoming[0], inputs, out)
            return
        at = np.array([stop.at for stop in self.stops], np.float64)
        values = np.array(
            [np.broadcast_to(np.array(stop.value, np.float64), out.shape[0]) for stop in self.stops], np.float64
        ).T
        perceptual = out.shape[0] == 3 and self.colours == "perceptual"
        if perceptual:
            values = to_oklab(values)
        for row in range(out.shape[0]):
            if self.interpolation == "monotone" and len(at) > 1:
                follow_pieces(incoming[0], at, values[row], out[row])
            else:
                value = values[row].astype(np.float32)
                ramp(incoming[0], at.astype(np.float32), value, INTERPOLATIONS[self.interpolation], out[row])
        if perceptual:
            out[:] = from_oklab(out)

    def _run_varied(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        """As `run`, where values of stops vary from point to point."""
        perceptual = out.shape[0] == 3 and self.colours == "perceptual"
        values = np.empty((len(self.stops), *out.shape), np.float32)
        for number, stop in enumerate(self.stops):
            given = inputs.get(_input_name(number))
            values[number] = np.array(stop.value, np.float32).reshape(-1, 1) if given is None else given
            if perceptual:
                values[number] = to_oklab(values[number].astype(np.float64))
        at = np.array([stop.at for stop in self.stops], np.float32)
        monotone = self.interpolation == "monotone" and len(at) > 1
        slopes = slopes_at_points(at.astype(np.float64), values) if monotone else values
        ramp_of_rows(incoming, at, values, slopes, INTERPOLATIONS[self.interpolation], out)
        if perceptual:
            out[:] = from_oklab(out)


def _input_name(number: int) -> str:
    """Under which name a stop's own recipe is an input: the way to it within the parameters."""
    return f"stops/{number}/value"


def slopes_at_points(at: Doubles, values: Array) -> Array:
    """Slopes of monotone curves through stops whose values differ from point to point; two stops at one place break it.

    Parameters
    ----------
    at : Array
        `(s,)` places of the stops.
    values : Array
        `(s, width, n)` values of the stops.

    Returns
    -------
    Array
        `(s, width, n)`.

    References
    ----------
    Fritsch & Butland, SIAM J. Sci. Stat. Comput. 5 (1984).
    """
    slopes = np.zeros_like(values)
    breaks = [0, *(k + 1 for k in range(len(at) - 1) if at[k + 1] == at[k]), len(at)]
    for first, last in pairwise(breaks):
        if last - first > 1:
            slopes[first:last] = monotone_slopes(at[first:last], values[first:last].astype(np.float64))
    return slopes


@kernel
def ramp_of_rows(incoming: Array, at: Array, values: Array, slopes: Array, interpolation: Int, out: Array) -> None:
    """As `ramp` and `follow_curve`, for values `(s, width, n)` of stops that differ from point to point. NaN stays NaN.

    Parameters
    ----------
    incoming : Array
        `(n,)` values of the step before.
    at : Array
        `(s,)` places of the stops.
    values : Array
        `(s, width, n)` values of the stops.
    slopes : Array
        `(s, width, n)` slopes at the stops, for monotone curves.
    interpolation : int
        Which interpolation, by its number.
    out : Array
        `(width, n)`, filled.
    """
    one, two, three = np.float32(1), np.float32(2), np.float32(3)
    for row in range(out.shape[0]):
        for i in range(out.shape[1]):
            x = incoming[i]
            k = 0
            while k < at.shape[0] - 1 and x >= at[k + 1]:
                k += 1
            value = values[k, row, i]
            if k < at.shape[0] - 1 and x > at[k] and interpolation != 0:
                gap, after = at[k + 1] - at[k], values[k + 1, row, i]
                t = (x - at[k]) / gap if gap > np.float32(TINY) else one
                if interpolation == 3:
                    s = one - t
                    value = (one + two * t) * s * s * value + t * t * (three - two * t) * after
                    value += t * s * gap * (s * slopes[k, row, i] - t * slopes[k + 1, row, i])
                else:
                    t = t * t * (three - two * t) if interpolation == 2 else t
                    value += t * (after - value)
            out[row, i] = value if x == x else x


def follow_pieces(incoming: Array, at: Doubles, value: Doubles, out: Array) -> None:
    """A monotone curve; where two stops share a place it breaks there into two curves.

    Parameters
    ----------
    incoming : Array
        `(1 or 3, n)` values of the step before; `(0, n)` for a source.
    at : Array
        `(s,)` places of the stops.
    value : Array
        Values at the given points.
    out : Array
        `(width, n)`, filled.
    """
    breaks = [0, *(k + 1 for k in range(len(at) - 1) if at[k + 1] == at[k]), len(at)]
    for number, (first, last) in enumerate(pairwise(breaks)):
        x, y = at[first:last], value[first:last]
        slope = monotone_slopes(x, y) if len(x) > 1 else np.zeros(1)
        piece = np.empty_like(out)
        follow_curve(incoming, x.astype(np.float32), y.astype(np.float32), slope.astype(np.float32), piece)
        if number == 0:
            out[:] = piece
        else:
            np.copyto(out, piece, where=incoming >= np.float32(x[0]))


def to_oklab(colour: Doubles) -> Doubles:
    """Linear Rec.709 `(3, n)` to Oklab (B. Ottosson, "A perceptual color space for image processing", 2020).

    Parameters
    ----------
    colour : Array
        `(3, n)` linear Rec.709.

    Returns
    -------
    Array
        `(3, n)`.
    """
    result: Doubles = FROM_CONES @ np.cbrt(TO_CONES @ colour)
    return result


def from_oklab(lab: Array) -> Array:
    """Back to linear Rec.709 `(3, n)`.

    Parameters
    ----------
    lab : Array
        `(3, n)` Oklab.

    Returns
    -------
    Array
        `(3, n)`.
    """
    cones = np.linalg.inv(FROM_CONES).astype(np.float32) @ lab
    result: Array = np.linalg.inv(TO_CONES).astype(np.float32) @ (cones * cones * cones)
    return result


@kernel
def ramp(incoming: Array, at: Array, value: Array, interpolation: Int, out: Array) -> None:
    """Stops outside, points inside; two stops at one place make a hard edge there. NaN stays NaN.

    Parameters
    ----------
    incoming : Array
        `(1 or 3, n)` values of the step before; `(0, n)` for a source.
    at : Array
        `(s,)` places of the stops.
    value : Array
        Values at the given points.
    interpolation : int
        Which interpolation, by its number.
    out : Array
        `(width, n)`, filled.
    """
    zero, one = np.float32(0), np.float32(1)
    for i in range(out.shape[0]):
        out[i] = value[0] if incoming[i] == incoming[i] else incoming[i]
    for k in range(at.shape[0] - 1):
        start, gap = at[k], at[k + 1] - at[k]
        rise = value[k + 1] - value[k]
        for i in range(out.shape[0]):
            x = incoming[i] - start
            t = (one if gap <= np.float32(TINY) else min(x / gap, one)) if x >= zero else zero
            if interpolation == 0:
                t = zero if x < gap else one
            elif interpolation == 2:
                t = t * t * (np.float32(3) - np.float32(2) * t)
            if x >= zero:
                out[i] = value[k] + t * rise
