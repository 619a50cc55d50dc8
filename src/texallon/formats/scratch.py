"""Room on disk for what is too large for memory: a file without a name, which goes with the process however that ends."""

import mmap
import os
import tempfile
from pathlib import Path

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.pyramid import InMemory, Room

HELD = 64_000_000
"""Bytes up to which pixels are held in memory."""


class Mapped(Room):
    """Room in a file of which memory holds only what is looked at; raises `OSError` where the disk has no room.

    Reserved before it is mapped: a page that the disk has no room for would end the process.
    """

    def __init__(self, count: int, channels: int, folder: Path | None) -> None:
        size = 4 * count * channels
        with tempfile.TemporaryFile(dir=folder) as file:
            os.posix_fallocate(file.fileno(), 0, size)
            self._map = mmap.mmap(file.fileno(), size)
        self._map.madvise(mmap.MADV_RANDOM)
        self.pixels: Array = np.frombuffer(self._map, np.float32).reshape(count, channels)

    def rest(self) -> None:
        """Let the system take the memory back; what was written stays."""
        self._map.madvise(mmap.MADV_DONTNEED)


def room_for(count: int, channels: int, folder: Path | None = None) -> Room:
    """Memory for few pixels, a file in `folder` (the system's for temporary files unless given) for many; memory again where the disk is full."""
    if 4 * count * channels > HELD:
        try:
            return Mapped(count, channels, folder)
        except OSError:
            pass
    return InMemory(count, channels)
