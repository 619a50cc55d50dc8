"""Turn the UV map about a point of it."""

from collections.abc import Mapping
from math import cos, radians, sin
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.op import DomainWarp, Space, param


class TurnMap(DomainWarp):
    name: ClassVar[str] = "turn map"
    purpose: ClassVar[str] = "Turns what is looked up on the UV map about a pivot."
    reference: ClassVar[str] = "rotation in the plane"
    phrase: ClassVar[str] = "turned by {angle}"

    space: Space = param("uv", "Whose coordinates it bends; its first two.", kind="place")
    angle: Finite = param(0.0, "Turns the pattern counter-clockwise.", unit="°")
    pivot_u: Finite = param(0.5, "The pivot along u.")
    pivot_v: Finite = param(0.5, "The pivot along v.")

    def _warp(self, position: Array, inputs: Mapping[str, Array], after: Array, stretch: Array) -> None:
        c, s = np.float32(cos(radians(self.angle))), np.float32(sin(radians(self.angle)))
        pu, pv = np.float32(self.pivot_u), np.float32(self.pivot_v)
        u, v = position[0] - pu, position[1] - pv
        after[0] = c * u + s * v + pu
        after[1] = c * v - s * u + pv
        after[2] = position[2]
