"""Small pictures for the list of shots, made in the background for shots that nobody has looked at yet."""

import json
import logging
import subprocess
import sys

from texallon.store.files import FileStore
from texallon.store.shots import ShotStore
from texallon.supervise import end_with_parent

LONGEST = 180
"""Seconds that one picture may take; a shot that takes longer has none."""

_log = logging.getLogger("texallon.portraits")


class Portraits:
    """Makes one picture after the other; each in a process that takes what computing is left over."""

    def __init__(self, store: ShotStore, files: FileStore) -> None:
        self.store, self.files = store, files
        self._failed: set[tuple[int, int]] = set()

    def draw_next(self) -> bool:
        """Make the picture of one shot that has none; tells whether there was one."""
        for shot_id, revision in self.store.without_picture():
            if (shot_id, revision) not in self._failed:
                self._draw(shot_id, revision)
                return True
        return False

    def _draw(self, shot_id: int, revision: int) -> None:
        document = self.store.document(shot_id, revision)
        try:
            done = subprocess.run(
                [sys.executable, "-m", "texallon.portrait", str(self.files.folder)],
                input=json.dumps(document).encode(),
                capture_output=True,
                timeout=LONGEST,
                check=True,
                preexec_fn=end_with_parent,
            )
            self.store.keep_picture(shot_id, self.files.put(done.stdout, ".png"), revision)
        except (subprocess.SubprocessError, OSError) as error:
            # Its list has a place without a picture then; opening the shot says what is wrong with it.
            self._failed.add((shot_id, revision))
            _log.warning("no small picture of shot %d: %s", shot_id, str(error)[:200])
