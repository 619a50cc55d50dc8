"""Backups: made and brought back while the server runs.

The database is dumped by PostgreSQL's own program, which sees it as it was at one moment. Files are copied afterwards: they never change and
are there before a row names them, so whatever the dump names is among them.
"""

import json
import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy.engine import make_url

from texallon.formats.file_digest import digest_of
from texallon.safekeeping.manifest import (
    DUMP,
    FILES,
    PREFIX,
    BackupError,
    Manifest,
    newest_backup,
    verify,
    write_manifest,
)
from texallon.store.data_folder import RESTORED, DataFolderError, hold
from texallon.store.database import connect, migrate
from texallon.store.files import PART, FileStore
from texallon.store.postgres import DatabaseError, PrivatePostgres, find_programs

PLACES = "backups.json"
"""Where a data folder remembers into which folders it was backed up, newest last."""


@contextmanager
def running_database(data: Path, database: str) -> Iterator[str]:
    """The URL of a data folder's database; one that does not run is started for as long as it is wanted."""
    if database:
        yield database
        return
    private = PrivatePostgres(data / "postgres")
    if private.running():
        yield private.url()
        return
    try:
        held = hold(data, 0)
    except DataFolderError as error:
        raise BackupError(str(error)) from error
    try:
        yield private.start()
        private.stop()
    finally:
        held.release()


def back_up(data: Path, database: str, into: Path) -> Path:
    """Back a data folder up into a folder of its own within `into`; gives that. Raises `BackupError`, `DatabaseError` or `OSError`."""
    into.mkdir(parents=True, exist_ok=True)
    before = newest_backup(into)
    made = datetime.now(UTC).isoformat(timespec="seconds")
    target = into / f"{PREFIX}{datetime.now(UTC):%Y%m%d-%H%M%S-%f}"
    part = into / f".part-{target.name}"
    part.mkdir()
    try:
        with running_database(data, database) as url:
            _dump(url, part / DUMP)
        files = _copy_files(data / "files", part / FILES, before)
        manifest = Manifest(made, find_programs().parent.name, digest_of(part / DUMP), files)
        write_manifest(part, manifest)
        _settle(part)
        part.rename(target)
    except BaseException:
        shutil.rmtree(part, ignore_errors=True)
        raise
    _remember(data, into)
    return target


def restore(backup: Path, data: Path, database: str, keep: bool = True) -> Path | None:
    """Bring a backup back into a data folder, new or in use; gives the backup of what was there before, where anything was and it is to be kept.

    All in one transaction: either the whole backup is there, or all is as it was. Raises `BackupError`.
    """
    verify(backup)
    kept = None
    if keep and (database or (data / "postgres" / "port").exists()):
        try:
            kept = back_up(data, database, data / "before-restoring")
        except (BackupError, DatabaseError) as error:
            raise BackupError(
                f"what is there now can't be backed up first ({error}). Nothing was changed. Give another folder with --data, or bring "
                f"the backup back over it with --over-what-is-there"
            ) from error
    files = FileStore(data / "files")
    for path in sorted((backup / FILES).iterdir()):
        target = files.folder / path.name
        if not target.is_file() or digest_of(target) != path.name.split(".")[0]:
            files.replace(path.read_bytes(), path.suffix)
    with running_database(data, database) as url:
        _load(url, backup / DUMP)
        engine = connect(url)
        migrate(engine)
        engine.dispose()
    # A server that runs looks at this, and tells its windows.
    (data / RESTORED).write_text(backup.name)
    return kept


def newest_known(data: Path) -> Path | None:
    """The newest backup that a data folder remembers."""
    try:
        places = [Path(each) for each in json.loads((data / PLACES).read_text())]
    except (OSError, ValueError, TypeError):
        return None
    found = [newest for place in places if (newest := newest_backup(place)) is not None]
    return max(found, key=lambda path: path.name, default=None)


def _remember(data: Path, into: Path) -> None:
    try:
        places = json.loads((data / PLACES).read_text())
    except (OSError, ValueError):
        places = []
    places = [each for each in places if each != str(into.resolve())] + [str(into.resolve())]
    (data / PLACES).write_text(json.dumps(places))


def _copy_files(source: Path, target: Path, before: Path | None) -> dict[str, int]:
    """Copy files whose names are their digests, each checked; one that an earlier backup holds shares its place on the disk."""
    target.mkdir()
    sizes = {}
    for path in sorted(source.iterdir()) if source.is_dir() else []:
        if path.name.startswith(PART):
            continue
        copy = target / path.name
        older = before / FILES / path.name if before is not None else None
        if older is not None and older.is_file() and older.stat().st_size == path.stat().st_size:
            try:
                os.link(older, copy)
            except OSError:
                shutil.copyfile(older, copy)
        else:
            shutil.copyfile(path, copy)
        if digest_of(copy) != path.name.split(".")[0]:
            raise BackupError(f"{path} is damaged: its contents do not have the digest of its name")
        sizes[path.name] = copy.stat().st_size
    return sizes


def _settle(folder: Path) -> None:
    for path in [*folder.rglob("*"), folder]:
        handle = os.open(path, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _dump(url: str, target: Path) -> None:
    _run(url, "pg_dump", "--format=custom", "--no-owner", "--no-privileges", f"--file={target}")


def _load(url: str, dump: Path) -> None:
    _run(
        url, "pg_restore", "--clean", "--if-exists", "--no-owner", "--no-privileges", "--single-transaction",
        "--exit-on-error", str(dump),
    )  # fmt: skip


def _run(url: str, program: str, *arguments: str) -> None:
    found = make_url(url)
    where = [
        "-h",
        found.host or "127.0.0.1",
        "-p",
        str(found.port or 5432),
        "-U",
        found.username or "",
        "-d",
        found.database or "",
    ]
    environment = {**os.environ, "PGPASSWORD": found.password or ""}
    command = [str(find_programs() / program), *where, *arguments]
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise BackupError(f"{program} failed: {' '.join(done.stderr.split())[-600:]}")
