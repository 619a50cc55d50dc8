"""What is read from files of voxel grids, whatever their kind."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

MOST_VOXELS = 512**3
"""Of one grid, between its outermost voxels that are not background."""

LARGEST_FILE = 512_000_000


class VoxelError(ValueError):
    """A file of voxel grids that can't be used, in words for a person."""


class GridFacts(NamedTuple):
    """What a grid is called, how many numbers a voxel has, and how many voxels there are along x, y and z."""

    name: str
    width: int
    size: tuple[int, int, int]


class StoredGrid(NamedTuple):
    """`values (nx, ny, nz, width)`; `to_place (3, 4)` from indices to metres; `background (width,)`."""

    values: npt.NDArray[np.float32]
    to_place: npt.NDArray[np.float64]
    background: npt.NDArray[np.float32]
