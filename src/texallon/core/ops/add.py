"""Add a number, a colour or another signal."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Refinement, param
from texallon.core.ops.points import Points


class Add(Refinement):
    name: ClassVar[str] = "add"
    purpose: ClassVar[str] = "The sum of two values."
    phrase: ClassVar[str] = "plus {by}"
    non_finite: ClassVar[str] = "NaN stays NaN; opposite infinities give NaN (IEEE 754)."

    by: Input = param(0.0, "A number, a colour or a signal.", kind="input")

    def inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        np.add(incoming, inputs["by"], out=out)
