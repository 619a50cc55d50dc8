"""Discrete levels with risers between them: terraces, banding, the posterised ridge."""

from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, Float, kernel
from texallon.core.ops.op import Modifier, param
from texallon.core.ops.points import Points


class Levels(Modifier):
    name: ClassVar[str] = "levels"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "Cuts values into even levels; the risers between them may be soft."
    reference: ClassVar[str] = "floor(g x n) / n, the last part of each tread easing (3t²−2t³) to the next"
    phrase: ClassVar[str] = "in {count} levels"

    gain: Finite = param(1.0, "Multiplies what comes in first: more of it reaches the higher levels.")
    count: int = param(5, "Levels between 0 and 1.", low=1, high=256)
    riser: float = param(
        0.0, "Share of each level that rises to the next; 0 is a cliff, 1 has no flat part.", low=0, high=1
    )

    def _run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        for row in range(out.shape[0]):
            levels(incoming[row], np.float32(self.gain), np.float32(self.count), np.float32(self.riser), out[row])


@kernel
def levels(incoming: Array, gain: Float, count: Float, riser: Float, out: Array) -> None:
    """Stairs of some levels with risers between them.

    Parameters
    ----------
    incoming : Array
        `(1 or 3, n)` values of the step before; `(0, n)` for a source.
    gain : float
        Factor before the levels.
    count : float
        Number of levels.
    riser : float
        Share of a level that rises.
    out : Array
        `(width, n)`, filled.
    """
    zero, one = np.float32(0), np.float32(1)
    for i in range(out.shape[0]):
        x = incoming[i] * gain * count
        tread = np.floor(x)
        t = (x - tread - (one - riser)) / riser if riser > zero else zero
        t = zero if t < zero else t
        out[i] = (tread + t * t * (np.float32(3) - np.float32(2) * t)) / count
