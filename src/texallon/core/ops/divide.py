"""Divide by a number, a colour or another signal; by 0 it gives 0."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Refinement, param
from texallon.core.ops.points import Points


class Divide(Refinement):
    name: ClassVar[str] = "divide"
    purpose: ClassVar[str] = "The ratio of two values; 0 where the second is 0."
    reference: ClassVar[str] = "definition"
    phrase: ClassVar[str] = "over {by}"
    non_finite: ClassVar[str] = "NaN stays NaN; division by 0 gives 0."

    by: Input = param(1.0, "A number, a colour or a signal.", kind="input")

    def inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        by = inputs["by"]
        np.divide(incoming, by, out=out)
        out[:] = np.where(by == 0, np.float32(0), out)
