"""Small pictures for the list of shots, made in the background for shots that nobody has looked at yet, and of looks on the shelf."""

import json
import logging
import subprocess
import sys

from texallon.child_process import end_with_parent
from texallon.core.document import DocumentError
from texallon.shelf.scene import shelf_scene
from texallon.starter.begin import keep_body
from texallon.store.files import FileStore
from texallon.store.shelf import ShelfStore, Shelved
from texallon.store.shots import ShotStore

WAITED = 3600
"""Seconds after which a process is taken to hang: it counts its computing itself, and waits while others compute."""

_log = logging.getLogger("texallon.portraits")


class Portraits:
    """Makes one picture after the other; each in a process that takes what computing is left over."""

    def __init__(self, store: ShotStore, files: FileStore) -> None:
        self.store, self.files = store, files
        self.shelf = ShelfStore(store.engine)
        self._failed: set[tuple[int, int]] = set()
        self._failed_looks: set[tuple[str, int]] = set()

    def draw_next(self) -> bool:
        """Make the picture of one shot that has none; tells whether there was one."""
        for shot_id, revision in self.store.without_picture():
            if (shot_id, revision) not in self._failed:
                self._draw(shot_id, revision)
                return True
        for each in self.shelf.without_picture():
            if (each.name, each.version) not in self._failed_looks:
                self._draw_look(each)
                return True
        return False

    def _draw_look(self, each: Shelved) -> None:
        """The picture of a look on the shelf: on the test body, under the shelf's light."""
        body = keep_body(self.store, self.files)
        item = each.item.model_dump(mode="json")
        others = {key: item[key] for key in ("signals", "numbers", "locators")}
        try:
            picture = self._render(shelf_scene(item["looks"], each.name, body, **others))
            self.shelf.keep_picture(each.name, each.version, self.files.put(picture, ".png"))
        except (subprocess.SubprocessError, OSError, DocumentError) as error:
            self._failed_looks.add((each.name, each.version))
            _log.warning("no picture of the look %s: %s", each.name, str(error)[:200])

    def _render(self, document: object) -> bytes:
        """A document's small picture, as PNG."""
        done = subprocess.run(
            [sys.executable, "-m", "texallon.portrait", str(self.files.folder)],
            input=json.dumps(document).encode(),
            capture_output=True,
            timeout=WAITED,
            check=True,
            preexec_fn=end_with_parent,
        )
        return done.stdout

    def _draw(self, shot_id: int, revision: int) -> None:
        document = self.store.document(shot_id, revision)
        try:
            self.store.keep_picture(shot_id, self.files.put(self._render(document), ".png"), revision)
        except (subprocess.SubprocessError, OSError) as error:
            # Its list has a place without a picture then; opening the shot says what is wrong with it.
            self._failed.add((shot_id, revision))
            _log.warning("no small picture of shot %d: %s", shot_id, str(error)[:200])
