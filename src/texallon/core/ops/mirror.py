"""Mirror the pattern across planes."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Vector
from texallon.core.kernel import Array
from texallon.core.ops.op import DomainWarp, param


class Mirror(DomainWarp):
    name: ClassVar[str] = "mirror"
    purpose: ClassVar[str] = "What lies on the positive side of a plane is seen on both."
    reference: ClassVar[str] = "|p − pivot| + pivot along each chosen axis"
    phrase: ClassVar[str] = "mirrored"

    x: bool = param(True, "Across the plane x = pivot.")
    y: bool = param(False, "Across the plane y = pivot.")
    z: bool = param(False, "Across the plane z = pivot.")
    pivot: Vector = param((0.0, 0.0, 0.0), "Where the planes meet.", unit="m")

    def _warp(self, position: Array, inputs: Mapping[str, Array], after: Array, stretch: Array) -> None:
        for row, chosen in enumerate((self.x, self.y, self.z)):
            middle = np.float32(self.pivot[row])
            after[row] = np.abs(position[row] - middle) + middle if chosen else position[row]
