"""Writing OpenVDB files of dense arrays: what is background is left out, the rest is packed by zlib.

The library's own writer is only in Debian's package for the system's Python, which not every machine has; so this is a small one of our own, for
format version 224 as the library's sources describe it (openvdb/io/Archive.cc, openvdb/tree, version 10), held against the library in tests.
"""

import os
import struct
import tempfile
import uuid
import zlib
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import IO, NamedTuple

import numpy as np
import numpy.typing as npt

MAGIC = 0x56444220
FORMAT, LIBRARY = 224, (10, 0)
ZIP, ACTIVE_MASK = 1, 2
"""How values are packed: by zlib, and only those of active voxels (the others have the background's)."""

ONLY_ACTIVE = b"\x00"
"""Of a node: all of its values that are not active have the background's."""

LEAF, LOWER, UPPER = 8, 128, 4096
"""Voxels along the side of a leaf and of the two kinds of nodes above it."""

Floats = npt.NDArray[np.float32]
Indices = npt.NDArray[np.int64]


class WrittenGrid(NamedTuple):
    """`values (nx, ny, nz)` or `(nx, ny, nz, 3)`; `to_place (3, 4)` from indices to metres; what equals 0 everywhere is background."""

    name: str
    values: Floats
    to_place: npt.NDArray[np.float64]


def write_vdb(path: Path, grids: Sequence[WrittenGrid]) -> None:
    """Write grids; the file appears whole or not at all."""
    handle, name = tempfile.mkstemp(suffix=".vdb", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as out:
            out.write(struct.pack("<qIII?", MAGIC, FORMAT, *LIBRARY, True))
            out.write(str(uuid.uuid5(uuid.NAMESPACE_OID, path.name)).encode())
            _write_facts(out, {"creator": "Texallon"})
            out.write(struct.pack("<i", len(grids)))
            for each in grids:
                _write_grid(out, each)
        os.chmod(name, 0o644)
        Path(name).replace(path)
    finally:
        Path(name).unlink(missing_ok=True)


def _text(value: str) -> bytes:
    data = value.encode()
    return struct.pack("<I", len(data)) + data


def _write_facts(out: IO[bytes], facts: dict[str, str]) -> None:
    out.write(struct.pack("<I", len(facts)))
    for name, value in facts.items():
        out.write(_text(name) + _text("string") + _text(value))


def _write_grid(out: IO[bytes], grid: WrittenGrid) -> None:
    wide = grid.values.ndim == 4
    out.write(_text(grid.name) + _text(f"Tree_{'vec3s' if wide else 'float'}_5_4_3") + _text(""))
    places = out.tell()
    out.write(bytes(24))
    start = out.tell()
    out.write(struct.pack("<I", ZIP | ACTIVE_MASK))
    _write_facts(out, {"name": grid.name, "class": "unknown" if wide else "fog volume"})
    out.write(_text("AffineMap"))
    full = np.eye(4)
    full[:3] = grid.to_place
    out.write(full.T.astype("<f8").tobytes())  # rows are multiplied from the left: the shift is in the last row
    leaves = _Leaves(grid.values)
    _write_tree(out, leaves, 3 if wide else 1)
    buffers = out.tell()
    for mask, values in leaves.in_order():
        out.write(mask + ONLY_ACTIVE + _packed(values))
    end = out.tell()
    out.seek(places)
    out.write(struct.pack("<qqq", start, buffers, end))
    out.seek(end)


def _packed(values: Floats) -> bytes:
    """Values by zlib, with the number of bytes before them; as they are, and the number less than 0, where that is shorter."""
    raw = values.astype("<f4").tobytes()
    packed = zlib.compress(raw, 6) if raw else b""
    if raw and len(packed) < len(raw):
        return struct.pack("<q", len(packed)) + packed
    return struct.pack("<q", -len(raw)) + raw


def _differs(values: Floats) -> npt.NDArray[np.bool_]:
    """Which values are not the background's, to the bit: a negative zero is not."""
    return values.view(np.uint32) != 0


class _Leaves:
    """The leaves of an array that hold anything: their corners, in the order in which the tree has them."""

    def __init__(self, values: Floats) -> None:
        wide = values if values.ndim == 4 else values[..., None]
        padded = np.zeros((*[-(-n // LEAF) * LEAF for n in wide.shape[:3]], wide.shape[3]), np.float32)
        padded[: wide.shape[0], : wide.shape[1], : wide.shape[2]] = wide
        nx, ny, nz = (n // LEAF for n in padded.shape[:3])
        self._blocks = padded.reshape(nx, LEAF, ny, LEAF, nz, LEAF, -1).transpose(0, 2, 4, 1, 3, 5, 6)
        there = _differs(self._blocks).any(axis=(3, 4, 5, 6))
        corners = np.argwhere(there).astype(np.int64) * LEAF
        upper, lower = corners // UPPER, corners % UPPER // LOWER
        within = corners % LOWER // LEAF
        # The root has its children by x, y and z; nodes have theirs by number, z fastest: with non-negative corners these orders agree.
        order = np.lexsort([*within.T[::-1], *lower.T[::-1], *upper.T[::-1]])
        self.corners = corners[order]

    def in_order(self) -> Iterator[tuple[bytes, Floats]]:
        """Of each leaf which voxels are active, as bits, and their values."""
        for x, y, z in self.corners // LEAF:
            block = self._blocks[x, y, z].reshape(LEAF**3, -1)
            active = _differs(block).any(axis=1)
            yield np.packbits(active, bitorder="little").tobytes(), block[active]


def _write_tree(out: IO[bytes], leaves: _Leaves, width: int) -> None:
    background = np.zeros(width, "<f4").tobytes()
    corners = leaves.corners
    upper = _groups(corners, UPPER)
    out.write(struct.pack("<i", 1) + background + struct.pack("<II", 0, len(upper)))
    masks = (mask for mask, _ in leaves.in_order())
    for within_upper in upper:
        out.write(struct.pack("<iii", *(int(each) * UPPER for each in within_upper[0] // UPPER)))
        lower = _groups(within_upper, LOWER)
        _write_node(out, np.array([each[0] % UPPER // LOWER for each in lower]), 5)
        for within_lower in lower:
            _write_node(out, within_lower % LOWER // LEAF, 4)
            for _ in within_lower:
                out.write(next(masks))


def _groups(corners: Indices, side: int) -> list[Indices]:
    """Corners, in order, parted by the node of a side that they lie in."""
    if not len(corners):
        return []
    other = (np.diff(corners // side, axis=0) != 0).any(axis=1)
    return np.split(corners, np.flatnonzero(other) + 1)


def _write_node(out: IO[bytes], children: Indices, bits: int) -> None:
    """Which children a node has; it has no values of its own."""
    count = 1 << 3 * bits
    mask = np.zeros(count, np.bool_)
    mask[(children[:, 0] << 2 * bits) | (children[:, 1] << bits) | children[:, 2]] = True
    out.write(
        np.packbits(mask, bitorder="little").tobytes()
        + bytes(count // 8)
        + ONLY_ACTIVE
        + _packed(np.zeros(0, np.float32))
    )
