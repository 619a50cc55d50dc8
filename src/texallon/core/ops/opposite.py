"""The opposite of a colour: of the same lightest and darkest share, with what is strong in one weak in the other.

What a volume absorbs is often wanted as the opposite of what it scatters: a mist that scatters blue lets orange through.
"""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier
from texallon.core.ops.points import Points


class Opposite(Modifier):
    name: ClassVar[str] = "opposite colour"
    category: ClassVar[str] = "colour"
    purpose: ClassVar[str] = (
        "The colour across the wheel, as light and as strong: orange for blue. A number stays as it is."
    )
    reference: ClassVar[str] = (
        "largest + smallest − each (the hue turned by 180° at the same saturation and lightness of HSL)"
    )
    phrase: ClassVar[str] = "as its opposite colour"

    def _run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        np.subtract(incoming.max(axis=0) + incoming.min(axis=0), incoming, out=out)
