"""Cubes that alternate between two values."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Place, Source, param, place_key, position_in
from texallon.core.ops.points import Points


class Checker(Source):
    name: ClassVar[str] = "checker"
    group: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "1 and 0 in turn, in cubes."
    reference: ClassVar[str] = "parity of the sum of the whole parts of the coordinates"
    phrase: ClassVar[str] = "a checker of {size}"

    size: float = param(0.1, "Edge of a cube.", unit="m", above=0, high=1e6)
    space: Place = param("world", "What the pattern sticks to.", kind="place")

    def needs(self) -> frozenset[str]:
        return frozenset({position_in(self.space)})

    def places(self) -> tuple[Place, ...]:
        return (self.space,)

    def fill(self, points: Points, out: Array) -> None:
        cell = np.floor(points.position(place_key(self.space)) / np.float32(self.size))
        together = cell[0] + cell[1] + cell[2]
        out[0] = np.float32(1) - (together - np.float32(2) * np.floor(together / np.float32(2)))
