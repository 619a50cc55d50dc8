"""The lower of two values: where both are."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Refinement, param
from texallon.core.ops.points import Points


class Minimum(Refinement):
    name: ClassVar[str] = "minimum"
    purpose: ClassVar[str] = "The lower of two values: of masks, where both lie."
    reference: ClassVar[str] = "definition; the MaterialX 1.39 specification, min"
    phrase: ClassVar[str] = "but at most {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    by: Input = param(1.0, "A number, a colour or a signal.", kind="input")

    def inputs(self) -> Mapping[str, Input]:
        return {"by": self.by}

    def run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        np.minimum(incoming, inputs["by"], out=out)
