"""Turn the hue of a colour, and scale its saturation and value."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, kernel
from texallon.core.ops.op import Modifier, param, row_of
from texallon.core.ops.points import Points


class HueSaturationValue(Modifier):
    name: ClassVar[str] = "hue saturation value"
    category: ClassVar[str] = "colour"
    purpose: ClassVar[str] = "Turns the hue, scales saturation and value of a colour."
    reference: ClassVar[str] = (
        "A. R. Smith, Color Gamut Transform Pairs, SIGGRAPH 1978; the MaterialX 1.39 specification, hsvadjust"
    )
    phrase: ClassVar[str] = "its hue turned by {hue}"
    non_finite: ClassVar[str] = "NaN stays NaN; negative light counts as 0."

    can_vary: ClassVar[tuple[str, ...]] = ("hue", "saturation", "value")

    hue: Finite = param(0.0, "Added to the hue, in degrees.", unit="°")
    saturation: float = param(1.0, "Multiplies the saturation.", low=0, high=100)
    value: float = param(1.0, "Multiplies the value.", low=0, high=1000)

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        three = np.ascontiguousarray(np.broadcast_to(incoming, out.shape))
        hue, saturation, value = (row_of(getattr(self, name), inputs, name, out.shape[1]) for name in self.can_vary)
        adjust(three, hue / np.float32(360), saturation, value, out)


@kernel
def adjust(colour: Array, turn: Array, saturation: Array, value: Array, out: Array) -> None:
    """Turn the hue, and scale saturation and value.

    Parameters
    ----------
    colour : Array
        `(3, n)` linear Rec.709.
    turn : Array
        `(n,)` turns of the hue.
    saturation : Array
        `(n,)` factors.
    value : Array
        `(n,)` factors.
    out : Array
        `(width, n)`, filled.
    """
    for i in range(out.shape[1]):
        r, g, b = max(colour[0, i], 0), max(colour[1, i], 0), max(colour[2, i], 0)
        high, low = max(r, g, b), min(r, g, b)
        reach = high - low
        h = 0.0
        if reach > 0:
            if high == r:
                h = (g - b) / reach
            elif high == g:
                h = 2 + (b - r) / reach
            else:
                h = 4 + (r - g) / reach
        h = h / 6 + turn[i]
        h = (h - np.floor(h)) * 6
        s = min(reach / high * saturation[i], 1) if high > 0 else 0.0
        v = high * value[i]
        for c in range(3):
            # Each channel is the same trapezoid over the hue, a third of a turn apart.
            place = (5 - 2 * c + h) % 6
            part = max(min(place, 4 - place, 1), 0)
            out[c, i] = v - v * s * part
        total = colour[0, i] + colour[1, i] + colour[2, i] + turn[i] + saturation[i] + value[i]
        if np.isnan(total):
            out[0, i] = out[1, i] = out[2, i] = np.float32(np.nan)
