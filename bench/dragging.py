"""Pictures a second while something is dragged in the picture, at 640×360: `python -m bench.dragging [FOLDER OF THE DEMO]`.

A session of the render process is driven as the page drives it while a hand moves: each move comes as soon as the picture of the one before
is there. Whatever is chosen is moved: the camera about the shot, an object, a locator, a lamp.
"""

import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

from tests.engine.driven import Driven
from texallon.core.document import parse_json, read_shot, shot_json
from texallon.demo.write import write_demo
from texallon.formats.shot_files import ShotFiles

MOVES = 30


def rate(folder: Path, name: str, what: str) -> tuple[float, float]:
    """Median and worst seconds from a move to its picture."""
    document = shot_json(read_shot(parse_json((folder / f"{name}.json").read_text())))
    session = Driven(ShotFiles(folder))
    session.change({"do": "document", "document": document, "revision": 1})
    session.change({"do": "view", "width": 640, "height": 360})
    session.advance(lambda: False)
    taken = []
    for number in range(MOVES):
        session.change(move(document, what, 0.002 * (number + 1)))
        session.sent.clear()
        begun = time.perf_counter()
        while not any(head["kind"] == "picture" for head in session.sent):
            session.advance(lambda: False)
        taken.append(time.perf_counter() - begun)
    later = np.array(taken[5:])  # the first ones find out how large a picture can be
    return float(np.median(later)), float(later.max())


def move(document: dict[str, Any], what: str, by: float) -> dict[str, Any]:
    if what == "camera":
        return {"do": "camera", "move": "orbit", "across": by, "down": 0.0}
    x, y, z = document[what][0]["position"]
    return {"do": "preview", "patch": [{"op": "replace", "path": f"/{what}/0/position", "value": [x + by, y, z]}]}


def main() -> None:
    with tempfile.TemporaryDirectory() as made:
        folder = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(made)
        if len(sys.argv) < 2:
            write_demo(folder)
        for name in ("GH010", "GH070", "GH100"):
            for what in ("camera", "objects", "lights"):
                median, worst = rate(folder, name, what)
                print(
                    f"{name} {what:8s} {1 / median:5.1f} pictures a second, the slowest {worst * 1000:4.0f} ms",
                    flush=True,
                )


if __name__ == "__main__":
    main()
