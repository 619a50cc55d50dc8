"""From a normal map's stored numbers to the normal they mean, in the map's own frame."""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier, param
from texallon.core.ops.points import Points


class NormalMap(Modifier):
    name: ClassVar[str] = "normal map"
    category: ClassVar[str] = "colour"
    purpose: ClassVar[str] = "Reads a stored normal, 0…1, as a direction −1…1: x along u, y along v, z off the surface."
    reference: ClassVar[str] = "glTF 2.0, 3.9.3: 2c − 1, x and y scaled by the strength, of unit length"
    phrase: ClassVar[str] = "as a normal of strength {strength}"
    non_finite: ClassVar[str] = "What is not finite gives the plain normal."

    strength: float = param(1.0, "How much it tilts; 0 is flat.", low=0, high=16)
    green: Literal["up", "down"] = param("up", "Which way a high second number leans: along v, or against it.")

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3

    def _run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        stored = np.broadcast_to(incoming, out.shape)
        np.multiply(stored, np.float32(2), out=out)
        out -= np.float32(1)
        strength = np.float32(self.strength)
        out[0] *= strength
        out[1] *= strength if self.green == "up" else -strength
        length = np.sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2])
        good = np.isfinite(length) & (length > 1e-6)
        out /= np.where(good, length, np.float32(1))
        for row, plain in enumerate((0.0, 0.0, 1.0)):
            out[row] = np.where(good, out[row], np.float32(plain))
