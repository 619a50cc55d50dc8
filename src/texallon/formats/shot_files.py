"""Finding what a shot refers to among files on disk."""

from pathlib import Path

import numpy as np
import numpy.typing as npt

from texallon.core.document.object import FileRef
from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.mesh import Mesh
from texallon.core.ops.pyramid import Pyramid
from texallon.core.ops.voxel_grid import VoxelGrid
from texallon.formats.mesh_file import read_mesh
from texallon.formats.mesh_size import mesh_size
from texallon.formats.picture_file import read_picture, read_pyramid
from texallon.formats.voxel_file import read_voxels


class ShotFiles:
    """Files beside a document (`root`), or in a store by their SHA-256 (`store`), where the document names one.

    Large pictures are unpacked into `scratch`, the system's folder for temporary files unless given.
    """

    def __init__(self, root: Path | None = None, store: Path | None = None, scratch: Path | None = None) -> None:
        self.root = root
        self.store = store
        self.scratch = scratch

    def path(self, ref: FileRef) -> Path:
        """Where a file lies; raises `FileNotFoundError` in words for a person."""
        if self.store is not None and ref.sha256:
            stored = self.store / f"{ref.sha256}{Path(ref.file).suffix.lower()}"
            if stored.is_file():
                return stored
        if self.root is not None:
            beside = (self.root / ref.file).resolve()
            if beside.is_file() and beside.is_relative_to(self.root.resolve()):
                return beside
        raise FileNotFoundError(f"the file “{ref.file}” that the shot refers to is not there")

    def key(self, ref: FileRef) -> str:
        """By its digest where the document names one; else by path, size and time of change."""
        if ref.sha256:
            return f"sha256:{ref.sha256}"
        path = self.path(ref)
        found = path.stat()
        return f"{path}:{found.st_size}:{found.st_mtime_ns}"

    def mesh(self, ref: FileRef) -> Mesh:
        return read_mesh(self.path(ref))

    def mesh_size(self, ref: FileRef) -> MeshSize:
        return mesh_size(self.path(ref))

    def image(self, ref: FileRef) -> npt.NDArray[np.float32]:
        return _three_channels(read_picture(self.path(ref), False))

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        return read_pyramid(self.path(ref), raw, self.scratch)

    def voxels(self, ref: FileRef, grid: str) -> VoxelGrid:
        return read_voxels(self.path(ref), grid)


def _three_channels(picture: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    """Red, green and blue; a picture with one channel (and perhaps alpha) is grey."""
    chosen = picture[:, :, :3] if picture.shape[2] >= 3 else np.repeat(picture[:, :, :1], 3, axis=2)
    return np.ascontiguousarray(chosen)
