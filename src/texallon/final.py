"""A final picture in a process of its own: `python -m texallon.final FILES FRAME PNG EXR [passes]`, the document on standard input.

Prints a line for each sample that is done, `DONE TOTAL`; what goes wrong is one line on standard error.
"""

import os
import sys
from pathlib import Path

from texallon.cli import document_digest
from texallon.core.document import parse_json, read_shot
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.film.display import view_bytes
from texallon.core.render.film.film import Film
from texallon.core.render.needs import TooLargeError
from texallon.formats.shot_files import ShotFiles
from texallon.render_file import Order, render_file


def main() -> int:
    from PIL import Image

    from texallon.core.render.film.bloom import bloomed
    from texallon.core.render.render_frame import group_weights

    os.nice(10)
    store, frame, png, exr = sys.argv[1:5]
    shot = read_shot(parse_json(sys.stdin.read()))
    order = Order(
        shot.resolution,
        shot.sampling.samples,
        os.cpu_count() or 1,
        int(frame),
        shot.sampling.noise,
        denoise=True,
        passes="passes" in sys.argv[5:],
    )

    def tell(done: int, film: Film) -> None:
        print(done, order.samples, flush=True)

    comments = {"texallon:document": document_digest(shot), "texallon:frame": frame}
    try:
        film = render_file(shot, ShotFiles(store=Path(store)), order, Path(exr), comments, tell)
    except (MeshError, TooLargeError, FileNotFoundError) as error:
        print(error, file=sys.stderr)
        return 1
    smooth = film.denoised(weights=group_weights(shot), quality="high")
    Image.fromarray(view_bytes(bloomed(smooth, shot.bloom), shot.camera.exposure)).save(png)
    return 0


if __name__ == "__main__":
    sys.exit(main())
