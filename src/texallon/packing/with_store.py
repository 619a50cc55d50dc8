"""Packing from the database, and unpacking into it."""

from pathlib import Path
from typing import IO

from texallon.formats.shot_files import ShotFiles
from texallon.packing.manifest import PackedFile, PackError, PackManifest
from texallon.packing.pack import write_pack
from texallon.packing.unpack import kind_of, look_into, opened_pack
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore


def pack_shots(store: ShotStore, files: FileStore, project: str, shots: list[int], out: IO[bytes]) -> PackManifest:
    """Write a pack of some shots of a project as they are now; raises `PackError` or `NotFoundError`."""
    documents = [store.current(number).document for number in shots]
    return write_pack(out, project, documents, ShotFiles(store=files.folder).path)


def unpack_shots(
    store: ShotStore, files: FileStore, source: IO[bytes], author: str = "", into: int | None = None
) -> tuple[int, list[int]]:
    """Bring a pack in, as a project of its own or into another; gives the project's and the shots' numbers.

    Parameters
    ----------
    store : ShotStore
        The shots.
    files : FileStore
        Where the files are put.
    source : binary file
        The pack.
    author : str, optional
        Who brings it in.
    into : int, optional
        A project that the shots are added to.

    Raises
    ------
    PackError, QuotaError, DiskFullError, NotFoundError
        Nothing was changed then.
    """
    name = None if into is None else store.project_name(into)

    def look(file: PackedFile, data: bytes) -> None:
        if not files.path(file.sha256, f".{kind_of(file.path)}").is_file():  # what is there was looked into before
            look_into(file, data)

    with opened_pack(source, look) as pack:
        for file in pack.manifest.files:
            kind = kind_of(file.path)
            with store.keeping_file(file.size, author):
                files.put(pack.bytes_at(file.path), f".{kind}")
                store.remember_file(file.sha256, Path(file.path).name, kind, file.size, author)
        project = store.make_project(pack.manifest.project) if into is None else into
        name = store.project_name(project)
        made: list[int] = []
        try:
            for document in pack.documents:
                made.append(store.add_shot(name, document, "unpacked", author))
        except BaseException:
            _take_back(store, project, name, made, into is None)
            raise
    if not made:
        raise PackError("the pack has no shots")
    return project, made


def _take_back(store: ShotStore, project: int, name: str, made: list[int], whole: bool) -> None:
    if whole:
        store.delete_project(project, name)
        return
    for number in made:
        store.bin_shot(number, True)
        store.delete_shot(number, store.current(number).document["name"])
