"""Reading a stranger's pack: every name, size, digest and document is checked before anything of it is kept."""

import hashlib
import stat
import struct
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from pydantic import ValidationError

from texallon.core.document import DocumentError, parse_json, read_shot, shot_json
from texallon.core.document.reading import LARGEST
from texallon.core.signal.check_recipes import check_shot
from texallon.formats import mesh_file, picture_file, voxel_file, voxel_grids
from texallon.formats.look_into import UnusableFileError, look_into_file
from texallon.formats.references import references
from texallon.packing.manifest import (
    LARGEST_CONTENT,
    LARGEST_PACK,
    MANIFEST,
    MOST_FILES,
    MOST_SHOTS,
    README,
    SCHEMAS,
    PackedFile,
    PackError,
    PackManifest,
)

CHUNK = 1 << 20
MOST_ENTRIES = MOST_SHOTS + MOST_FILES + 16
LARGEST_INDEX = 4_000_000
"""Bytes of the list of names at a zip's end: it is read whole."""
LARGEST_MANIFEST = 4_000_000
BESIDE = frozenset({MANIFEST, README, *SCHEMAS.values()})
MESH_SECONDS, PICTURE_SECONDS, VOXEL_SECONDS = 120.0, 90.0, 270.0

_END = struct.Struct("<4s4H2LH")
"""End of central directory record (.ZIP File Format Specification 6.3.10, 4.3.16)."""


@dataclass(frozen=True)
class Pack:
    """A pack that was checked: its manifest, and its documents in order."""

    manifest: PackManifest
    documents: tuple[dict[str, Any], ...]
    _archive: zipfile.ZipFile

    def bytes_at(self, path: str) -> bytes:
        """What lies at one of the manifest's paths."""
        return self._archive.read(path)


@contextmanager
def opened_pack(source: IO[bytes], look: Callable[[PackedFile, bytes], None] | None = None) -> Iterator[Pack]:
    """A pack, checked whole; raises `PackError` naming the part that can't be used.

    Parameters
    ----------
    source : binary file
        Can be sought in.
    look : callable, optional
        Is given each mesh and picture; raises `PackError` for one that can't be used. `look_into` unless given.
    """
    look = look_into if look is None else look
    _check_end(source)
    try:
        archive = zipfile.ZipFile(source)
    except (zipfile.BadZipFile, NotImplementedError, ValueError, OSError, struct.error) as error:
        raise PackError(f"this is no zip that can be read: {error}") from error
    with archive:
        entries = _entries(archive)
        manifest = _manifest(archive, entries)
        _compare(manifest, entries)
        for file in manifest.files:
            _largest(file.path)
        documents = []
        for shot in manifest.shots:
            text = _part(archive, shot.path, shot.size, shot.sha256, LARGEST)
            documents.append(_document(shot.path, text))
        known = {file.path: file for file in manifest.files}
        for path, document in zip((shot.path for shot in manifest.shots), documents, strict=True):
            for ref in references(document):
                found = known.get(ref["file"])
                if found is not None and ref["sha256"] not in (None, found.sha256):
                    raise PackError(f"{path} names “{found.path}” with another digest than {MANIFEST}")
                if found is None:
                    raise PackError(f"{path} names the file “{ref['file'][:120]}”, which is not in the pack")
                ref["sha256"] = found.sha256
        for file in manifest.files:
            look(file, _part(archive, file.path, file.size, file.sha256, _largest(file.path)))
        yield Pack(manifest, tuple(documents), archive)


def look_into(file: PackedFile, data: bytes) -> None:
    """Look into a mesh, picture or file of voxel grids in a process of its own; raises `PackError`."""
    kind = kind_of(file.path)
    what, seconds = "picture", PICTURE_SECONDS
    if kind in mesh_file.KINDS:
        what, seconds = "mesh", MESH_SECONDS
    elif kind in voxel_file.KINDS:
        what, seconds = "voxels", VOXEL_SECONDS
    try:
        look_into_file(f"texallon.formats.import_{what}", data, kind, seconds)
    except UnusableFileError as error:
        raise PackError(f"{file.path}: {error}") from error


def kind_of(path: str) -> str:
    """The ending of a file's name, without its dot."""
    return Path(path).suffix.lower().removeprefix(".")


def _largest(path: str) -> int:
    kind = kind_of(path)
    if kind in mesh_file.KINDS:
        return mesh_file.LARGEST_FILE
    if kind in picture_file.KINDS:
        return picture_file.LARGEST_FILE
    if kind in voxel_file.KINDS:
        return voxel_grids.LARGEST_FILE
    raise PackError(
        f"{path}: a pack holds meshes (OBJ, PLY, STL, GLB), particles (PLY, CSV), pictures (PNG, JPEG, TIFF, EXR, HDR) and voxel grids (VDB, NPY, NPZ) only"
    )


def _check_end(source: IO[bytes]) -> None:
    """Refuse a zip whose list of names is too long to be read, before it is."""
    size = source.seek(0, 2)
    if size > LARGEST_PACK:
        raise PackError(f"the pack has {size / 1e6:,.0f} MB; at most {LARGEST_PACK / 1e6:,.0f} MB are read")
    source.seek(max(size - _END.size - 65_535, 0))
    tail = source.read()
    at = tail.rfind(b"PK\x05\x06")
    if at < 0 or len(tail) - at < _END.size:
        raise PackError("this is no zip, or it is cut short")
    _, _, _, _, count, index, _, _ = _END.unpack_from(tail, at)
    if count == 0xFFFF or count > MOST_ENTRIES or index > LARGEST_INDEX:
        raise PackError(f"the zip says it has {count:,} parts; a pack has at most {MOST_ENTRIES:,}")
    source.seek(0)


def _entries(archive: zipfile.ZipFile) -> dict[str, zipfile.ZipInfo]:
    found: dict[str, zipfile.ZipInfo] = {}
    total = 0
    for info in archive.infolist():
        shown = info.filename[:120].encode("unicode_escape").decode()
        kind = stat.S_IFMT(info.external_attr >> 16)
        if info.is_dir():
            continue
        if kind not in (0, stat.S_IFREG):
            raise PackError(f"“{shown}” is a link or another special file")
        if info.flag_bits & 0x1:
            raise PackError(f"“{shown}” is encrypted")
        if info.filename.lower() in found:
            raise PackError(f"“{shown}” stands in the zip twice")
        found[info.filename.lower()] = info
        total += info.file_size
    if total > LARGEST_CONTENT:
        raise PackError(
            f"unpacked it would have {total / 1e9:,.1f} GB; at most {LARGEST_CONTENT / 1e9:.0f} GB are read"
        )
    return {info.filename: info for info in found.values()}


def _manifest(archive: zipfile.ZipFile, entries: dict[str, zipfile.ZipInfo]) -> PackManifest:
    if MANIFEST not in entries:
        raise PackError(f"this is no pack: it has no {MANIFEST}")
    text = _part(archive, MANIFEST, entries[MANIFEST].file_size, None, LARGEST_MANIFEST)
    try:
        return PackManifest.model_validate(parse_json(text.decode("utf-8")))
    except ValidationError as error:
        first = error.errors()[0]
        place = "/".join(str(part) for part in first["loc"])
        raise PackError(f"{MANIFEST}: /{place}: {first['msg']}") from error
    except (DocumentError, UnicodeDecodeError) as error:
        raise PackError(f"{MANIFEST}: {error}") from error


def _compare(manifest: PackManifest, entries: dict[str, zipfile.ZipInfo]) -> None:
    """The manifest names all that is there, and nothing else."""
    named: dict[str, int] = {}
    for part in (*manifest.shots, *manifest.files):
        if part.path in named or part.path in BESIDE:
            raise PackError(f"{MANIFEST} names “{part.path}” twice")
        named[part.path] = part.size
    for path, size in named.items():
        if path not in entries:
            raise PackError(f"“{path}” is not in the pack, though {MANIFEST} names it")
        if entries[path].file_size != size:
            raise PackError(f"“{path}” has {entries[path].file_size:,} bytes; {MANIFEST} says {size:,}")
    for path in entries.keys() - named.keys() - BESIDE:
        shown = path[:120].encode("unicode_escape").decode()
        raise PackError(f"“{shown}” is in the pack, and {MANIFEST} does not name it")


def _part(archive: zipfile.ZipFile, path: str, size: int, digest: str | None, most: int) -> bytes:
    """A part's bytes, no more than it says it has; raises `PackError` for another digest."""
    if size > most:
        raise PackError(f"“{path}” has {size / 1e6:,.0f} MB; at most {most / 1e6:,.0f} MB are read")
    data = bytearray()
    try:
        with archive.open(path) as file:
            while piece := file.read(min(CHUNK, size - len(data) + 1)):
                data += piece
                if len(data) > size:
                    raise PackError(f"“{path}” holds more than it says")
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError, ValueError) as error:
        if isinstance(error, PackError):
            raise
        raise PackError(f"“{path}” is damaged: {error}") from error
    except Exception as error:  # zlib, lzma and bz2 have errors of their own
        raise PackError(f"“{path}” is damaged: {error}") from error
    if digest is not None and hashlib.sha256(data).hexdigest() != digest:
        raise PackError(f"“{path}” does not have the digest that {MANIFEST} names")
    return bytes(data)


def _document(path: str, text: bytes) -> dict[str, Any]:
    try:
        shot = read_shot(parse_json(text.decode("utf-8")))
        problems = check_shot(shot)
    except UnicodeDecodeError as error:
        raise PackError(f"{path} is not text in UTF-8") from error
    except DocumentError as error:
        problems = list(error.problems)
    if problems:
        raise PackError(f"{path}: {problems[0]}")
    return shot_json(shot)
