"""Putting the demo into a store."""

import json
import tempfile
from pathlib import Path

from texallon.demo.write import write_demo
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore

PROJECT = "Midwinter Glasshouse"


def load_demo(store: ShotStore, files: FileStore) -> bool:
    """Add the demo's shots unless the project is there already; tells whether it did."""
    if any(shot.project == PROJECT for shot in store.list_shots()):
        return False
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        documents = write_demo(folder)
        for path in folder.glob("*/*"):
            data = path.read_bytes()
            digest = files.put(data, path.suffix)
            store.remember_file(digest, path.name, path.suffix.removeprefix("."), len(data))
        for document in documents:
            store.add_shot(PROJECT, json.loads(document.read_text()), "the demo")
    return True
