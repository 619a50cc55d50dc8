"""Voxel grids from NumPy files: a `.npy` is one grid called `density`; an `.npz` has a grid under each name.

Arrays are `(x, y, z)`, or `(x, y, z, 3)` for vectors. In an `.npz`, `voxel_size` (one number, or three) and `origin` (three: the middle of the
first voxel) say in metres where they lie; without these the longest side is a metre and the middle lies at the origin.
"""

import zipfile
from pathlib import Path
from typing import IO, Any

import numpy as np
import numpy.typing as npt

from texallon.formats.voxel_grids import MOST_VOXELS, GridFacts, StoredGrid, VoxelError

PLACES = ("voxel_size", "origin")
ONLY = "density"
"""What the grid of a `.npy` is called."""

MOST_GRIDS = 64


def list_numpy(path: Path) -> list[GridFacts]:
    """What grids a file has; raises `VoxelError`."""
    return [GridFacts(name, *_shape(name, shape)) for name, shape in _shapes(path).items() if name not in PLACES]


def read_numpy(path: Path, grid: str) -> StoredGrid:
    """A grid of a file; raises `VoxelError`."""
    shapes = _shapes(path)
    names = [each for each in shapes if each not in PLACES]
    if grid not in names:
        known = ", ".join(f"“{each[:40]}”" for each in names[:12]) or "none"
        raise VoxelError(f"there is no grid “{grid}” in the file; it has {known}")
    width, size = _shape(grid, shapes[grid])
    values = np.ascontiguousarray(_array(path, grid), np.float32).reshape(*size, width)
    voxel, origin = _place(path, shapes, size)
    to_place = np.zeros((3, 4))
    to_place[:, :3] = np.diag(voxel)
    to_place[:, 3] = origin
    return StoredGrid(values, to_place, np.zeros(width, np.float32))


def _place(
    path: Path, shapes: dict[str, tuple[int, ...]], size: tuple[int, int, int]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """The size of voxels, and the middle of the first."""
    voxel = np.full(3, 1.0 / max(size))
    if "voxel_size" in shapes:
        given = _few(path, shapes, "voxel_size", (1, 3))
        voxel = np.broadcast_to(given, (3,)).copy()
        if not (np.isfinite(voxel).all() and (voxel > 0).all()):
            raise VoxelError("“voxel_size” must be one number or three, each more than 0")
    origin = -voxel * (np.array(size) - 1) / 2
    if "origin" in shapes:
        origin = _few(path, shapes, "origin", (3,))
        if not np.isfinite(origin).all():
            raise VoxelError("“origin” must be three numbers")
    return voxel, origin


def _few(path: Path, shapes: dict[str, tuple[int, ...]], name: str, counts: tuple[int, ...]) -> npt.NDArray[np.float64]:
    if int(np.prod(shapes[name])) not in counts:
        raise VoxelError(f"“{name}” must hold {' or '.join(str(each) for each in counts)} numbers")
    return np.asarray(_array(path, name), np.float64).ravel()


def _shape(name: str, shape: tuple[int, ...]) -> tuple[int, tuple[int, int, int]]:
    """Width and size of a grid; raises `VoxelError` where an array is none."""
    if len(shape) not in (3, 4) or (len(shape) == 4 and shape[3] not in (1, 3)) or 0 in shape:
        said = " × ".join(str(each) for each in shape) or "one number"
        raise VoxelError(f"“{name}” is {said}; a grid is x × y × z numbers, or x × y × z × 3")
    if shape[0] * shape[1] * shape[2] > MOST_VOXELS:
        raise VoxelError(
            f"“{name}” has {shape[0]} × {shape[1]} × {shape[2]} voxels; at most {MOST_VOXELS // 10**6} million are read"
        )
    return (shape[3] if len(shape) == 4 else 1), (shape[0], shape[1], shape[2])


def _header(name: str, file: IO[bytes]) -> tuple[int, ...]:
    """The shape that an array's header tells; raises `VoxelError` for what holds no real numbers."""
    version = np.lib.format.read_magic(file)
    read: Any = np.lib.format.read_array_header_1_0 if version == (1, 0) else np.lib.format.read_array_header_2_0
    shape, _, kind = read(file)
    if kind.kind not in "fiub":
        raise VoxelError(f"“{name[:40]}” holds {kind}, not numbers")
    return tuple(int(each) for each in shape)


def _shapes(path: Path) -> dict[str, tuple[int, ...]]:
    """The shapes of all arrays of a file, from their headers alone; raises `VoxelError`."""
    try:
        if path.suffix.lower() == ".npy":
            with path.open("rb") as file:
                return {ONLY: _header(ONLY, file)}
        with zipfile.ZipFile(path) as archive:
            members = [each for each in archive.namelist() if each.endswith(".npy")]
            if len(members) > MOST_GRIDS:
                raise VoxelError(f"the file has {len(members)} arrays; at most {MOST_GRIDS} are read")
            shapes = {}
            for each in members:
                with archive.open(each) as file:
                    shapes[each.removesuffix(".npy")] = _header(each.removesuffix(".npy"), file)
            return shapes
    except VoxelError:
        raise
    except (ValueError, OSError, EOFError, zipfile.BadZipFile, NotImplementedError, RuntimeError) as error:
        raise VoxelError(f"the file is not one of NumPy's, or it is damaged: {_said(error, path)}") from error


def _array(path: Path, name: str) -> npt.NDArray[Any]:
    try:
        if path.suffix.lower() == ".npy":
            made: npt.NDArray[Any] = np.load(path, allow_pickle=False)
        else:
            with np.load(path, allow_pickle=False) as archive:
                made = archive[name]
    except (ValueError, OSError, EOFError, KeyError, zipfile.BadZipFile, zipfile.error, RuntimeError) as error:
        raise VoxelError(f"“{name}” can't be read: {_said(error, path)}") from error
    return made


def _said(error: BaseException, path: Path) -> str:
    return (str(error).replace(str(path), "the file").split("\n")[0] or type(error).__name__)[:160]
