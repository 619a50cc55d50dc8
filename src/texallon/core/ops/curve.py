"""A free curve through points, rising where they rise and nowhere overshooting."""

from itertools import pairwise
from typing import Annotated, ClassVar

import numpy as np
import numpy.typing as npt
from pydantic import Field, model_validator

from texallon.core.document.base import Finite
from texallon.core.kernel import TINY, Array, kernel
from texallon.core.ops.op import Modifier, param
from texallon.core.ops.points import Points

Knot = tuple[Finite, Finite]


class Curve(Modifier):
    name: ClassVar[str] = "curve"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "Bends values along a curve through points; it holds its ends beyond them."
    reference: ClassVar[str] = "monotone piecewise cubic: Fritsch & Butland, SIAM J. Sci. Stat. Comput. 5 (1984)"
    phrase: ClassVar[str] = "along a curve"

    points: Annotated[tuple[Knot, ...], Field(min_length=2, max_length=32)] = param(
        ((0.0, 0.0), (0.5, 0.5), (1.0, 1.0)), "Pairs of incoming and outgoing values, from left to right.", kind="curve"
    )

    @model_validator(mode="after")
    def _in_order(self) -> "Curve":
        spaces = [knot[0] for knot in self.points]
        if any(b <= a for a, b in pairwise(spaces)):
            raise ValueError("the points do not go from left to right, each at a place of its own")
        return self

    def corners(self) -> tuple[float, ...]:
        return tuple(knot[0] for knot in self.points)

    def _run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        x = np.array([knot[0] for knot in self.points], np.float64)
        y = np.array([knot[1] for knot in self.points], np.float64)
        slope = monotone_slopes(x, y).astype(np.float32)
        for row in range(out.shape[0]):
            follow_curve(incoming[row], x.astype(np.float32), y.astype(np.float32), slope, out[row])


def monotone_slopes(x: npt.NDArray[np.float64], y: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Slopes at the points of a curve that overshoots nowhere: weighted harmonic means (Fritsch & Butland 1984).

    Parameters
    ----------
    x : Array
        `(p,)` places of the points.
    y : Array
        `(p, …)` values of the points, of many curves at once where it has more axes.

    Returns
    -------
    Array
        `(p, …)`.
    """
    gap = np.diff(x)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        rise = np.diff(y, axis=0) / gap.reshape(-1, *[1] * (y.ndim - 1))
        if len(x) == 2:
            return np.array([rise[0], rise[0]])
        slope = np.zeros(y.shape)
        for k in range(1, len(x) - 1):
            before, after = rise[k - 1], rise[k]
            w1, w2 = 2 * gap[k] + gap[k - 1], gap[k] + 2 * gap[k - 1]
            slope[k] = np.where(before * after > 0, (w1 + w2) / (w1 / before + w2 / after), 0.0)
    slope[0] = _end_slope(gap[0], gap[1], rise[0], rise[1])
    slope[-1] = _end_slope(gap[-1], gap[-2], rise[-1], rise[-2])
    return slope


def _end_slope(
    near: float, next_: float, rise: npt.NDArray[np.float64], rise_next: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """The three-point formula, held so that the curve stays monotone."""
    slope = ((2 * near + next_) * rise - near * rise_next) / (near + next_)
    held = np.where((rise * rise_next < 0) & (np.abs(slope) > 3 * np.abs(rise)), 3 * rise, slope)
    return np.where(slope * rise <= 0, 0.0, held)


@kernel
def follow_curve(incoming: Array, x: Array, y: Array, slope: Array, out: Array) -> None:
    """Cubic Hermite pieces outside, points inside. NaN stays NaN.

    Parameters
    ----------
    incoming : Array
        `(1 or 3, n)` values of the step before; `(0, n)` for a source.
    x : Array
        `(p,)` places of the points.
    y : Array
        `(p,)` values of the points.
    slope : Array
        `(p,)` slopes at the points.
    out : Array
        `(width, n)`, filled.
    """
    one, two, three = np.float32(1), np.float32(2), np.float32(3)
    for i in range(out.shape[0]):
        out[i] = y[0] if incoming[i] == incoming[i] else incoming[i]
    for k in range(x.shape[0] - 1):
        start, gap = x[k], x[k + 1] - x[k]
        for i in range(out.shape[0]):
            if incoming[i] >= start:
                t = min((incoming[i] - start) / gap, one) if gap > np.float32(TINY) else one
                s = one - t
                out[i] = (
                    (one + two * t) * s * s * y[k]
                    + t * s * s * gap * slope[k]
                    + t * t * (three - two * t) * y[k + 1]
                    - t * t * s * gap * slope[k + 1]
                )
