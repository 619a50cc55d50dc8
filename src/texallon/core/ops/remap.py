"""Map one range of values onto another: the step that most of an artist's hours go into."""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import TINY, Array, Float, Int, inlined, kernel
from texallon.core.ops.op import Modifier, format_input, param, row_of
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

    can_vary: ClassVar[tuple[str, ...]] = ("from_start", "from_end", "to_start", "to_end")

    from_start: Finite = param(0.0, "The incoming value that becomes the first output value.")
    from_end: Finite = param(1.0, "The incoming value that becomes the last; may lie below the first.")
    to_start: Finite = param(0.0, "The first output value.")
    to_end: Finite = param(1.0, "The last output value.")
    clamp: bool = param(True, "Whether values outside the incoming range stay at its ends.")
    ease: Literal["linear", "smooth", "smoother"] = param("linear", "How it goes from one end to the other (clamped).")

    def affine_in(self, varying: frozenset[str]) -> bool:
        straight = not self.clamp and self.ease == "linear" and self.from_start != self.from_end
        return straight and varying == {"incoming"} and not self.varied.keys() & {"from_start", "from_end"}

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

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        ease = EASES[self.ease]
        if not inputs:
            a, b, low, high = (np.float32(getattr(self, name)) for name in self.can_vary)
            for row in range(out.shape[0]):
                remap(incoming[row], a, b, low, high, self.clamp, ease, out[row])
            return
        ends = [row_of(getattr(self, name), inputs, name, out.shape[1]) for name in self.can_vary]
        for row in range(out.shape[0]):
            remap_each(incoming[row], ends[0], ends[1], ends[2], ends[3], self.clamp, ease, out[row])


@inlined
def remapped(x: Float, a: Float, b: Float, low: Float, high: Float, clamped: bool, ease: Int) -> Float:
    """A range of no width is a step: the first output value up to it, the last from it on.

    Parameters
    ----------
    x : float
        What comes in.
    a, b : float
        Ends of the incoming range.
    low, high : float
        What they become.
    clamped : bool
        Whether values beyond the range are held at its ends.
    ease : int
        Which easing, by its number.
    """
    zero, one = np.float32(0), np.float32(1)
    t = x - a
    t = (one if t >= zero else t * zero) if abs(b - a) < np.float32(TINY) else t / (b - a)
    if clamped or ease != 0:
        t = zero if t < zero else (one if t > one else t)
    if ease == 1:
        t = t * t * (np.float32(3) - np.float32(2) * t)
    elif ease == 2:
        t = t * t * t * (t * (t * np.float32(6) - np.float32(15)) + np.float32(10))
    return low + t * (high - low)


@kernel
def remap(incoming: Array, a: Float, b: Float, low: Float, high: Float, clamped: bool, ease: Int, out: Array) -> None:
    """One range for all points.

    Parameters
    ----------
    incoming : Array
        `(n,)` values of the step before.
    a, b : float
        Ends of the incoming range.
    low, high : float
        What they become.
    clamped : bool
        Whether values beyond the range are held at its ends.
    ease : int
        Which easing, by its number.
    out : Array
        `(n,)`, filled.
    """
    for i in range(out.shape[0]):
        out[i] = remapped(incoming[i], a, b, low, high, clamped, ease)


@kernel
def remap_each(
    incoming: Array, a: Array, b: Array, low: Array, high: Array, clamped: bool, ease: Int, out: Array
) -> None:
    """A range of its own for each point.

    Parameters
    ----------
    incoming : Array
        `(n,)` values of the step before.
    a, b : Array
        `(n,)` ends of the incoming range.
    low, high : Array
        `(n,)` what they become.
    clamped : bool
        Whether values beyond the range are held at its ends.
    ease : int
        Which easing, by its number.
    out : Array
        `(n,)`, filled.
    """
    for i in range(out.shape[0]):
        out[i] = remapped(incoming[i], a[i], b[i], low[i], high[i], clamped, ease)
