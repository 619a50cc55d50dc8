"""What is reckoned for a picture against what it takes: `python -m bench.needs`.

Each case runs in a process of its own, and its most memory (getrusage, ru_maxrss) is set against `core/render/needs`.
"""

import os
import resource
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
import trimesh

from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.render.needs import reckon
from texallon.core.render.render_frame import FrameOptions, render_frame
from texallon.formats.shot_files import ShotFiles

CASES = (
    # Side of each grid, meshes, objects, width, height, passes.
    (20, 1, 1, 160, 90, 0),
    (600, 1, 1, 160, 90, 0),
    (700, 1, 1, 160, 90, 0),
    (700, 4, 4, 160, 90, 0),
    (700, 8, 8, 160, 90, 0),
    (20, 1, 500, 160, 90, 0),
    (20, 1, 1, 1920, 1080, 0),
    (20, 1, 1, 3840, 2160, 0),
    (20, 1, 1, 3840, 2160, 1),
)


def write_grids(folder: Path, side: int, meshes: int) -> None:
    """Wavy squares of one metre."""
    across = np.linspace(0, 1, side)
    x, z = np.meshgrid(across, across)
    y = 0.1 * np.sin(20 * x) * np.cos(17 * z)
    corner = np.arange(side * side).reshape(side, side)
    a, b, c, d = (each.ravel() for each in (corner[:-1, :-1], corner[1:, :-1], corner[:-1, 1:], corner[1:, 1:]))
    faces = np.concatenate([np.stack([a, b, c], 1), np.stack([d, c, b], 1)])
    for number in range(meshes):
        points = np.stack([x, y + 0.001 * number, z], -1).reshape(-1, 3)
        trimesh.Trimesh(points, faces, process=False).export(folder / f"{number}.ply")


def measure(side: int, meshes: int, objects: int, width: int, height: int, passes: int) -> None:
    """One case, in this process."""
    folder = Path(tempfile.mkdtemp())
    child = os.fork()  # so that what writing takes is not counted
    if child == 0:
        write_grids(folder, side, meshes)
        os._exit(0)
    os.waitpid(child, 0)
    made = [
        {
            "name": f"o{k}",
            "geometry": {"file": f"{k % meshes}.ply"},
            "look": "plain",
            "position": [k % 20 * 1.2, 0, k // 20 * 1.2],
        }
        for k in range(objects)
    ]
    look = {"name": "plain", "layers": [{"name": "base"}]}
    camera = {"position": [2, 3, -3], "target": [2, 0, 2]}
    shot = resolve(read_shot({"schema": 2, "name": "bench", "objects": made, "looks": [look], "camera": camera}))
    files = ShotFiles(root=folder)
    needs = reckon(files, shot.objects, width, height, bool(passes))
    render_frame(shot, files, width, height, 1, 2, FrameOptions(bool(passes)))
    most = 1000 * resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    what = f"{meshes} × {needs.largest:,} triangles, {objects} objects, {width}×{height}{', passes' if passes else ''}"
    print(f"{what:60} reckoned {needs.total / 1e6:6.0f} MB, took {most / 1e6:6.0f} MB", flush=True)


def main() -> None:
    if len(sys.argv) > 1:
        measure(*map(int, sys.argv[1:]))
        return
    for case in CASES:
        subprocess.run([sys.executable, "-m", "bench.needs", *map(str, case)], check=True)


if __name__ == "__main__":
    main()
