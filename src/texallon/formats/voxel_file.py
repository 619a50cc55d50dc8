"""Voxel grids from OpenVDB and NumPy files: checked before they are believed, and limited in size."""

from pathlib import Path

import numpy as np

from texallon.core.ops.voxel_grid import VoxelGrid, make_voxel_grid
from texallon.formats.voxel_grids import LARGEST_FILE, GridFacts, VoxelError
from texallon.formats.voxel_numpy import list_numpy, read_numpy
from texallon.formats.voxel_vdb import list_vdb, read_vdb

KINDS = ("vdb", "npy", "npz")
MAGIC = {"vdb": b" BDV\x00\x00\x00\x00", "npy": b"\x93NUMPY", "npz": b"PK"}


def list_grids(path: Path) -> list[GridFacts]:
    """What grids a file has; raises `VoxelError` where it has none."""
    found = list_vdb(path) if _kind(path) == "vdb" else list_numpy(path)
    if not found:
        raise VoxelError("the file has no grids")
    return found


def read_voxels(path: Path, grid: str) -> VoxelGrid:
    """A grid with its smaller copies; raises `VoxelError`."""
    stored = read_vdb(path, grid) if _kind(path) == "vdb" else read_numpy(path, grid)
    full = np.vstack([stored.to_place, [0.0, 0.0, 0.0, 1.0]])
    if not np.isfinite(full).all() or abs(np.linalg.det(full[:3, :3])) < 1e-30:
        raise VoxelError("the grid is squeezed flat: its voxels have no volume")
    return make_voxel_grid(stored.values, np.linalg.inv(full)[:3], stored.background)


def _kind(path: Path) -> str:
    size = path.stat().st_size
    if size > LARGEST_FILE:
        raise VoxelError(f"the file has {size / 1e6:.0f} MB; at most {LARGEST_FILE / 1e6:.0f} MB are read")
    kind = path.suffix.lower().removeprefix(".")
    if kind not in KINDS:
        raise VoxelError(
            f"voxel grids come as OpenVDB or NumPy files (VDB, NPY, NPZ), not as “{kind or 'a file without an ending'}”"
        )
    with path.open("rb") as file:
        if not file.read(8).startswith(MAGIC[kind]):
            raise VoxelError(f"this is not a {kind.upper()} file: its contents are of another kind")
    return kind
