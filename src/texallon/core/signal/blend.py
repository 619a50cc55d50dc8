"""How a layer's value meets what lies below it, weighted by the layer's mask."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.document.look import Blend
from texallon.core.kernel import Array, Float, Int, kernel
from texallon.core.ops.op import Modifier, Op
from texallon.core.ops.points import Points

MODES = {mode: number for number, mode in enumerate(Blend)}


class LayerBlend(Op):
    """Not an op of recipes: the plan puts one wherever a layer touches a channel.

    Incoming is the value below, `value` the layer's own, `mask` where it lies; a mask beyond 0…1 is clamped
    and one that is not a number counts as 0, so that a broken mask hides its layer and nothing more.
    """

    name: ClassVar[str] = "layer"
    kind = Modifier.kind
    purpose: ClassVar[str] = "Blend a layer's value over what lies below."
    reference: ClassVar[str] = "linear interpolation by mask × opacity (Porter & Duff 1984, over)"
    phrase: ClassVar[str] = ""

    mode: Blend = Blend.replace
    opacity: float = 1.0

    def affine_in(self, varying: frozenset[str]) -> bool:
        return "mask" not in varying and (
            self.mode in (Blend.replace, Blend.add) or (self.mode == Blend.multiply and len(varying) == 1)
        )

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        mask = inputs["mask"][0]
        for row in range(out.shape[0]):
            below = incoming[row if incoming.shape[0] > 1 else 0]
            value = inputs["value"]
            blend_layer(
                below,
                value[row if value.shape[0] > 1 else 0],
                mask,
                MODES[self.mode],
                np.float32(self.opacity),
                out[row],
            )


@kernel
def blend_layer(below: Array, value: Array, mask: Array, mode: Int, opacity: Float, out: Array) -> None:
    """See `LayerBlend`.

    Parameters
    ----------
    below : Array
        `(n,)` the value below; of a look the last layer that counts.
    value : Array
        `(n,)` the layer's own, or `(width, n)`.
    mask : Array
        `(n,)` where the layer lies.
    mode : int
        How they meet, by its number.
    opacity : float
        Scales the mask.
    out : Array
        `(n,)` or `(width, n)`, filled.
    """
    zero, one = np.float32(0), np.float32(1)
    for i in range(out.shape[0]):
        m = mask[i]
        m = (one if m > one else m) if m > zero else zero
        b, v = below[i], value[i]
        if mode == 1:
            v = b * v
        elif mode == 2:
            v = b + v
        elif mode == 3:
            v = max(b, v)
        elif mode == 4:
            v = min(b, v)
        t = m * opacity
        # Where it covers whole it is the layer's own value, which b + (v − b) is not to the last bit.
        out[i] = b if t == zero else (v if t == one else b + t * (v - b))
