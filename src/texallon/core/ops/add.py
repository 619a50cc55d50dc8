"""Add a number, a colour or another signal."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import BinaryOp


class Add(BinaryOp):
    name: ClassVar[str] = "add"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "The sum of two values."
    phrase: ClassVar[str] = "plus {by}"
    non_finite: ClassVar[str] = "NaN stays NaN; opposite infinities give NaN (IEEE 754)."

    def affine_in(self, varying: frozenset[str]) -> bool:
        return True

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        np.add(incoming, by, out=out)
