"""The folder that holds everything: made, found fit, and held by one server at a time."""

import fcntl
import json
import os
import time
from dataclasses import dataclass
from pathlib import Path

RESERVE = 500_000_000
"""Bytes of free disk below which it is said early that the disk is nearly full."""


RESTORED = "restored"
"""File that is written anew whenever a backup was brought back into the folder."""


def restored_at(path: Path) -> int:
    """When a backup was last brought back (nanoseconds of the file's time); 0 for never."""
    try:
        return (path / RESTORED).stat().st_mtime_ns
    except OSError:
        return 0


class DataFolderError(RuntimeError):
    """The folder can't be used; the message says what to do."""


@dataclass
class DataFolder:
    """A data folder that this process holds: by a lock of the system's, which goes with the process however that ends."""

    path: Path
    _handle: int

    def release(self) -> None:
        """Let another process have the folder."""
        os.close(self._handle)


def prepare_folder(path: Path) -> None:
    """Make the folder if need be, and try that it can be written; raises `DataFolderError`."""
    if path.exists() and not path.is_dir():
        raise DataFolderError(f"{path} is a file; --data takes a folder")
    try:
        path.mkdir(parents=True, exist_ok=True)
        probe = path / f".probe-{os.getpid()}"
        probe.write_bytes(b"x" * 4096)
        probe.unlink()
    except OSError as error:
        raise DataFolderError(
            f"the data folder {path} can't be written: {error.strerror}; give another with --data"
        ) from error


def hold(path: Path, port: int) -> DataFolder:
    """Make a folder this process's own; raises `DataFolderError`, naming who holds it, where another has it."""
    prepare_folder(path)
    handle = os.open(path / "lock", os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o644)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        holder = _holder(path)
        os.close(handle)
        raise DataFolderError(
            f"{path} is in use by {holder}; stop that one, or give another folder with --data"
        ) from None
    os.ftruncate(handle, 0)
    since = time.strftime("%Y-%m-%d %H:%M:%S")
    os.pwrite(handle, json.dumps({"process": os.getpid(), "port": port, "since": since}).encode(), 0)
    return DataFolder(path, handle)


def _holder(path: Path) -> str:
    try:
        note = json.loads((path / "lock").read_text())
        return f"the Texallon of process {note['process']} at http://127.0.0.1:{note['port']}, since {note['since']}"
    except (OSError, ValueError, KeyError):
        return "another Texallon"
