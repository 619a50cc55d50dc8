"""Draw the pictures of the looks that ship: `python -m texallon.shelf.draw [NAME …]`, into the folder that they ship in."""

import sys
import tempfile
from pathlib import Path

from texallon.core.document import read_shot
from texallon.formats.mesh_file import write_glb
from texallon.formats.shot_files import ShotFiles
from texallon.frame_files import Order
from texallon.render_file import render_file
from texallon.shelf.finished.all_looks import finished_looks
from texallon.shelf.finished.pictures import FOLDER, picture_of
from texallon.shelf.scene import SIZE, shelf_scene
from texallon.starter.test_body import turned_body

SAMPLES = 128


def main() -> None:
    folder, names = FOLDER, sys.argv[1:]
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as name:
        write_glb(Path(name) / "body.glb", turned_body())
        files = ShotFiles(Path(name))
        for each in finished_looks().values():
            if names and each.name not in names:
                continue
            body = {"file": "body.glb"}
            shot = read_shot(shelf_scene([each.look], each.name, body, signals=list(each.signals)))
            order = Order(SIZE, SAMPLES, 2, 1, denoise=True)
            render_file(shot, files, order, folder / picture_of(each.name).name, {}, lambda done, film: None)
            print(each.name, flush=True)


if __name__ == "__main__":
    main()
