"""What `texallon pack` and `texallon unpack` do."""

import os
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import IO

from texallon.core.document import Shot, shot_json
from texallon.core.document.object import FileRef
from texallon.formats.shot_files import ShotFiles
from texallon.packing.folder import write_folder
from texallon.packing.manifest import PackError, PackManifest
from texallon.packing.pack import write_pack
from texallon.packing.unpack import opened_pack
from texallon.packing.with_store import pack_shots, unpack_shots
from texallon.safekeeping.backup import running_database
from texallon.store.database import connect, migrate
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore


def pack_documents(shots: Sequence[tuple[Shot, Path]], project: str, out: Path) -> PackManifest:
    """Write a pack of documents that lie beside their files; raises `PackError` or `OSError`."""

    def write(file: IO[bytes]) -> PackManifest:
        def find(ref: FileRef) -> Path:
            for _, path in shots:
                try:
                    return ShotFiles(root=path.resolve().parent).path(ref)
                except FileNotFoundError:
                    continue
            raise FileNotFoundError(f"the file “{ref.file}” that a shot refers to is not there")

        return write_pack(file, project or shots[0][1].resolve().parent.name, [shot_json(s) for s, _ in shots], find)

    return _whole(out, write)


def pack_project(data: Path, database: str, project: str, chosen: Sequence[str], out: Path) -> PackManifest:
    """Write a pack of a data folder's project, or of some of its shots; raises `PackError`."""
    _check_data(data, database)
    with running_database(data, database) as url:
        engine = connect(url)
        try:
            store = ShotStore(engine)
            listed = [each for each in store.list_shots() if each.project == project]
            if not listed:
                raise PackError(f"there is no project “{project}” with shots")
            missing = set(chosen) - {each.name for each in listed}
            if missing:
                raise PackError(f"the project has no shot “{sorted(missing)[0]}”")
            numbers = [each.id for each in listed if not chosen or each.name in chosen]
            return _whole(out, lambda file: pack_shots(store, FileStore(data / "files"), project, numbers, file))
        finally:
            engine.dispose()


def unpack_into_folder(pack: Path, out: Path) -> list[Path]:
    """Lay a pack out as plain files; gives the documents. Raises `PackError`."""
    with pack.open("rb") as file, opened_pack(file) as opened:
        return write_folder(opened, out)


def unpack_into_data(pack: Path, data: Path, database: str) -> tuple[str, int]:
    """Bring a pack into a data folder as a new project; gives its name and how many shots it has. Raises `PackError`."""
    _check_data(data, database)
    with running_database(data, database) as url, pack.open("rb") as file:
        engine = connect(url)
        try:
            migrate(engine)
            store = ShotStore(engine)
            project, made = unpack_shots(store, FileStore(data / "files"), file)
            return store.project_name(project), len(made)
        finally:
            engine.dispose()


def _check_data(data: Path, database: str) -> None:
    if not database and not (data / "postgres").is_dir():
        raise PackError(f"{data} is no data folder: nothing was served from it yet")


def _whole(out: Path, write: Callable[[IO[bytes]], PackManifest]) -> PackManifest:
    """Write a file that appears whole or not at all."""
    part = out.with_name(f".part-{out.name}")
    try:
        with part.open("wb") as file:
            made = write(file)
            file.flush()
            os.fsync(file.fileno())
        part.replace(out)
    finally:
        part.unlink(missing_ok=True)
    return made
