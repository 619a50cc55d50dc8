"""Divide by a number, a colour or another signal; by 0 it gives 0."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import BinaryOp, Input, param


class Divide(BinaryOp):
    name: ClassVar[str] = "divide"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "The ratio of two values; 0 where the second is 0."
    reference: ClassVar[str] = "definition"
    phrase: ClassVar[str] = "over {by}"
    non_finite: ClassVar[str] = "NaN stays NaN; division by 0 gives 0."

    by: Input = param(1.0, "A number, a colour or a signal.", kind="input")

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        np.divide(incoming, by, out=out)
        out[:] = np.where(by == 0, np.float32(0), out)
