"""A dense grid of numbers in space with its ever smaller copies, and looking values up in it between voxels and between copies."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Float, Int, inlined, kernel

Doubles = npt.NDArray[np.float64]


@dataclass(frozen=True)
class VoxelGrid:
    """A grid whose values lie at whole indices; beyond it everything has the background's value.

    Attributes
    ----------
    values : Array
        `(p, width)` of all levels, the finest first; within a level z goes fastest, then y.
    levels : NDArray
        `(l, 4)` where each starts, and its voxels along x, y and z.
    to_index : Doubles
        `(3, 4)` from metres to indices of the finest level.
    background : Array
        `(width,)`.
    """

    values: Array
    levels: npt.NDArray[np.int64]
    to_index: Doubles
    background: Array

    @property
    def width(self) -> int:
        """Numbers of a voxel."""
        return int(self.values.shape[1])

    @property
    def size(self) -> tuple[int, int, int]:
        """Voxels along x, y and z."""
        _, nx, ny, nz = (int(each) for each in self.levels[0])
        return nx, ny, nz

    @property
    def finest(self) -> Array:
        """`(nx, ny, nz, width)`."""
        nx, ny, nz = self.size
        return self.values[: nx * ny * nz].reshape(nx, ny, nz, self.width)

    @property
    def voxel(self) -> float:
        """Metres that a voxel is wide, in the mean of its directions."""
        return float(abs(np.linalg.det(self.to_index[:, :3])) ** (-1 / 3))


def make_voxel_grid(values: Array, to_index: Doubles, background: Array | None = None) -> VoxelGrid:
    """A grid with its smaller copies, each voxel of which is the mean of the eight that it covers.

    Parameters
    ----------
    values : Array
        `(nx, ny, nz, width)`.
    to_index : Doubles
        `(3, 4)` from metres to indices, an affine map that can be undone.
    background : Array, optional
        `(width,)`; unless given, 0.

    Raises
    ------
    ValueError
        Where the map can't be undone.
    """
    if not np.isfinite(to_index).all() or abs(np.linalg.det(to_index[:, :3])) < 1e-30:
        raise ValueError("the grid is squeezed flat: its voxels have no volume")
    beyond = np.zeros(values.shape[3], np.float32) if background is None else np.asarray(background, np.float32)
    levels, parts, start = [], [], 0
    level = np.ascontiguousarray(values, np.float32)
    while True:
        levels.append((start, *level.shape[:3]))
        parts.append(level.reshape(-1, level.shape[3]))
        start += len(parts[-1])
        if max(level.shape[:3]) == 1:
            break
        level = _halved(level, beyond)
    return VoxelGrid(np.concatenate(parts), np.array(levels, np.int64), to_index.astype(np.float64), beyond)


def _halved(level: Array, background: Array) -> Array:
    """Half as many voxels along each side, rounded up; what a voxel covers beyond the grid is background."""
    for axis in range(3):
        even = level
        if level.shape[axis] % 2:
            shape = list(level.shape)
            shape[axis] = 1
            even = np.concatenate([level, np.broadcast_to(background, shape)], axis=axis)
        first, second = (np.take(even, np.arange(k, even.shape[axis], 2), axis=axis) for k in (0, 1))
        level = np.ascontiguousarray((first + second) * np.float32(0.5), np.float32)
    return level


@inlined
def _between_voxels(
    values: Array, start: Int, nx: Int, ny: Int, nz: Int, beyond: Float, c: Int, x: Float, y: Float, z: Float
) -> Float:  # fmt: skip
    """Trilinear interpolation in one level at indices that need not be whole."""
    bx, by, bz = np.floor(x), np.floor(y), np.floor(z)
    total = 0.0
    for corner in range(8):
        i, j, k = np.int64(bx) + (corner & 1), np.int64(by) + (corner >> 1 & 1), np.int64(bz) + (corner >> 2)
        weight = (x - bx) if corner & 1 else 1.0 - (x - bx)
        weight *= (y - by) if corner >> 1 & 1 else 1.0 - (y - by)
        weight *= (z - bz) if corner >> 2 else 1.0 - (z - bz)
        if weight == 0.0:
            continue
        there = 0 <= i < nx and 0 <= j < ny and 0 <= k < nz
        total += weight * (np.float64(values[start + (i * ny + j) * nz + k, c]) if there else beyond)
    return total


@kernel
def look_up_voxels(
    values: Array,
    levels: npt.NDArray[np.int64],
    background: Array,
    to_index: Doubles,
    position: Array,
    width: Array,
    out: Array,
) -> None:
    """The values of a grid at some places, between voxels and between the two levels that are nearest to a sample's width.

    Parameters
    ----------
    values : Array
        `(p, channels)`, as `VoxelGrid` has them.
    levels : NDArray
        `(l, 4)`.
    background : Array
        `(channels,)`.
    to_index : Doubles
        `(3, 4)`.
    position : Array
        `(3, n)`; a place that is not finite gives NaN.
    width : Array
        `(n,)` voxels that a sample stands for.
    out : Array
        `(channels, n)`, filled.
    """
    last = levels.shape[0] - 1
    for n in range(out.shape[1]):
        px, py, pz = np.float64(position[0, n]), np.float64(position[1, n]), np.float64(position[2, n])
        x = to_index[0, 0] * px + to_index[0, 1] * py + to_index[0, 2] * pz + to_index[0, 3]
        y = to_index[1, 0] * px + to_index[1, 1] * py + to_index[1, 2] * pz + to_index[1, 3]
        z = to_index[2, 0] * px + to_index[2, 1] * py + to_index[2, 2] * pz + to_index[2, 3]
        if not (np.isfinite(x) and np.isfinite(y) and np.isfinite(z)):
            out[:, n] = np.nan
            continue
        x, y, z = min(max(x, -1e12), 1e12), min(max(y, -1e12), 1e12), min(max(z, -1e12), 1e12)
        wide = np.float64(width[n])
        level = min(np.log2(wide) if wide > 1.0 else 0.0, np.float64(last))
        fine = np.int64(level)
        t = level - fine
        for c in range(out.shape[0]):
            beyond = np.float64(background[c])
            s = 1.0 / (np.int64(1) << fine)
            a = _between_voxels(
                values, levels[fine, 0], levels[fine, 1], levels[fine, 2], levels[fine, 3], beyond, c,
                (x + 0.5) * s - 0.5, (y + 0.5) * s - 0.5, (z + 0.5) * s - 0.5,
            )  # fmt: skip
            if t > 0.0:
                k = fine + 1
                b = _between_voxels(
                    values, levels[k, 0], levels[k, 1], levels[k, 2], levels[k, 3], beyond, c,
                    (x + 0.5) * s * 0.5 - 0.5, (y + 0.5) * s * 0.5 - 0.5, (z + 0.5) * s * 0.5 - 0.5,
                )  # fmt: skip
                a += t * (b - a)
            out[c, n] = a
