"""Samples a second on a stage that nobody touches, against the shell's final of the same shot: `python -m bench.untouched [SHOT …]`.

Both render the same pictures in one process, in turn, so that the machine's drift falls on both.
"""

import json
import os
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from texallon.core.derived import DerivedStore
from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.render.render_frame import render_frame
from texallon.demo.write import write_demo
from texallon.engine.session import Session
from texallon.formats.shot_files import ShotFiles
from texallon.messages.from_page import ViewMessage

SIZE, SAMPLES, TURNS = (640, 360), 32, 2
SETTLED = 16
"""Samples before the clock starts: what every edit needs once is made by then, and the window counts as untouched."""


def stage(session: Session) -> float:
    """Seconds a sample, from one sample to `SAMPLES` later."""
    film = session.picture.film
    assert film is not None
    first, begun = film.samples, time.perf_counter()
    while film.samples < first + SAMPLES:
        session.advance(lambda: False)
    return (time.perf_counter() - begun) / (film.samples - first)


def shell(document: dict[str, Any], files: ShotFiles, threads: int) -> float:
    """Seconds a sample of a final: the difference of a long and a short one, which leaves out what is made once."""
    shot = resolve(read_shot(document))
    took = []
    for samples in (1, 1 + SAMPLES):
        begun = time.perf_counter()
        render_frame(shot, files, *SIZE, samples, threads)
        took.append(time.perf_counter() - begun)
    return (took[1] - took[0]) / SAMPLES


def main() -> None:
    folder = Path(tempfile.mkdtemp())
    write_demo(folder)
    threads = os.cpu_count() or 2
    for name in sys.argv[1:] or ["GH010", "GH070"]:
        document = json.loads((folder / f"{name}.json").read_text())
        document["sampling"] = {**document.get("sampling", {}), "samples": 4096, "noise": 0.0}
        files = ShotFiles(root=folder)
        session = Session("bench", 1, files, DerivedStore(), ThreadPoolExecutor(threads), lambda head, body: None)
        session.new_document(document, 1)
        session.said(ViewMessage(do="view", width=SIZE[0], height=SIZE[1]))
        while session.picture.film is None or session.picture.film.samples < SETTLED:
            session.advance(lambda: False)
        pairs = [(stage(session), shell(document, files, threads)) for _ in range(TURNS)]
        ratios = [on_stage / in_shell for on_stage, in_shell in pairs]
        told = ", ".join(f"{a:.2f} / {b:.2f} s" for a, b in pairs)
        print(f"{name}: stage / shell, seconds a sample: {told}; median ratio {np.median(ratios):.2f}")


if __name__ == "__main__":
    main()
