"""Move, turn and scale the pattern that follows."""

from collections.abc import Mapping
from math import cos, radians, sin
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite, Vector
from texallon.core.kernel import Array
from texallon.core.ops.op import DomainWarp, param


class Move(DomainWarp):
    name: ClassVar[str] = "move"
    purpose: ClassVar[str] = "Moves, turns and scales the pattern as one would an object."
    reference: ClassVar[str] = "the inverse of scale, then rotation about x, y and z, then translation"
    phrase: ClassVar[str] = "moved by {by}"

    by: Vector = param((0.0, 0.0, 0.0), "How far the pattern moves.", unit="m")
    rotation: Vector = param((0.0, 0.0, 0.0), "Turns it about x, then y, then z.", unit="°")
    scale: tuple[Finite, Finite, Finite] = param((1.0, 1.0, 1.0), "Makes it larger along each axis. 0 counts as 1.")
    pivot: Vector = param((0.0, 0.0, 0.0), "The point that turning and scaling leave in place.", unit="m")

    def _warp(self, position: Array, inputs: Mapping[str, Array], after: Array, stretch: Array) -> None:
        x, y, z = (radians(angle) for angle in self.rotation)
        turn_x = np.array([[1, 0, 0], [0, cos(x), -sin(x)], [0, sin(x), cos(x)]])
        turn_y = np.array([[cos(y), 0, sin(y)], [0, 1, 0], [-sin(y), 0, cos(y)]])
        turn_z = np.array([[cos(z), -sin(z), 0], [sin(z), cos(z), 0], [0, 0, 1]])
        scale = np.array([axis or 1.0 for axis in self.scale])
        back = (turn_z @ turn_y @ turn_x).T / scale[:, None]
        pivot = np.array(self.pivot)
        rest = pivot - back @ (pivot + np.array(self.by))
        for row in range(3):
            a, b, c = back[row].astype(np.float32)
            after[row] = a * position[0] + b * position[1] + c * position[2] + np.float32(rest[row])
        stretch *= np.float32(1 / np.abs(scale).min())
