"""Putting what a new shot begins with into the store."""

import tempfile
from pathlib import Path
from typing import Any

from texallon.formats.mesh_file import write_glb
from texallon.starter.documents import BODY_FILE, Start, new_shot
from texallon.starter.test_body import turned_body
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore


def begin_shot(
    store: ShotStore, files: FileStore, project: str, name: str, title: str, start: Start, author: str = ""
) -> int:
    """Add a new shot to a project; gives its id.

    Parameters
    ----------
    store : ShotStore
        The shots.
    files : FileStore
        Where the test body's file is put.
    project : str
        Its name; one that there is none of is made.
    name, title : str
        Of the shot; a name in use gets a number after it.
    start : {"empty", "starter"}
        What it begins with.
    author : str, optional
        Who makes it.

    Raises
    ------
    QuotaError, DiskFullError
        Where there is no room.
    """
    body = keep_body(store, files) if start == "starter" else None
    return store.add_shot(project, new_shot(name, title, body), f"new, {start}", author)


def keep_body(store: ShotStore, files: FileStore) -> dict[str, Any]:
    """Put the test body's file into the folder, and give what a document names it by."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "body.glb"
        write_glb(path, turned_body())
        data = path.read_bytes()
    digest = files.put(data, ".glb")
    store.remember_file(digest, Path(BODY_FILE).name, "glb", len(data))
    return {"file": BODY_FILE, "sha256": digest}
