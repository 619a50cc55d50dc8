"""A gradient from a placed origin: along an axis, away from an axis, or away from a point."""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.height import AXES
from texallon.core.ops.op import Source, Space, param, position_in, space_key
from texallon.core.ops.points import Points


class Gradient(Source):
    name: ClassVar[str] = "gradient"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "0 at the origin, 1 at a length from it: along an axis, around it, or in all directions."
    reference: ClassVar[str] = "definition: a coordinate, the distance to a line, the distance to a point"
    phrase: ClassVar[str] = "the {shape} distance from {origin}, over {length}"

    shape: Literal["linear", "radial", "spherical"] = param(
        "spherical", "Along the axis, away from it, or from the point."
    )
    origin: Space = param("world", "What it is measured from.", kind="place")
    axis: Literal["x", "y", "z"] = param("y", "The axis for linear and radial.")
    length: float = param(1.0, "Where it reaches 1.", unit="m", above=0, high=1e6)

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.origin)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.origin,)

    def _fill(self, points: Points, out: Array) -> None:
        position = points.position(space_key(self.origin))
        along = AXES[self.axis]
        if self.shape == "linear":
            out[0] = position[along] / np.float32(self.length)
            return
        rows = [row for row in range(3) if self.shape == "spherical" or row != along]
        squares = sum(position[row] * position[row] for row in rows)
        out[0] = np.sqrt(squares) / np.float32(self.length)
