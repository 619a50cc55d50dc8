"""A folder of immutable files under their SHA-256."""

import errno
import hashlib
import os
import shutil
import tempfile
from pathlib import Path

PART = ".part-"
"""How the names of files begin that are not whole yet."""

SPARE = 20_000_000
"""Bytes that are left free: a database that finds the disk full stops."""


class DiskFullError(OSError):
    """There is no room for a file."""

    def __init__(self, needed: int, free: int) -> None:
        super().__init__(
            errno.ENOSPC, f"the disk is full: {needed / 1e6:.1f} MB are needed, {free / 1e6:.1f} MB are free"
        )


class FileStore:
    """Content-addressed files: the same bytes are kept once, and appear whole or not at all."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def path(self, sha256: str, suffix: str) -> Path:
        return self.folder / f"{sha256}{suffix}"

    def put(self, data: bytes, suffix: str) -> str:
        """Keep some bytes; gives their SHA-256. They are on the disk for good when this returns; raises `DiskFullError`."""
        digest = hashlib.sha256(data).hexdigest()
        return digest if self.path(digest, suffix).is_file() else self.replace(data, suffix)

    def replace(self, data: bytes, suffix: str) -> str:
        """As `put`, also where a file of that name is there: it may be damaged."""
        digest = hashlib.sha256(data).hexdigest()
        target = self.path(digest, suffix)
        self._need(len(data))
        handle, name = tempfile.mkstemp(dir=self.folder, prefix=PART)
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            os.chmod(name, 0o644)
            os.replace(name, target)
        except OSError as error:
            Path(name).unlink(missing_ok=True)
            if error.errno in (errno.ENOSPC, errno.EDQUOT):
                raise DiskFullError(len(data), 0) from error
            raise
        self._settle()
        return digest

    def free(self) -> int:
        """Bytes that are free on the disk."""
        return shutil.disk_usage(self.folder).free

    def sweep(self) -> list[str]:
        """Remove what was left half written; only for whoever holds the folder, as another's may be under way. Gives their names."""
        names = [path.name for path in self.folder.glob(f"{PART}*")]
        for name in names:
            (self.folder / name).unlink(missing_ok=True)
        return names

    def _need(self, size: int) -> None:
        free = self.free()
        if free < size + SPARE:
            raise DiskFullError(size, free)

    def _settle(self) -> None:
        """Have the folder's own list of names written too (fsync(2): a file's does not include it)."""
        handle = os.open(self.folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
