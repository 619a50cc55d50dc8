"""Large derived values in a folder, by content key: kept from one run to the next, thrown away when the code changes."""

import contextlib
import os
import shutil
import tempfile
import zipfile
from pathlib import Path

import numpy as np

from texallon.code_digest import code_digest
from texallon.core.derived.disk import Arrays

KEPT = "derived"
"""The folder beside that of the files."""

BUDGET = int(os.environ.get("TEXALLON_DISK_CACHE", 2_000_000_000))
"""Bytes that the folder may hold; what was not used for longest goes first."""

SPARE = 1_000_000_000
"""Bytes of the disk that are left free."""


class DiskCache:
    """A folder of arrays. Several processes may use it at once.

    What another state of the code has left there is removed; a file that is damaged counts as none.
    """

    def __init__(self, folder: Path, budget: int | None = None) -> None:
        self.folder = folder / code_digest()[:32]
        self.budget = BUDGET if budget is None else budget
        for other in folder.glob("*"):
            if other != self.folder:
                shutil.rmtree(other, ignore_errors=True)

    def _path(self, key: str) -> Path:
        return self.folder / f"{key}.npz"

    def load(self, key: str) -> Arrays | None:
        """What is kept by a key."""
        path = self._path(key)
        try:
            with np.load(path, allow_pickle=False) as file:
                found = {name: file[name] for name in file.files}
            os.utime(path)
        except FileNotFoundError:
            return None
        except (OSError, ValueError, EOFError, KeyError, zipfile.BadZipFile):
            with contextlib.suppress(OSError):
                path.unlink()
            return None
        return found

    def keep(self, key: str, arrays: Arrays) -> None:
        """Keep arrays; where there is no room nothing is kept."""
        size = sum(each.nbytes for each in arrays.values())
        if size > self.budget:
            return
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            self._make_room(size, self._path(key))
            if shutil.disk_usage(self.folder).free < size + SPARE:
                return
            handle, name = tempfile.mkstemp(dir=self.folder, prefix=".part-")
            try:
                with os.fdopen(handle, "wb") as file:
                    np.savez(file, allow_pickle=False, **dict(arrays))
                os.replace(name, self._path(key))
            finally:
                Path(name).unlink(missing_ok=True)
        except OSError:  # full, or not to be written: it is computed anew
            return

    def _make_room(self, size: int, but: Path) -> None:
        kept = []
        for path in self.folder.glob("*.npz"):
            with contextlib.suppress(OSError):
                stat = path.stat()
                kept.append((stat.st_mtime_ns, stat.st_size, path))
        total = size + sum(each for _, each, path in kept if path != but)
        for _, each, path in sorted(kept):
            if total <= self.budget:
                return
            if path != but:
                path.unlink(missing_ok=True)
                total -= each
