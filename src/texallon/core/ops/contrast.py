"""Spread values about a pivot."""

from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier, param
from texallon.core.ops.points import Points


class Contrast(Modifier):
    name: ClassVar[str] = "contrast"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "Spreads values about a pivot, which stays; not clamped."
    reference: ClassVar[str] = "the MaterialX 1.39 specification, contrast: (x − pivot) amount + pivot"
    phrase: ClassVar[str] = "with {amount} times the contrast"
    handles: ClassVar[tuple[str, ...]] = ("pivot",)

    amount: Finite = param(1.5, "How many times the distance from the pivot.")
    pivot: Finite = param(0.5, "The value that stays.")

    def run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        if self.amount == 0:  # no contrast at all, of infinite values too
            out[:] = np.where(np.isnan(incoming), incoming, np.float32(self.pivot))
            return
        np.subtract(incoming, np.float32(self.pivot), out=out)
        np.multiply(out, np.float32(self.amount), out=out)
        np.add(out, np.float32(self.pivot), out=out)
