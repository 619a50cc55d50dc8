"""Take a number, a colour or another signal away."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import BinaryOp


class Subtract(BinaryOp):
    name: ClassVar[str] = "subtract"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "The difference of two values."
    reference: ClassVar[str] = "definition"
    phrase: ClassVar[str] = "less {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    def affine_in(self, varying: frozenset[str]) -> bool:
        return True

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        np.subtract(incoming, by, out=out)
