"""Multiply what is dark and screen what is bright: contrast by another value."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import BinaryOp, Input, param


class Overlay(BinaryOp):
    name: ClassVar[str] = "overlay"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "Darkens the dark and brightens the bright by another value."
    reference: ClassVar[str] = (
        "the MaterialX 1.39 specification, overlay: 2ab below one half, 1 − 2(1 − a)(1 − b) above"
    )
    phrase: ClassVar[str] = "overlaid by {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    by: Input = param(0.5, "A number, a colour or a signal.", kind="input")

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        one, two = np.float32(1), np.float32(2)
        out[:] = np.where(incoming < np.float32(0.5), two * incoming * by, one - two * (one - incoming) * (one - by))
