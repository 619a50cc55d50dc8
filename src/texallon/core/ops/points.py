"""A batch of points to evaluate signals at, carrying only the data that the plan asked for."""

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, kernel

Matrix = npt.NDArray[np.float32]
"""An affine map as `(3, 4)` float32: rotation and scale, then translation."""


class Points:
    """Structure-of-arrays point data.

    `data` maps names to float32 arrays `(width, n)`: `position` and `object_position` (metres), `normal` and
    `view` (unit; view points towards the eye), `uv` (2, n), `footprint` (1, n; width in metres that one sample
    stands for), and `attribute:NAME`. `frames` maps `locator:NAME` to the matrix from the world into that locator.
    """

    def __init__(self, count: int, data: Mapping[str, Array], frames: Mapping[str, Matrix] | None = None) -> None:
        self.count = count
        self.data = data
        self.frames = frames or {}
        self._measured: dict[str, Array] = {}

    def position(self, place: str) -> Array:
        """Positions `(3, n)` in `world`, `object` or `locator:NAME`."""
        if place == "world":
            return self.data["position"]
        if place == "object":
            return self.data["object_position"]
        if place not in self._measured:
            out = np.empty((3, self.count), np.float32)
            transform_points(self.frames[place], self.data["position"], out)
            self._measured[place] = out
        return self._measured[place]

    def chunk(self, start: int, stop: int) -> "Points":
        """The points `start`…`stop` with their data copied together, so that kernels see contiguous rows."""
        data = {name: np.ascontiguousarray(array[:, start:stop]) for name, array in self.data.items()}
        return Points(stop - start, data, self.frames)


@kernel
def transform_points(matrix: Matrix, position: Array, out: Array) -> None:
    for row in range(3):
        a, b, c, d = matrix[row, 0], matrix[row, 1], matrix[row, 2], matrix[row, 3]
        for i in range(out.shape[1]):
            out[row, i] = a * position[0, i] + b * position[1, i] + c * position[2, i] + d
