"""A volume written as a file of voxels in a process of its own: `python -m texallon.bake FILES FRAME CELLS OBJECT OUT`, the document on standard input.

Prints a line for each part that is done, `DONE TOTAL`; what goes wrong is one line on standard error.
"""

import os
import sys
from pathlib import Path

from texallon.core.document import parse_json, read_shot
from texallon.core.document.resolved import resolve
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.baked_volume import bake_volume
from texallon.core.render.graph import FrameGraph
from texallon.formats.shot_files import ShotFiles
from texallon.formats.write_voxels import write_voxels


def main() -> int:
    os.nice(10)
    store, frame, cells, name, out = sys.argv[1:]
    graph = FrameGraph(resolve(read_shot(parse_json(sys.stdin.read())), int(frame)), ShotFiles(store=Path(store)))

    def report(done: int, total: int) -> None:
        print(done, total, flush=True)

    try:
        baked = bake_volume(graph, name, int(cells), report)
        write_voxels(Path(out), baked.grids, baked.to_place)
    except (MeshError, ValueError, FileNotFoundError) as error:
        print(error, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
