"""The higher of two values: where either is."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import BinaryOp, format_input, param
from texallon.core.ops.soft_join import rounding


class Maximum(BinaryOp):
    name: ClassVar[str] = "maximum"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "The higher of two values: of masks, where either lies."
    reference: ClassVar[str] = (
        "definition; the MaterialX 1.39 specification, max; soft by a parabola (common practice, no published source)"
    )
    phrase: ClassVar[str] = "or {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    soft: float = param(0.0, "By how much both may differ and still be joined smoothly.", low=0, high=1e6)

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        by = inputs["by"]
        return (
            f"took {format_input(self.by)}: {format_input(by)} > {format_input(incoming)}"
            if np.all(by > incoming)
            else ""
        )

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        np.maximum(incoming, by, out=out)
        if self.soft > 0:
            out += rounding(incoming, by, self.soft)
