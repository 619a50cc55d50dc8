"""Points to evaluate signals at, as NumPy archives."""

import zipfile
from pathlib import Path

import numpy as np
import numpy.typing as npt

MOST_POINTS = 50_000_000
MOST_ARRAYS = 64


def read_points(path: Path) -> dict[str, npt.NDArray[np.generic]]:
    """The arrays of an .npz file, by name; raises `ValueError` where it is none or too large. Objects are never unpickled."""
    if not path.is_file():
        raise FileNotFoundError(2, "there is no such file", str(path))
    try:
        with np.load(path, allow_pickle=False) as archive:
            if not hasattr(archive, "files"):
                raise ValueError(f"{path} is not an .npz archive")
            if len(archive.files) > MOST_ARRAYS:
                raise ValueError(f"{path} holds {len(archive.files)} arrays; at most {MOST_ARRAYS} are read")
            sizes = [info.file_size for info in zipfile.ZipFile(path).infolist()]
            if sum(sizes) > MOST_POINTS * 12:
                raise ValueError(f"{path} unpacks to {sum(sizes) / 1e6:.0f} MB; at most {MOST_POINTS * 12 / 1e6:.0f}")
            return {name: archive[name] for name in archive.files}
    except (OSError, EOFError, zipfile.BadZipFile) as error:
        raise ValueError(f"{path} is not an .npz archive: {error}") from error
