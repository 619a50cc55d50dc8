"""What a backup holds, with a digest of every part: written last, so that a folder without it is no backup."""

import json
from dataclasses import asdict, dataclass
from pathlib import Path

from texallon.formats.file_digest import digest_of

DUMP, FILES, MANIFEST = "database.dump", "files", "manifest.json"
PREFIX = "texallon-"
"""How the names of backups begin; the moment follows, so that they stand in order."""

FORM = 1


class BackupError(RuntimeError):
    """A backup can't be made or used; the message says why."""


@dataclass(frozen=True)
class Manifest:
    """`files`: size by name. A file's name is its SHA-256 and its ending. `made`: ISO 8601."""

    made: str
    postgres: str
    dump: str
    files: dict[str, int]
    form: int = FORM


def write_manifest(folder: Path, manifest: Manifest) -> None:
    (folder / MANIFEST).write_text(json.dumps(asdict(manifest), indent=1))


def read_manifest(folder: Path) -> Manifest:
    """What a backup says it holds; raises `BackupError`."""
    try:
        found = Manifest(**json.loads((folder / MANIFEST).read_text()))
    except FileNotFoundError as error:
        raise BackupError(f"{folder} is no backup, or was not finished: it has no {MANIFEST}") from error
    except (OSError, ValueError, TypeError) as error:
        raise BackupError(f"{folder / MANIFEST} can't be read: {error}") from error
    if found.form != FORM:
        raise BackupError(f"{folder} has form {found.form}; this program reads form {FORM}")
    return found


def verify(folder: Path) -> Manifest:
    """Look at every byte of a backup; raises `BackupError` naming the first part that is not as it was written."""
    manifest = read_manifest(folder)
    try:
        if digest_of(folder / DUMP) != manifest.dump:
            raise BackupError(f"{folder / DUMP} is not as it was written")
        for name, size in manifest.files.items():
            path = folder / FILES / name
            if path.stat().st_size != size or digest_of(path) != name.split(".")[0]:
                raise BackupError(f"{path} is not as it was written")
    except OSError as error:
        raise BackupError(f"{error.filename} can't be read: {error.strerror}") from error
    return manifest


def newest_backup(folder: Path) -> Path | None:
    """The newest finished backup in a folder."""
    found = [path for path in folder.glob(f"{PREFIX}*") if (path / MANIFEST).is_file()]
    return max(found, default=None)
