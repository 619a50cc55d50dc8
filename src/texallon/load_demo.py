"""Putting the demo into a store."""

import json
import os
import tempfile
from pathlib import Path

from texallon.demo.write import SHOTS, write_demo
from texallon.store.files import FileStore
from texallon.store.projects import numbered
from texallon.store.shots import ShotStore

PROJECT = "Midwinter Glasshouse"


def _written(folder: Path) -> tuple[Path, list[Path]]:
    """The demo's folder and documents: those of `TEXALLON_DEMO` where the demo was written there before, else written now."""
    given = Path(os.environ.get("TEXALLON_DEMO", ""))
    index = given / "project.json"
    if os.environ.get("TEXALLON_DEMO") and index.is_file():
        return given, [given / f"{name}.json" for name in json.loads(index.read_text())["shots"]]
    return folder, write_demo(folder)


def begin_demo_again(store: ShotStore, files: FileStore) -> None:
    """The demo as it was at first; the one that is there is put away, with a number after its name."""
    there = next((each for each in store.list_projects() if each.name == PROJECT), None)
    if there is not None:
        taken = {each.name for each in store.list_projects()}
        store.rename_project(there.id, numbered(f"{PROJECT}, before", taken))
        store.put_away(there.id, True)
    load_demo(store, files)


def load_demo(store: ShotStore, files: FileStore, project: str = PROJECT) -> bool:
    """Add those of the demo's shots that the project lacks; tells whether there were any."""
    there = {shot.name for shot in store.list_shots(binned=True) if shot.project == project}
    if there >= {name.__name__.upper() for name in SHOTS}:
        return False
    with tempfile.TemporaryDirectory() as name:
        folder, documents = _written(Path(name))
        for path in folder.glob("*/*"):
            data = path.read_bytes()
            digest = files.put(data, path.suffix)
            store.remember_file(digest, path.name, path.suffix.removeprefix("."), len(data))
        for document in documents:
            if document.stem not in there:
                store.add_shot(project, json.loads(document.read_text()), "the demo")
    return True
