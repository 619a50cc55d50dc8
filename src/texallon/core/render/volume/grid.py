"""The lattice that a volume is stored on: cells as good as cubes in the world, in levels of which each is twice as coarse."""

from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Integers
from texallon.core.ops.points import Matrix
from texallon.core.render.volume.quantities import CORNERS, MOST_LEVELS, SIDE, VALUES

FINEST = 2048
"""Cells along the longest side at most."""

MOST_BRICKS = 1 << 24
"""Of the finest level: each takes four bytes in a table, used or not."""


class Grid(NamedTuple):
    """Level 0 is the finest.

    Attributes
    ----------
    low : Array
        `(3,)` its corner in the body's own space.
    cell : Array
        `(3,)` size of the finest cells there.
    cell_world : float
        Metres in the world that they are wide.
    dims : Integers
        `(levels, 3)` bricks along each axis.
    first : Integers
        `(levels,)` where a level begins in the table of bricks.
    """

    low: Array
    cell: Array
    cell_world: float
    dims: Integers
    first: Integers

    @property
    def levels(self) -> int:
        """How many there are."""
        return len(self.dims)

    @property
    def bricks(self) -> int:
        """Of all levels."""
        return int(self.first[-1] + np.prod(self.dims[-1].astype(np.int64)))

    def corners(self, level: int, numbers: Integers) -> Array:
        """Where the corners of some bricks lie.

        Parameters
        ----------
        level : int
            Of the bricks.
        numbers : Integers
            `(m,)` within the level, x fastest.

        Returns
        -------
        Array
            `(3, m · 729)` in the body's own space, x fastest within a brick.
        """
        nx, ny, _ = (int(each) for each in self.dims[level])
        brick = np.stack([numbers % nx, numbers // nx % ny, numbers // (nx * ny)]).astype(np.int64)
        steps = np.arange(CORNERS)
        z, y, x = np.meshgrid(steps, steps, steps, indexing="ij")
        within = np.stack([x.ravel(), y.ravel(), z.ravel()])
        at = (brick[:, :, None] * SIDE + within[:, None, :]).reshape(3, -1) << level
        place = self.low[:, None].astype(np.float64) + at * self.cell[:, None].astype(np.float64)
        return np.ascontiguousarray(place, np.float32)

    def level_of(self, slots: Integers) -> Integers:
        """The levels of some bricks.

        Parameters
        ----------
        slots : Integers
            `(m,)` places in the table.
        """
        found: Integers = (np.searchsorted(self.first, slots, side="right") - 1).astype(np.int32)
        return found

    def places(self, slots: Integers) -> tuple[Array, Array]:
        """Where the corners of bricks of any levels lie, and how many metres in the world a sample there stands for.

        Parameters
        ----------
        slots : Integers
            `(m,)` places in the table, from low to high.

        Returns
        -------
        tuple of Array
            `(3, m · 729)` in the body's own space, x fastest within a brick; `(m · 729,)` metres.
        """
        levels = self.level_of(slots)
        own = [
            self.corners(int(level), slots[levels == level] - self.first[level]) for level in np.unique(levels).tolist()
        ]
        wide = np.repeat(np.float32(self.cell_world) * np.float32(2) ** levels, VALUES)
        return np.ascontiguousarray(np.concatenate(own, axis=1)), wide.astype(np.float32)


def make_grid(low: Array, high: Array, matrix: Matrix, finest: int = FINEST) -> Grid:
    """The lattice of a body.

    Parameters
    ----------
    low, high : Array
        `(3,)` its bounds in its own space.
    matrix : Matrix
        `(3, 4)` into the world.
    finest : int
        Cells along its longest side.
    """
    scale = np.maximum(np.linalg.norm(matrix[:, :3].astype(np.float64), axis=0), 1e-12)
    size = np.maximum((high - low).astype(np.float64) * scale, 1e-9)
    cells = float(min(max(finest, 1), FINEST))
    while True:
        cell = float(size.max()) / cells
        levels, bricks = _levels(size, cell)
        if bricks <= MOST_BRICKS or cells <= 1:
            break
        cells /= 2
    first = np.concatenate([[0], np.cumsum(np.prod(levels.astype(np.int64), axis=1))[:-1]])
    own = cell / scale
    return Grid(low.astype(np.float32), own.astype(np.float32), cell, levels, first.astype(np.int32))


def _levels(size: np.typing.NDArray[np.float64], cell: float) -> tuple[Integers, int]:
    """Bricks along each axis by level, up to the one of which one or a few hold all; and how many the finest has."""
    dims = []
    for level in range(MOST_LEVELS):
        cells = np.ceil(size / (cell * 2**level) - 1e-6)
        dims.append(np.maximum(np.ceil(cells / SIDE), 1).astype(np.int32))
        if dims[-1].max() <= 2:
            break
    return np.stack(dims), int(np.prod(dims[0].astype(np.int64)))
