"""The higher of two values: where either is."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Refinement, param
from texallon.core.ops.points import Points


class Maximum(Refinement):
    name: ClassVar[str] = "maximum"
    purpose: ClassVar[str] = "The higher of two values: of masks, where either lies."
    reference: ClassVar[str] = "definition; the MaterialX 1.39 specification, max"
    phrase: ClassVar[str] = "or {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    by: Input = param(0.0, "A number, a colour or a signal.", kind="input")

    def inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        np.maximum(incoming, inputs["by"], out=out)
