"""Making a pack: the same documents and files always give the same bytes."""

import hashlib
import json
import re
import zipfile
from collections.abc import Callable, Sequence
from pathlib import Path, PurePosixPath
from typing import IO, Any

from texallon.core.document import read_shot, shot_json
from texallon.core.document.object import FileRef
from texallon.core.signal.schema import shot_schema
from texallon.formats.file_digest import digest_of
from texallon.formats.references import references, with_references
from texallon.packing.manifest import (
    MANIFEST,
    PATH,
    README,
    SCHEMAS,
    PackedFile,
    PackedShot,
    PackError,
    PackManifest,
    manifest_schema,
)

MOMENT = (1980, 1, 1, 0, 0, 0)
"""Beside every name: the earliest that a zip can say, so that what is the same is the same bytes."""

CHUNK = 1 << 20

READ_ME = """This is a pack of {project}: {shots} of a film's render materials, complete and in open forms.

manifest.json     what is in here, with a SHA-256 of each part
*.json            a document for each shot: objects, lights, looks and their recipes, as JSON in UTF-8
schema/           JSON Schemas (draft 2020-12) of the manifest and of the documents
everything else   meshes (GLB, PLY, OBJ) and pictures (PNG, JPEG, TIFF, EXR, HDR), at the paths that the documents name

Numbers: metres, degrees, seconds; y is up; colours are scene-linear with Rec. 709 primaries. Channels are those of OpenPBR Surface.
"""


def write_pack(
    out: IO[bytes], project: str, documents: Sequence[dict[str, Any]], find: Callable[[FileRef], Path]
) -> PackManifest:
    """Write a pack of some shots with every file that they name.

    Parameters
    ----------
    out : binary file
        Where to.
    project : str
        Its name.
    documents : sequence of dict
        The shots as plain JSON values, in order.
    find : callable
        Gives where a file lies; raises `FileNotFoundError`.

    Raises
    ------
    PackError
        Where a file is not there, or is not what its document says.
    """
    if not documents:
        raise PackError("there is no shot to pack")
    files: dict[str, tuple[PackedFile, Path]] = {}
    shots: list[tuple[PackedShot, bytes]] = []
    names: set[str] = {MANIFEST.lower(), README.lower(), "project.json"}
    for document in documents:
        changed = with_references(in_order(document), lambda ref: _placed(ref, files, find))
        text = (json.dumps(changed, indent=2, ensure_ascii=False) + "\n").encode()
        path = _file_name(document["name"], names)
        digest = hashlib.sha256(text).hexdigest()
        shots.append(
            (
                PackedShot(
                    path=path, name=document["name"], title=document.get("title", ""), sha256=digest, size=len(text)
                ),
                text,
            )
        )
    kept = [files[path] for path in sorted(files)]
    manifest = PackManifest(project=project, shots=[each for each, _ in shots], files=[each for each, _ in kept])
    count = f"{len(shots)} shot{'s' if len(shots) != 1 else ''}"
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as archive:
        _put(archive, README, READ_ME.format(project=project, shots=count).encode())
        _put(archive, MANIFEST, (manifest.model_dump_json(indent=2) + "\n").encode())
        _put(archive, SCHEMAS["manifest"], _plain(manifest_schema()))
        _put(archive, SCHEMAS["shot"], _plain(shot_schema()))
        for shot, text in shots:
            _put(archive, shot.path, text)
        for packed, source in kept:
            _copy(archive, packed, source)
    return manifest


BY_NAME = frozenset({"channels", "params", "stand_ins"})
"""Members that hold others by names, in whichever order; the order of all else is the document's form."""


def in_order(document: dict[str, Any]) -> dict[str, Any]:
    """A document with its members in the order of the form, and what is held by name in that of the alphabet."""
    ordered: dict[str, Any] = _ordered(shot_json(read_shot(document)), False)
    return ordered


def _ordered(value: Any, by_name: bool) -> Any:
    if isinstance(value, dict):
        return {key: _ordered(value[key], key in BY_NAME) for key in (sorted(value) if by_name else value)}
    return [_ordered(each, False) for each in value] if isinstance(value, list) else value


def _placed(ref: dict[str, Any], files: dict[str, tuple[PackedFile, Path]], find: Callable[[FileRef], Path]) -> Any:
    """A reference by the path that its file has in the pack; two different files of one path get two."""
    try:
        source = find(FileRef(file=ref["file"], sha256=ref.get("sha256")))
    except FileNotFoundError as error:
        raise PackError(str(error)) from error
    digest, size = digest_of(source), source.stat().st_size
    if ref.get("sha256") not in (None, digest):
        raise PackError(f"the file “{ref['file']}” is damaged: it does not have the digest that the document names")
    path = str(PurePosixPath(ref["file"]))
    if "/" not in path:
        path = f"files/{path}"
    if not re.fullmatch(PATH, path):
        path = f"files/{digest[:12]}{source.suffix.lower()}"
    known = files.get(path)
    if known is not None and known[0].sha256 != digest:
        pure = PurePosixPath(path)
        path = str(pure.with_name(f"{pure.stem}-{digest[:8]}{pure.suffix}"))
    files[path] = (PackedFile(path=path, sha256=digest, size=size), source)
    return {"file": path, "sha256": digest}


def _file_name(name: str, taken: set[str]) -> str:
    plain = re.sub(r"[^A-Za-z0-9_-]+", "-", name).strip("-")[:60] or "shot"
    path, number = f"{plain}.json", 2
    while path.lower() in taken:
        path, number = f"{plain}-{number}.json", number + 1
    taken.add(path.lower())
    return path


def _plain(value: Any) -> bytes:
    return (json.dumps(value, indent=1, ensure_ascii=False) + "\n").encode()


def _info(path: str) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(path, MOMENT)
    info.compress_type, info.create_system, info.external_attr = zipfile.ZIP_DEFLATED, 3, 0o644 << 16
    return info


def _put(archive: zipfile.ZipFile, path: str, data: bytes) -> None:
    archive.writestr(_info(path), data)


def _copy(archive: zipfile.ZipFile, packed: PackedFile, source: Path) -> None:
    info = _info(packed.path)
    info.file_size = packed.size
    with archive.open(info, "w") as into, source.open("rb") as file:
        while piece := file.read(CHUNK):
            into.write(piece)


def used_files(document: dict[str, Any]) -> list[FileRef]:
    """The files that a document names, each once."""
    found = {
        (ref["file"], ref.get("sha256")): FileRef(file=ref["file"], sha256=ref.get("sha256"))
        for ref in references(document)
    }
    return list(found.values())
