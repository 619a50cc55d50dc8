"""Render the demo's shots into one picture, docs/screenshots/looks.png: `python -m tools.demo_sheet`."""

import os
import tempfile
from pathlib import Path

from PIL import Image

from texallon.cli import load_shot
from texallon.core.document.resolved import resolve
from texallon.core.document.simulation import Cells, Flow
from texallon.core.render.film.bloom import bloomed
from texallon.core.render.film.display import view_bytes
from texallon.core.render.render_frame import group_weights, render_frame
from texallon.demo.write import write_demo
from texallon.formats.shot_files import ShotFiles

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
WIDTH, HEIGHT, SAMPLES, COLUMNS = 320, 180, 32, 4


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        paths = [path for path in write_demo(folder) if path.stem != "GH010"]
        rows = -(-len(paths) // COLUMNS)
        sheet = Image.new("RGB", (WIDTH * COLUMNS, HEIGHT * rows), (13, 16, 20))
        for number, path in enumerate(paths):
            document = load_shot(path)
            grows = any(
                item.remembers or item.floats or isinstance(item.geometry, Flow | Cells) for item in document.objects
            )
            shot = resolve(document, 40 if grows else None)
            film = render_frame(shot, ShotFiles(root=folder), WIDTH, HEIGHT, SAMPLES, os.cpu_count() or 1)
            picture = Image.fromarray(
                view_bytes(bloomed(film.denoised(weights=group_weights(shot)), shot.bloom), shot.camera.exposure)
            )
            sheet.paste(picture, (number % COLUMNS * WIDTH, number // COLUMNS * HEIGHT))
            print(path.stem, shot.title)
        sheet.save(FOLDER / "looks.png", optimize=True)


if __name__ == "__main__":
    main()
