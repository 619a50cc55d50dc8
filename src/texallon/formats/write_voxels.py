"""Writing voxel grids, as OpenVDB or as NumPy files."""

import os
import tempfile
from collections.abc import Mapping
from pathlib import Path

import numpy as np
import numpy.typing as npt

from texallon.formats.write_vdb import WrittenGrid, write_vdb


def check_ending(path: Path) -> None:
    """Raises `ValueError` for a name that voxel grids can't be written by."""
    if path.suffix.lower() not in (".vdb", ".npz"):
        raise ValueError(f"{path}: voxel grids are written as .vdb or .npz")
    if not path.resolve().parent.is_dir():
        raise ValueError(f"{path}: there is no folder {path.parent}")


def write_voxels(path: Path, grids: Mapping[str, npt.NDArray[np.float32]], to_place: npt.NDArray[np.float64]) -> None:
    """Write grids `(nx, ny, nz)` or `(nx, ny, nz, 3)` that lie where `to_place (3, 4)` says; the file appears whole or not at all.

    Raises `ValueError` where a `.npz` has no way to say where they lie: it knows no turn.
    """
    check_ending(path)
    if path.suffix.lower() == ".vdb":
        write_vdb(path, [WrittenGrid(name, values, to_place) for name, values in grids.items()])
        return
    voxel = np.diag(to_place[:, :3])
    if np.abs(to_place[:, :3] - np.diag(voxel)).max() > 1e-6 * np.abs(voxel).max() or (voxel <= 0).any():
        raise ValueError("the volume is turned, which a NumPy file can't say: write it as .vdb")
    handle, name = tempfile.mkstemp(suffix=".npz", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as out:
            np.savez_compressed(out, allow_pickle=False, **grids, voxel_size=voxel, origin=to_place[:, 3])
        os.chmod(name, 0o644)
        Path(name).replace(path)
    finally:
        Path(name).unlink(missing_ok=True)
