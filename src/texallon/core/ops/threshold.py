"""All or nothing about a level, with an edge as soft as wanted."""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import TINY, Array, Float, kernel
from texallon.core.ops.op import Modifier, format_input, param
from texallon.core.ops.points import Points


class Threshold(Modifier):
    name: ClassVar[str] = "threshold"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "1 on one side of a level and 0 on the other; a width softens the edge."
    reference: ClassVar[str] = "step function; the soft edge is 3t²−2t³ across the width"
    phrase: ClassVar[str] = "is {keep} {level}"
    handles: ClassVar[tuple[str, ...]] = ("level",)
    non_finite: ClassVar[str] = "NaN stays NaN; infinities count as far above and far below."

    level: Finite = param(0.5, "The level.")
    keep: Literal["above", "below"] = param("above", "Which side becomes 1.")
    width: float = param(0.0, "Width of the soft edge, in incoming units, centred on the level.", low=0, high=1e9)

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        x, edge = float(incoming[0, 0]), self.width / 2
        if abs(x - self.level) < edge or x != x:
            return ""
        return f"made this {format_input(out)}: {format_input(x)} {'<' if x < self.level else '≥'} {format_input(self.level)}"

    def run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        for row in range(out.shape[0]):
            threshold(incoming[row], np.float32(self.level), np.float32(self.width), self.keep == "below", out[row])


@kernel
def threshold(incoming: Array, level: Float, width: Float, below: bool, out: Array) -> None:
    """A value exactly on a hard level counts as above it.

    Parameters
    ----------
    incoming : Array
        `(1 or 3, n)` values of the step before; `(0, n)` for a source.
    level : float
        The value at which it splits; of a picture one level of its pyramid.
    width : float
        Of the passage from 0 to 1.
    below : bool
        Whether what lies below is kept.
    out : Array
        `(width, n)`, filled.
    """
    zero, one = np.float32(0), np.float32(1)
    for i in range(out.shape[0]):
        x = incoming[i] - level
        if width > np.float32(TINY):
            t = x / width + np.float32(0.5)
            t = zero if t < zero else (one if t > one else t)
            t = t * t * (np.float32(3) - np.float32(2) * t)
        else:
            t = one if x >= zero else (zero if x < zero else x)
        out[i] = one - t if below else t
