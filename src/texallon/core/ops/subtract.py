"""Take a number, a colour or another signal away."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Refinement, param
from texallon.core.ops.points import Points


class Subtract(Refinement):
    name: ClassVar[str] = "subtract"
    purpose: ClassVar[str] = "The difference of two values."
    reference: ClassVar[str] = "definition"
    phrase: ClassVar[str] = "less {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    by: Input = param(0.0, "A number, a colour or a signal.", kind="input")

    def inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        np.subtract(incoming, inputs["by"], out=out)
