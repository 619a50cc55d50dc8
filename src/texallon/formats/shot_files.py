"""Finding what a shot refers to among files on disk, each read once."""

from collections import OrderedDict
from pathlib import Path
from threading import Lock

import numpy as np
import numpy.typing as npt

from texallon.core.document.object import FileRef
from texallon.core.geometry.mesh import Mesh
from texallon.core.ops.pyramid import Pyramid, make_pyramid
from texallon.formats.mesh_file import read_mesh
from texallon.formats.picture_file import read_picture

KEPT = 32


class ShotFiles:
    """Files beside a document (`root`), or in a store by their SHA-256 (`store`), where the document names one."""

    def __init__(self, root: Path | None = None, store: Path | None = None) -> None:
        self.root = root
        self.store = store
        self._lock = Lock()
        self._kept: OrderedDict[tuple[str, Path], Mesh | Pyramid | npt.NDArray[np.float32]] = OrderedDict()

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

    def mesh(self, ref: FileRef) -> Mesh:
        path = self.path(ref)
        kept = self._kept.get(("mesh", path))
        mesh = kept if isinstance(kept, Mesh) else read_mesh(path)
        self._keep(("mesh", path), mesh)
        return mesh

    def image(self, ref: FileRef) -> npt.NDArray[np.float32]:
        path = self.path(ref)
        kept = self._kept.get(("image", path))
        image = kept if isinstance(kept, np.ndarray) else _three_channels(read_picture(path, False))
        self._keep(("image", path), image)
        return image

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        path = self.path(ref)
        key = ("raw" if raw else "colour", path)
        with self._lock:
            kept = self._kept.get(key)
        pyramid = kept if isinstance(kept, Pyramid) else make_pyramid(read_picture(path, raw))
        self._keep(key, pyramid)
        return pyramid

    def _keep(self, key: tuple[str, Path], value: Mesh | Pyramid | npt.NDArray[np.float32]) -> None:
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > KEPT:
                self._kept.popitem(last=False)


def _three_channels(picture: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    """Red, green and blue; a picture with one channel (and perhaps alpha) is grey."""
    chosen = picture[:, :, :3] if picture.shape[2] >= 3 else np.repeat(picture[:, :, :1], 3, axis=2)
    return np.ascontiguousarray(chosen)
