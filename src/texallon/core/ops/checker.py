"""Cubes that alternate between two values."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.filtered import Filtered
from texallon.core.ops.op import Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points


class Checker(Filtered):
    fades: ClassVar[bool] = False
    name: ClassVar[str] = "checker"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "1 and 0 in turn, in cubes."
    reference: ClassVar[str] = "parity of the sum of the whole parts of the coordinates"
    phrase: ClassVar[str] = "a checker of {size}"

    size: float = param(0.1, "Edge of a cube.", unit="m", above=0, high=1e6)
    space: Space = param("world", "What the pattern sticks to.", kind="place")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def expected(self) -> float:
        return 0.5

    def _pattern(self, points: Points, out: Array) -> None:
        place = points.position(space_key(self.space)) / np.float32(self.size)
        width = points.footprint(space_key(self.space)) / np.float32(self.size)
        sign = np.ones(points.count, np.float32)
        for row in range(3):
            part = place[row] - np.floor(place[row])
            odd = np.floor(place[row]) - np.float32(2) * np.floor(place[row] / np.float32(2))
            # An edge is as wide as a sample: the mean of ±1 over one that lies across it.
            soft = np.where(
                width > 0, np.minimum(np.minimum(part, 1 - part) * 2 / np.maximum(width, np.float32(1e-6)), 1), 1
            )
            sign *= (np.float32(1) - np.float32(2) * odd) * soft.astype(np.float32)
        out[0] = np.float32(0.5) + np.float32(0.5) * sign
