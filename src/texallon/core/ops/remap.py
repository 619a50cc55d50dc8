"""Map one range of values onto another: the step that most of an artist's hours go into."""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import TINY, Array, Float, Int, kernel
from texallon.core.ops.op import Modifier, format_input, param
from texallon.core.ops.points import Points

EASES = {"linear": 0, "smooth": 1, "smoother": 2}


class Remap(Modifier):
    name: ClassVar[str] = "remap"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "Map the incoming range onto another, clamped and eased."
    reference: ClassVar[str] = "linear map; smooth is 3t²−2t³, smoother is 6t⁵−15t⁴+10t³ (Perlin 2002)"
    phrase: ClassVar[str] = "is {to_start} at {from_start} and {to_end} at {from_end}, eased {ease}"
    handles: ClassVar[tuple[str, ...]] = ("from_start", "from_end")
    non_finite: ClassVar[str] = "NaN stays NaN; infinities clamp to the ends where clamped."

    from_start: Finite = param(0.0, "The incoming value that becomes the first output value.")
    from_end: Finite = param(1.0, "The incoming value that becomes the last; may lie below the first.")
    to_start: Finite = param(0.0, "The first output value.")
    to_end: Finite = param(1.0, "The last output value.")
    clamp: bool = param(True, "Whether values outside the incoming range stay at its ends.")
    ease: Literal["linear", "smooth", "smoother"] = param("linear", "How it goes from one end to the other (clamped).")

    def affine_in(self, varying: frozenset[str]) -> bool:
        return not self.clamp and self.ease == "linear" and self.from_start != self.from_end

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        if not (self.clamp or self.ease != "linear"):
            return ""
        x, ends = float(incoming[0, 0]), (self.from_start, self.from_end)
        if x <= min(ends):
            return (
                f"made this {format_input(out)}: {format_input(x)} ≤ {format_input(min(ends))}, the range's lower end"
            )
        return (
            f"made this {format_input(out)}: {format_input(x)} ≥ {format_input(max(ends))}, the range's upper end"
            if x >= max(ends)
            else ""
        )

    def run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        for row in range(out.shape[0]):
            remap(
                incoming[row],
                np.float32(self.from_start),
                np.float32(self.from_end),
                np.float32(self.to_start),
                np.float32(self.to_end),
                self.clamp,
                EASES[self.ease],
                out[row],
            )


@kernel
def remap(incoming: Array, a: Float, b: Float, low: Float, high: Float, clamped: bool, ease: Int, out: Array) -> None:
    """A range of no width is a step: the first output value up to it, the last from it on.

    Parameters
    ----------
    incoming : Array
        `(1 or 3, n)` values of the step before; `(0, n)` for a source.
    a : float
        Start of the incoming range.
    b : float
        End of the incoming range.
    low : float
        Lowest value that comes out.
    high : float
        Highest value that comes out.
    clamped : bool
        Whether values beyond the range are held at its ends.
    ease : int
        Which easing, by its number.
    out : Array
        `(width, n)`, filled.
    """
    zero, one = np.float32(0), np.float32(1)
    for i in range(out.shape[0]):
        x = incoming[i]
        t = x - a
        t = (one if t >= zero else t * zero) if abs(b - a) < np.float32(TINY) else t / (b - a)
        if clamped or ease != 0:
            t = zero if t < zero else (one if t > one else t)
        if ease == 1:
            t = t * t * (np.float32(3) - np.float32(2) * t)
        elif ease == 2:
            t = t * t * t * (t * (t * np.float32(6) - np.float32(15)) + np.float32(10))
        out[i] = low + t * (high - low)
