"""How soon a running picture lets go after an edit: `python -m bench.interrupt`.

A session renders the demo at 1280×720; at odd moments an edit arrives, and the time is taken until the render thread has
dropped what it was doing and is free for the new picture.
"""

import json
import os
import tempfile
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np

from texallon.core.derived import DerivedStore
from texallon.demo.write import write_demo
from texallon.engine.session import Session
from texallon.formats.shot_files import ShotFiles
from texallon.messages.from_page import PreviewMessage, ViewMessage

EDITS = 60


def main() -> None:
    folder = Path(tempfile.mkdtemp())
    write_demo(folder)
    document = json.loads((folder / "GH010.json").read_text())
    pool = ThreadPoolExecutor(os.cpu_count() or 2)
    session = Session("bench", 1, ShotFiles(root=folder), DerivedStore(), pool, lambda head, body: None)
    session.new_document(document, 1)
    session.said(ViewMessage(do="view", width=1280, height=720))
    while session.picture.film is None or session.picture.film.samples < 2:
        session.advance(lambda: False)
    freed: list[float] = []
    edited = [0.0]
    done = threading.Event()

    def render() -> None:
        while not done.is_set():
            epoch = session.window.epoch
            session.advance(lambda: False)
            if session.window.epoch != epoch:
                freed.append(time.perf_counter() - edited[0])

    thread = threading.Thread(target=render)
    thread.start()
    path = "/looks/0/layers/1/where/steps/1/params/from_start"
    rng = np.random.default_rng(0)
    for number in range(EDITS):
        time.sleep(float(rng.uniform(0.2, 2.5)))
        edited[0] = time.perf_counter()
        value = 0.2 + number * 0.001
        session.said(PreviewMessage(do="preview", patch=[{"op": "replace", "path": path, "value": value}]))
    time.sleep(0.5)
    done.set()
    thread.join()
    times = np.array(freed) * 1e3
    print(
        f"let go after: median {np.median(times):.0f} ms, 95th percentile {np.quantile(times, 0.95):.0f} ms, most {times.max():.0f} ms"
    )


if __name__ == "__main__":
    main()
