"""The distance from zero."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier
from texallon.core.ops.points import Points


class Absolute(Modifier):
    name: ClassVar[str] = "absolute"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "Negative values become positive: creases where a noise crosses zero."
    phrase: ClassVar[str] = "without its sign"

    def _run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        np.absolute(incoming, out=out)
