"""One minus the value: a mask the other way round."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier
from texallon.core.ops.points import Points


class Invert(Modifier):
    name: ClassVar[str] = "invert"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "One minus the value: where it was, it is not."
    phrase: ClassVar[str] = "the other way round"

    def affine_in(self, varying: frozenset[str]) -> bool:
        return True

    def _run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        np.subtract(np.float32(1), incoming, out=out)
