"""Steepen or flatten the middle of a mask while its ends and its middle stay."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier, param
from texallon.core.ops.points import Points


class Gain(Modifier):
    name: ClassVar[str] = "gain"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "Steepens the middle below one half, flattens it above; 0, one half and 1 stay."
    reference: ClassVar[str] = (
        "C. Schlick, Fast Alternatives to Perlin's Bias and Gain Functions, Graphics Gems IV, 1994"
    )
    phrase: ClassVar[str] = "with a gain of {amount}"
    non_finite: ClassVar[str] = "NaN stays NaN; values are clamped to 0…1 first."

    amount: float = param(0.5, "One quarter becomes half of this.", low=0.001, high=0.999)

    def run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        one, two = np.float32(1), np.float32(2)
        t = np.clip(incoming, np.float32(0), one)
        k = np.float32(1 / self.amount - 2) * (one - two * t)
        out[:] = np.where(t < np.float32(0.5), t / (k + one), (k - t) / (k - one))
