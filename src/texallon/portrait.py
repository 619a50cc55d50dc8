"""A shot's small picture, made in a process of its own: `python -m texallon.portrait FILES`, the document on standard input, a PNG on
standard output."""

import math
import os
import resource
import sys
import tempfile
import time
from pathlib import Path

from texallon.core.document import parse_json, read_shot
from texallon.document_digest import document_digest
from texallon.formats.shot_files import ShotFiles
from texallon.formats.small_picture import HEIGHT, WIDTH
from texallon.frame_files import Order
from texallon.render_file import render_file

SAMPLES = 8

LONGEST = 180
"""Seconds of computing that a picture may take, however long it waits for them; a shot that takes more has none."""


def stand_back(longest: int = LONGEST) -> None:
    """Let whoever is at work come first, and end this process where it computes for longer.

    Parameters
    ----------
    longest : int, optional
        Seconds of computing from now on.
    """
    os.nice(10)
    most = math.ceil(time.process_time()) + longest
    resource.setrlimit(resource.RLIMIT_CPU, (most, most))


def main() -> int:
    stand_back()
    shot = read_shot(parse_json(sys.stdin.read()))
    width, height = shot.resolution
    share = min(WIDTH / width, HEIGHT / height)
    size = (max(int(width * share), 1), max(int(height * share), 1))
    order = Order(size, SAMPLES, 1, shot.frames.first, denoise=True)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "portrait.png"
        comments = {"texallon:document": document_digest(shot)}
        render_file(shot, ShotFiles(store=Path(sys.argv[1])), order, path, comments, lambda done, film: None)
        sys.stdout.buffer.write(path.read_bytes())
    return 0


if __name__ == "__main__":
    sys.exit(main())
