"""One number from a colour: how bright it is."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier
from texallon.core.ops.points import Points


class Luminance(Modifier):
    name: ClassVar[str] = "luminance"
    category: ClassVar[str] = "colour"
    purpose: ClassVar[str] = "How bright a colour is, as one number; a number stays as it is."
    reference: ClassVar[str] = "ITU-R BT.709: 0.2126 R + 0.7152 G + 0.0722 B of linear light"
    phrase: ClassVar[str] = "as brightness"

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 1

    def _run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        if incoming.shape[0] == 1:
            out[:] = incoming
        else:
            weights = np.array([[0.2126], [0.7152], [0.0722]], np.float32)
            np.sum(incoming * weights, axis=0, out=out[0])
