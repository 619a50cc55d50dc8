"""What motion blur costs: `python -m bench.shutter`. The same picture with the shutter shut and open, in turns, in one run.

The basin as the demo has it, with its camera moving and its stone turning; and the tiles that dance on springs, all of whose copies move.
"""

import argparse
import os
import tempfile
import time
from pathlib import Path
from typing import Any

from texallon.core.derived import DerivedStore
from texallon.core.document import Shot, parse_json, read_shot
from texallon.core.document.resolved import resolve
from texallon.core.render.render_frame import FrameOptions, render_frame
from texallon.demo.write import write_demo
from texallon.formats.shot_files import ShotFiles


def _moving(document: dict[str, Any]) -> dict[str, Any]:
    """The document with its camera and its first object on the move."""
    item, eye = document["objects"][0], document["camera"]["position"]
    turn = [{"frame": 1, "value": 0, "interpolation": "linear"}, {"frame": 48, "value": 180, "interpolation": "linear"}]
    go = [{**turn[0], "value": eye[0]}, {**turn[1], "value": eye[0] + 2}]
    tracks = [
        {"at": f"/objects/{item['id']}/rotation/1", "keys": turn},
        {"at": "/camera/position/0", "keys": go},
    ]
    return {**document, "tracks": tracks}


def _seconds(shot: Shot, files: ShotFiles, store: DerivedStore, samples: int, frame: int) -> float:
    begun = time.perf_counter()
    render_frame(resolve(shot, frame), files, 640, 360, samples, os.cpu_count() or 1, FrameOptions(store=store))
    return time.perf_counter() - begun


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--samples", type=int, default=16)
    options.add_argument("--turns", type=int, default=2)
    given = options.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write_demo(folder)
        for shot, change in (("GH010", _moving), ("GH140", dict)):
            document = change(parse_json((folder / f"{shot}.json").read_text()))
            made = {on: read_shot({**document, "shutter": {"on": on}}) for on in (False, True)}
            files, store = ShotFiles(root=folder), DerivedStore()
            for on in (False, True):  # compiles, and reads what both have in common
                _seconds(made[on], files, store, 16, 20)
            took: dict[bool, list[float]] = {False: [], True: []}
            for turn in range(given.turns):
                for on in (False, True):
                    took[on].append(_seconds(made[on], files, store, given.samples, 21 + turn))
            still, blurred = min(took[False]), min(took[True])
            print(f"{shot}: still {still:.2f} s, blurred {blurred:.2f} s, {blurred / still:.2f} ×", flush=True)


if __name__ == "__main__":
    main()
