"""A review sheet in a process of its own: `python -m texallon.review FILES LOOK PNG EXR`, the document on standard input.

Prints a line for each picture that is done, `DONE TOTAL`; what goes wrong is one line on standard error.
"""

import os
import sys
import tempfile
from pathlib import Path

from texallon.core.document import parse_json, read_shot
from texallon.core.geometry.mesh import MeshError
from texallon.review.sheet import SAMPLES, ReviewError, body_reference, lay_out, render_review, write_parts
from texallon.review.shell import FilesAndBody


def main() -> int:
    os.nice(10)
    store, look, sheet, parts = sys.argv[1:5]
    shot = read_shot(parse_json(sys.stdin.read()))
    try:
        with tempfile.TemporaryDirectory() as name:
            body = body_reference(Path(name))
            files = FilesAndBody(Path(name), store=Path(store))
            pictures = render_review(shot, look, files, body, os.cpu_count() or 1, _tell)
        lay_out(pictures, f"{look}  ·  {shot.name}  ·  {SAMPLES} samples").save(sheet)
        write_parts(Path(parts), pictures, {"texallon:look": look, "texallon:shot": shot.name})
    except (ReviewError, MeshError, FileNotFoundError) as error:
        print(error, file=sys.stderr)
        return 1
    return 0


def _tell(done: int, total: int) -> None:
    print(done, total, flush=True)


if __name__ == "__main__":
    sys.exit(main())
