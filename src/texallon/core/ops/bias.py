"""Lift or lower the middle of a mask while its ends stay."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier, param, value_at
from texallon.core.ops.points import Points


class Bias(Modifier):
    name: ClassVar[str] = "bias"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "Moves the middle: one half becomes the amount; 0 and 1 stay."
    reference: ClassVar[str] = (
        "C. Schlick, Fast Alternatives to Perlin's Bias and Gain Functions, Graphics Gems IV, 1994"
    )
    phrase: ClassVar[str] = "its middle moved to {amount}"
    non_finite: ClassVar[str] = "NaN stays NaN; values are clamped to 0…1 first."

    can_vary: ClassVar[tuple[str, ...]] = ("amount",)

    amount: float = param(0.5, "What one half becomes.", low=0.001, high=0.999)

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        slant = np.float32(1) / value_at(self.amount, inputs, "amount") - np.float32(2)
        t = np.clip(incoming, np.float32(0), np.float32(1))
        np.divide(t, slant * (np.float32(1) - t) + np.float32(1), out=out)
