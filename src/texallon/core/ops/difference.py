"""How far two values lie apart."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Refinement, param
from texallon.core.ops.points import Points


class Difference(Refinement):
    name: ClassVar[str] = "difference"
    purpose: ClassVar[str] = "How far two values lie apart: 0 where they agree."
    reference: ClassVar[str] = "the MaterialX 1.39 specification, difference: |a − b|"
    phrase: ClassVar[str] = "apart from {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    by: Input = param(0.0, "A number, a colour or a signal.", kind="input")

    def inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        np.subtract(incoming, inputs["by"], out=out)
        np.absolute(out, out=out)
