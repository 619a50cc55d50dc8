"""The lower of two values: where both are."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import BinaryOp, Input, format_input, param
from texallon.core.ops.soft_join import rounding


class Minimum(BinaryOp):
    name: ClassVar[str] = "minimum"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "The lower of two values: of masks, where both lie."
    reference: ClassVar[str] = (
        "definition; the MaterialX 1.39 specification, min; soft by a parabola (common practice, no published source)"
    )
    phrase: ClassVar[str] = "but at most {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    by: Input = param(1.0, "A number, a colour or a signal.", kind="input")
    soft: float = param(0.0, "By how much both may differ and still be joined smoothly.", low=0, high=1e6)

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        by = inputs["by"]
        return (
            f"took {format_input(self.by)}: {format_input(by)} < {format_input(incoming)}"
            if np.all(by < incoming)
            else ""
        )

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        np.minimum(incoming, by, out=out)
        if self.soft > 0:
            out -= rounding(incoming, by, self.soft)
