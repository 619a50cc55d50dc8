"""Blend two values by which of them stands higher, as sand fills the joints before it covers the stones."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Modifier, param
from texallon.core.ops.points import Points


class HeightBlend(Modifier):
    name: ClassVar[str] = "height blend"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = (
        "As mix, but the other value wins first where it stands higher, along a border that follows both."
    )
    reference: ClassVar[str] = (
        "weights from height + amount within a band below the highest (common practice, no published source)"
    )
    phrase: ClassVar[str] = "covered with {other} by {amount}, lowest first"

    other: Input = param(1.0, "A number, a colour or a signal.", kind="input")
    amount: Input = param(0.5, "0 keeps the incoming value, 1 takes the other.", kind="scalar input")
    height: Input = param(0.5, "How high the incoming stands, 0…1.", kind="scalar input")
    other_height: Input = param(0.5, "How high the other stands, 0…1.", kind="scalar input")
    band: float = param(0.1, "How softly the higher one wins.", low=0.0001, high=1)

    def second_inputs(self) -> Mapping[str, Input]:
        return {
            "other": self.other,
            "amount": self.amount,
            "height": self.height,
            "other_height": self.other_height,
        }

    def scalar_inputs(self) -> frozenset[str]:
        return frozenset({"amount", "height", "other_height"})

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return max(incoming, inputs["other"])

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        amount = np.clip(inputs["amount"][0], 0, 1)
        band = np.float32(self.band)
        # At 0 and 1 one of the two stands so far above that the other has no weight.
        reach = np.float32(1) + band
        here = np.clip(inputs["height"][0], 0, 1) + (np.float32(1) - amount) * reach
        there = np.clip(inputs["other_height"][0], 0, 1) + amount * reach
        floor = np.maximum(here, there) - band
        a, b = np.maximum(here - floor, 0), np.maximum(there - floor, 0)
        share = np.where(amount <= 0, np.float32(0), np.where(amount >= 1, np.float32(1), b / (a + b)))
        np.subtract(inputs["other"], incoming, out=out)
        np.multiply(out, share, out=out)
        np.add(out, incoming, out=out)
