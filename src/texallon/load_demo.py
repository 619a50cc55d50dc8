"""Putting the demo into a store."""

import json
import tempfile
from pathlib import Path

from texallon.demo.write import SHOTS, write_demo
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore

PROJECT = "Midwinter Glasshouse"


def load_demo(store: ShotStore, files: FileStore, project: str = PROJECT) -> bool:
    """Add those of the demo's shots that the project lacks; tells whether there were any."""
    there = {shot.name for shot in store.list_shots() if shot.project == project}
    if there >= {name.__name__.upper() for name in SHOTS}:
        return False
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        documents = write_demo(folder)
        for path in folder.glob("*/*"):
            data = path.read_bytes()
            digest = files.put(data, path.suffix)
            store.remember_file(digest, path.name, path.suffix.removeprefix("."), len(data))
        for document in documents:
            if document.stem not in there:
                store.add_shot(project, json.loads(document.read_text()), "the demo")
    return True
