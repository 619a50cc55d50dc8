"""Spread values about a pivot."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier, param, value_at
from texallon.core.ops.points import Points


class Contrast(Modifier):
    name: ClassVar[str] = "contrast"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "Spreads values about a pivot, which stays; not clamped."
    reference: ClassVar[str] = "the MaterialX 1.39 specification, contrast: (x − pivot) amount + pivot"
    phrase: ClassVar[str] = "with {amount} times the contrast"
    handles: ClassVar[tuple[str, ...]] = ("pivot",)

    can_vary: ClassVar[tuple[str, ...]] = ("amount", "pivot")

    amount: Finite = param(1.5, "How many times the distance from the pivot.")
    pivot: Finite = param(0.5, "The value that stays.")

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        amount, pivot = value_at(self.amount, inputs, "amount"), value_at(self.pivot, inputs, "pivot")
        np.subtract(incoming, pivot, out=out)
        np.multiply(out, amount, out=out)
        np.add(out, pivot, out=out)
        if np.any(amount == 0):  # no contrast at all, of infinite values too
            out[:] = np.where((amount == 0) & ~np.isnan(incoming), pivot, out)
