"""The higher of two values: where either is."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Joining


class Maximum(Joining):
    name: ClassVar[str] = "maximum"
    group: ClassVar[str] = "join"
    purpose: ClassVar[str] = "The higher of two values: of masks, where either lies."
    reference: ClassVar[str] = "definition; the MaterialX 1.39 specification, max"
    phrase: ClassVar[str] = "or {by}"
    non_finite: ClassVar[str] = "NaN stays NaN."

    def join(self, incoming: Array, by: Array, out: Array) -> None:
        np.maximum(incoming, by, out=out)
