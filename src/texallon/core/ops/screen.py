"""Join two masks as light does: neither darkens the other."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import BinaryOp


class Screen(BinaryOp):
    name: ClassVar[str] = "screen"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "Both together, never above 1 for values within 0…1."
    reference: ClassVar[str] = "the MaterialX 1.39 specification, screen: 1 − (1 − a)(1 − b)"
    phrase: ClassVar[str] = "joined with {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        np.subtract(np.float32(1), incoming, out=out)
        np.multiply(out, np.float32(1) - by, out=out)
        np.subtract(np.float32(1), out, out=out)
