"""Join two masks as light does: neither darkens the other."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Refinement, param
from texallon.core.ops.points import Points


class Screen(Refinement):
    name: ClassVar[str] = "screen"
    purpose: ClassVar[str] = "Both together, never above 1 for values within 0…1."
    reference: ClassVar[str] = "the MaterialX 1.39 specification, screen: 1 − (1 − a)(1 − b)"
    phrase: ClassVar[str] = "joined with {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    by: Input = param(0.0, "A number, a colour or a signal.", kind="input")

    def inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        by = inputs["by"]
        np.subtract(np.float32(1), incoming, out=out)
        np.multiply(out, np.float32(1) - by, out=out)
        np.subtract(np.float32(1), out, out=out)
