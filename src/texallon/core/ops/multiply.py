"""Multiply by a number, a colour or another signal: keep only what both have."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Refinement, param
from texallon.core.ops.points import Points


class Multiply(Refinement):
    name: ClassVar[str] = "multiply"
    purpose: ClassVar[str] = "The product of two values: what both have."
    phrase: ClassVar[str] = "times {by}"
    signal_phrase: ClassVar[str] = "broken up by {by}"
    non_finite: ClassVar[str] = "NaN stays NaN; infinity times 0 is NaN (IEEE 754)."

    by: Input = param(1.0, "A number, a colour or a signal.", kind="input")

    def inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        np.multiply(incoming, inputs["by"], out=out)
