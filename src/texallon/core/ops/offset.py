"""Offset: another signal moves the lookup, so that one pattern disturbs another."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite, Vector
from texallon.core.kernel import Array
from texallon.core.ops.op import DomainWarp, Input, param


class Offset(DomainWarp):
    name: ClassVar[str] = "offset"
    purpose: ClassVar[str] = "A signal moves the pattern: a number along a direction, a colour as a vector."
    reference: ClassVar[str] = "p − amount · (signal − middle)"
    phrase: ClassVar[str] = "disturbed by {by}, up to {amount}"

    by: Input = param(0.5, "What moves it.", kind="input")
    amount: Finite = param(0.1, "How far a signal that is 1 above its middle moves it.", unit="m")
    middle: Finite = param(0.5, "The value that leaves it in place.")
    direction: Vector = param((1.0, 0.0, 0.0), "The way a number moves it; its length counts.")

    def second_inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def _warp(self, position: Array, inputs: Mapping[str, Array], after: Array, stretch: Array) -> None:
        by = inputs["by"]
        amount, middle = np.float32(self.amount), np.float32(self.middle)
        for row in range(3):
            along = np.float32(1) if by.shape[0] == 3 else np.float32(self.direction[row])
            after[row] = position[row] - amount * along * (by[row if by.shape[0] == 3 else 0] - middle)
