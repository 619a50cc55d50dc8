"""Keep values between two ends."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier, format_input, param, value_at
from texallon.core.ops.points import Points


class Clamp(Modifier):
    name: ClassVar[str] = "clamp"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "What lies below the low end becomes it, what lies above the high end likewise."
    phrase: ClassVar[str] = "kept within {low} … {high}"
    handles: ClassVar[tuple[str, ...]] = ("low", "high")
    non_finite: ClassVar[str] = "NaN stays NaN; infinities become the ends."

    can_vary: ClassVar[tuple[str, ...]] = ("low", "high")

    low: Finite = param(0.0, "The low end; where it lies above the high end, the high end wins.")
    high: Finite = param(1.0, "The high end.")

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        x = float(incoming[0, 0])
        if x < self.low:
            return f"made this {format_input(out)}: {format_input(x)} < {format_input(self.low)}"
        return f"made this {format_input(out)}: {format_input(x)} > {format_input(self.high)}" if x > self.high else ""

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        low, high = value_at(self.low, inputs, "low"), value_at(self.high, inputs, "high")
        np.minimum(np.maximum(incoming, low), high, out=out)
