"""Repeat a block of the pattern endlessly."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Vector
from texallon.core.kernel import Array
from texallon.core.ops.op import DomainWarp, param


class Tile(DomainWarp):
    name: ClassVar[str] = "tile"
    purpose: ClassVar[str] = "Repeats the block from the origin to a size, along each axis that has one."
    reference: ClassVar[str] = "p − size ⌊p / size⌋; every other block reversed where mirrored"
    phrase: ClassVar[str] = "repeated every {size}"

    size: Vector = param((1.0, 0.0, 1.0), "Size of the block; along an axis where it is 0 nothing repeats.", unit="m")
    mirrored: bool = param(False, "Every other block reversed, so that edges always meet.")

    def _warp(self, position: Array, inputs: Mapping[str, Array], after: Array, stretch: Array) -> None:
        for row, edge in enumerate(self.size):
            if edge == 0:
                after[row] = position[row]
                continue
            size = np.float32(abs(edge))
            blocks = position[row] / size
            number = np.floor(blocks)
            part = blocks - number
            if self.mirrored:
                odd = number - np.float32(2) * np.floor(number / np.float32(2))
                part = np.where(odd > 0, np.float32(1) - part, part)
            after[row] = part * size
