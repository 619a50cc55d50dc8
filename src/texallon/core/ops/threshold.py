"""All or nothing about a level, with an edge as soft as wanted."""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import TINY, Array, Float, inlined, kernel
from texallon.core.ops.op import Modifier, format_input, param, row_of
from texallon.core.ops.points import Points


class Threshold(Modifier):
    name: ClassVar[str] = "threshold"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "1 on one side of a level and 0 on the other; a width softens the edge."
    reference: ClassVar[str] = "step function; the soft edge is 3t²−2t³ across the width"
    phrase: ClassVar[str] = "is {keep} {level}"
    handles: ClassVar[tuple[str, ...]] = ("level",)
    non_finite: ClassVar[str] = "NaN stays NaN; infinities count as far above and far below."

    can_vary: ClassVar[tuple[str, ...]] = ("level", "width")

    level: Finite = param(0.5, "The level.")
    keep: Literal["above", "below"] = param("above", "Which side becomes 1.")
    width: float = param(0.0, "Width of the soft edge, in incoming units, centred on the level.", low=0, high=1e9)

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        x, edge = float(incoming[0, 0]), self.width / 2
        if abs(x - self.level) < edge or x != x:
            return ""
        return f"made this {format_input(out)}: {format_input(x)} {'<' if x < self.level else '≥'} {format_input(self.level)}"

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        below = self.keep == "below"
        if not inputs:
            for row in range(out.shape[0]):
                threshold(incoming[row], np.float32(self.level), np.float32(self.width), below, out[row])
            return
        level = row_of(self.level, inputs, "level", out.shape[1])
        width = row_of(self.width, inputs, "width", out.shape[1])
        for row in range(out.shape[0]):
            threshold_each(incoming[row], level, width, below, out[row])


@inlined
def above(x: Float, width: Float) -> Float:
    """How far a value lies above a level, 0…1; one exactly on a hard level counts as above it.

    Parameters
    ----------
    x : float
        From the level.
    width : float
        Of the passage from 0 to 1.
    """
    zero, one = np.float32(0), np.float32(1)
    if not width <= np.float32(TINY):
        t = x / width + np.float32(0.5)
        t = zero if t < zero else (one if t > one else t)
        return t * t * (np.float32(3) - np.float32(2) * t)
    return one if x >= zero else (zero if x < zero else x)


@kernel
def threshold(incoming: Array, level: Float, width: Float, below: bool, out: Array) -> None:
    """One level for all points.

    Parameters
    ----------
    incoming : Array
        `(n,)` values of the step before.
    level : float
        The value at which it splits.
    width : float
        Of the passage from 0 to 1.
    below : bool
        Whether what lies below is kept.
    out : Array
        `(n,)`, filled.
    """
    one = np.float32(1)
    for i in range(out.shape[0]):
        t = above(incoming[i] - level, width)
        out[i] = one - t if below else t


@kernel
def threshold_each(incoming: Array, level: Array, width: Array, below: bool, out: Array) -> None:
    """A level of its own for each point.

    Parameters
    ----------
    incoming : Array
        `(n,)` values of the step before.
    level : Array
        `(n,)` the values at which it splits.
    width : Array
        `(n,)` of the passage from 0 to 1.
    below : bool
        Whether what lies below is kept.
    out : Array
        `(n,)`, filled.
    """
    one = np.float32(1)
    for i in range(out.shape[0]):
        t = above(incoming[i] - level[i], width[i])
        out[i] = one - t if below else t
