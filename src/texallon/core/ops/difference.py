"""How far two values lie apart."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import BinaryOp


class Difference(BinaryOp):
    name: ClassVar[str] = "difference"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "How far two values lie apart: 0 where they agree."
    reference: ClassVar[str] = "the MaterialX 1.39 specification, difference: |a − b|"
    phrase: ClassVar[str] = "apart from {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        np.subtract(incoming, by, out=out)
        np.absolute(out, out=out)
