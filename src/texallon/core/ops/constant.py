"""The same number or colour everywhere."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.op import Colour, Source, param
from texallon.core.ops.points import Points


class Constant(Source):
    name: ClassVar[str] = "constant"
    category: ClassVar[str] = "values"
    purpose: ClassVar[str] = "The same number or colour everywhere."
    phrase: ClassVar[str] = "always {value}"

    value: Finite | Colour = param(1.0, "A number, or a scene-linear colour.")

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if isinstance(self.value, tuple) else 1

    def _fill(self, points: Points, out: Array) -> None:
        out[:] = np.reshape(np.asarray(self.value, np.float32), (-1, 1))
