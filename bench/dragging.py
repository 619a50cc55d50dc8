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


def falloff(locator: str) -> dict[str, Any]:
    return {
        "op": "falloff",
        "params": {"shape": "sphere", "width": 0.8, "border": 0.3, "origin": {"locator": locator}},
    }


CONTACT = {"op": "contact", "params": {"to": {"object": "pebbles"}, "end": 0.5}}


def masked(folder: Path, step: dict[str, Any], what: str, item: int) -> tuple[float, float]:
    """As `rate`, of GH010 with one mask of its floor alone in the picture, while what that is measured from is moved.

    The locator “alone” is one that nothing stands by; with “waterline” the water moves too.
    """
    document = shot_json(read_shot(parse_json((folder / "GH010.json").read_text())))
    document["locators"].append({"name": "alone", "position": document["locators"][0]["position"]})
    at = [each["name"] for each in document["looks"]].index("flagstones")
    document["looks"][at]["layers"][0]["where"] = {"steps": [step]}
    document = shot_json(read_shot(document))
    session = Driven(ShotFiles(folder))
    session.change({"do": "document", "document": document, "revision": 1})
    show = {"kind": "mask", "look": "flagstones", "recipe": f"/looks/{at}/layers/0/where"}
    session.change({"do": "view", "width": 640, "height": 360, "show": show})
    session.advance(lambda: False)
    taken = []
    item %= len(document[what])
    x, y, z = document[what][item]["position"]
    for number in range(MOVES):
        place = [x + 0.01 * (number + 1), y, z]
        session.change(
            {"do": "preview", "patch": [{"op": "replace", "path": f"/{what}/{item}/position", "value": place}]}
        )
        session.sent.clear()
        begun = time.perf_counter()
        while not any(head["kind"] == "picture" for head in session.sent):
            session.advance(lambda: False)
        taken.append(time.perf_counter() - begun)
    later = np.array(taken[5:])
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
        for said, step, what, item in (
            ("a falloff, its mask alone", falloff("alone"), "locators", -1),
            ("a falloff and the water, its mask alone", falloff("waterline"), "locators", 0),
            ("pebbles, the mask of what they touch alone", CONTACT, "objects", 3),
        ):
            median, worst = masked(folder, step, what, item)
            print(f"GH010 {said}: {1 / median:5.1f} pictures a second, the slowest {worst * 1000:4.0f} ms", flush=True)
        for name in ("GH010", "GH070", "GH100"):
            for what in ("camera", "objects", "lights"):
                median, worst = rate(folder, name, what)
                print(
                    f"{name} {what:8s} {1 / median:5.1f} pictures a second, the slowest {worst * 1000:4.0f} ms",
                    flush=True,
                )


if __name__ == "__main__":
    main()
