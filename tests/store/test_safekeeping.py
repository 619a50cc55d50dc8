"""Backups made while others write, brought back whole or not at all, and damage that is found."""

import os
import shutil
import tempfile
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import pytest
from sqlalchemy import Engine

from tests.cli.test_start import DOCUMENT
from texallon.safekeeping.backup import back_up, newest_known, restore, running_database
from texallon.safekeeping.check import check
from texallon.safekeeping.manifest import DUMP, FILES, MANIFEST, BackupError, newest_backup, verify
from texallon.store.data_folder import restored_at
from texallon.store.database import connect, migrate
from texallon.store.files import FileStore
from texallon.store.postgres import PrivatePostgres
from texallon.store.shots import ShotStore

pytestmark = pytest.mark.slow


@dataclass
class Place:
    """A served data folder with one shot and one file."""

    data: Path
    backups: Path
    private: PrivatePostgres
    engine: Engine
    shot: int
    digest: str

    @property
    def store(self) -> ShotStore:
        return ShotStore(self.engine)

    def title(self, text: str) -> int:
        current = self.store.current(self.shot)
        patch = [{"op": "replace", "path": "/title", "value": text}]
        return self.store.edit(self.shot, current.revision, patch, text).revision


@pytest.fixture
def place() -> Iterator[Place]:
    root = Path(tempfile.mkdtemp(prefix="texallon-safe-"))
    os.chmod(root, 0o755)
    data = root / "data"
    data.mkdir()
    private = PrivatePostgres(data / "postgres")
    engine = connect(private.start())
    migrate(engine)
    store, files = ShotStore(engine), FileStore(data / "files")
    digest = files.put(b"a mesh, say", ".ply")
    store.remember_file(digest, "mesh.ply", "ply", 11)
    item = {"name": "it", "look": "plain", "geometry": {"file": "uploads/mesh.ply", "sha256": digest}}
    shot = store.add_shot("film", {**DOCUMENT, "objects": [item]}, "made")
    yield Place(data, root / "backups", private, engine, shot, digest)
    engine.dispose()
    for each in root.glob("*/postgres"):
        PrivatePostgres(each).stop()
    shutil.rmtree(root, ignore_errors=True)


def titles(data: Path) -> list[str]:
    with running_database(data, "") as url:
        engine = connect(url)
        store = ShotStore(engine)
        found = [store.current(each.id).document["title"] for each in store.list_shots()]
        engine.dispose()
    return found


def test_a_backup_made_while_others_write_is_whole(place: Place) -> None:
    stop, confirmed = threading.Event(), [0]

    def write() -> None:
        while not stop.is_set():
            digest = FileStore(place.data / "files").put(str(confirmed[0]).encode(), ".bin")
            place.store.remember_file(digest, "f.bin", "bin", 1)
            confirmed[0] = place.title(f"at {confirmed[0]}")

    writer = threading.Thread(target=write)
    writer.start()
    while confirmed[0] < 5:
        pass
    before = confirmed[0]
    made = back_up(place.data, "", place.backups)
    stop.set()
    writer.join()
    assert confirmed[0] > before, "nobody had to wait"
    elsewhere = place.data.parent / "elsewhere"
    assert restore(made, elsewhere, "") is None
    with running_database(elsewhere, "") as url:
        assert check(url, elsewhere) == []
        engine = connect(url)
        assert ShotStore(engine).current(place.shot).revision >= before, "no confirmed change is missing"
        engine.dispose()


def test_a_second_backup_shares_what_has_not_changed(place: Place) -> None:
    first, second = back_up(place.data, "", place.backups), back_up(place.data, "", place.backups / ".." / "backups")
    name = f"{place.digest}.ply"
    assert (first / FILES / name).stat().st_ino == (second / FILES / name).stat().st_ino
    assert verify(second).files == {name: 11}
    assert newest_known(place.data) == newest_backup(place.backups.resolve())


def test_bringing_back_over_what_is_there_keeps_that_first(place: Place) -> None:
    place.title("then")
    made = back_up(place.data, "", place.backups)
    place.title("now")
    place.engine.dispose()
    assert restored_at(place.data) == 0
    kept = restore(made, place.data, "")
    assert titles(place.data) == ["then"]
    assert kept is not None
    first = restored_at(place.data)
    assert first > 0, "a server that runs sees it"
    restore(kept, place.data, "")
    assert titles(place.data) == ["now"]
    assert restored_at(place.data) > first


@pytest.mark.parametrize("part", [DUMP, FILES, MANIFEST])
def test_a_damaged_backup_is_refused_and_nothing_is_changed(place: Place, part: str) -> None:
    made = back_up(place.data, "", place.backups)
    place.title("now")
    path = made / part
    path = next(path.iterdir()) if path.is_dir() else path
    data = bytearray(path.read_bytes())
    data[len(data) // 2] ^= 1
    path.write_bytes(data)
    with pytest.raises(BackupError, match=r"is not as it was written|can't be read"):
        restore(made, place.data, "")
    assert titles(place.data) == ["now"]


def test_a_backup_that_was_not_finished_is_none(place: Place) -> None:
    made = back_up(place.data, "", place.backups)
    (made / MANIFEST).unlink()
    assert newest_backup(place.backups) is None
    with pytest.raises(BackupError, match="is no backup, or was not finished"):
        restore(made, place.data, "")


def test_missing_and_damaged_files_are_found_and_brought_back(place: Place) -> None:
    made = back_up(place.data, "", place.backups)
    path = place.data / "files" / f"{place.digest}.ply"
    url = place.private.url()
    assert check(url, place.data) == []
    path.write_bytes(b"another mesh")
    assert check(url, place.data) == [
        f"shot S: the file {place.digest}.ply is damaged: its contents do not have the digest of its name"
    ]
    with pytest.raises(BackupError, match=r"damaged.*Nothing was changed.*--over-what-is-there"):
        restore(made, place.data, "")
    restore(made, place.data, "", keep=False)
    assert path.read_bytes() == b"a mesh, say"
    path.unlink()
    assert check(url, place.data) == [f"shot S: the file {place.digest} is missing"]
