"""Many objects that share one mesh, in seconds and most memory: `python -m bench.many_objects [COUNT]`.

The mesh is a field of waves of 99 458 triangles; one sample of a small picture in which all objects are seen.
"""

import resource
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import trimesh

from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.render.render_frame import render_frame
from texallon.formats.shot_files import ShotFiles

SIDE, APART = 224, 1.2


def write_waves(path: Path) -> None:
    """A square of one metre with waves on it."""
    across = np.linspace(0, 1, SIDE)
    x, z = np.meshgrid(across, across)
    y = 0.1 * np.sin(20 * x) * np.cos(17 * z)
    corner = np.arange(SIDE * SIDE).reshape(SIDE, SIDE)
    a, b, c, d = (each.ravel() for each in (corner[:-1, :-1], corner[1:, :-1], corner[:-1, 1:], corner[1:, 1:]))
    faces = np.concatenate([np.stack([a, b, c], 1), np.stack([d, c, b], 1)])
    trimesh.Trimesh(np.stack([x, y, z], -1).reshape(-1, 3), faces, process=False).export(path)


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    folder = Path(tempfile.mkdtemp())
    write_waves(folder / "waves.ply")
    side = int(np.ceil(np.sqrt(count)))
    middle = side * APART / 2
    objects = [
        {
            "name": f"o{k}",
            "geometry": {"file": "waves.ply"},
            "look": "plain",
            "position": [k % side * APART, 0, k // side * APART],
        }
        for k in range(count)
    ]
    shot = resolve(
        read_shot(
            {
                "schema": 2,
                "name": "bench",
                "objects": objects,
                "looks": [{"name": "plain", "layers": [{"name": "base"}]}],
                "camera": {"position": [middle, middle, -middle], "target": [middle, 0, middle]},
            }
        )
    )
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    begun = time.perf_counter()
    render_frame(shot, ShotFiles(root=folder), 160, 90, 1, 2)
    seconds, most = time.perf_counter() - begun, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    print(f"{count} objects: {seconds:.1f} s, {most // 1000} MB at most ({before // 1000} MB before)")


if __name__ == "__main__":
    main()
