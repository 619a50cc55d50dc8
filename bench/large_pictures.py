"""Four colour pictures of 8 000² in one look, in seconds and most memory: `python -m bench.large_pictures`."""

import resource
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.geometry.mesh import make_mesh
from texallon.core.render.render_frame import render_frame
from texallon.formats.mesh_file import write_glb
from texallon.formats.picture_file import write_png
from texallon.formats.shot_files import ShotFiles

ACROSS = 8_000


def write_pictures(folder: Path) -> list[str]:
    """Pictures of fine bands, each of its own."""
    at = np.arange(ACROSS, dtype=np.uint32)
    names = [f"bands{number}.png" for number in range(4)]
    for number, name in enumerate(names):
        grey = ((at[:, None] * (number + 2) + at * 5) % 251).astype(np.uint8)
        write_png(folder / name, np.stack([grey, 255 - grey, grey], -1))
    return names


def main() -> None:
    folder = Path(tempfile.mkdtemp())
    with ProcessPoolExecutor(1) as apart:  # what writing takes is not measured
        names = apart.submit(write_pictures, folder).result()
    corners = [[-1.0, -1.0, 0.0], [1.0, -1.0, 0.0], [1.0, 1.0, 0.0], [-1.0, 1.0, 0.0]]
    square = make_mesh(corners, [[0, 1, 2], [0, 2, 3]], [[0, 0, 1]] * 4, [[0, 0], [1, 0], [1, 1], [0, 1]])
    write_glb(folder / "square.glb", square)
    channels = ("base_color", "specular_color", "coat_color", "fuzz_color")
    worn = {
        channel: {"recipe": {"steps": [{"op": "image", "params": {"file": {"file": name}, "role": "colour"}}]}}
        for channel, name in zip(channels, names, strict=True)
    }
    shot = resolve(
        read_shot(
            {
                "schema": 2,
                "name": "bench",
                "objects": [{"name": "square", "geometry": {"file": "square.glb"}, "look": "banded"}],
                "looks": [{"name": "banded", "layers": [{"name": "base", "channels": worn}]}],
                "camera": {"position": [0, 0, 3], "target": [0, 0, 0]},
            }
        )
    )
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    begun = time.perf_counter()
    render_frame(shot, ShotFiles(root=folder), 640, 360, 4, 2)
    seconds, most = time.perf_counter() - begun, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    print(f"4 pictures of {ACROSS}²: {seconds:.1f} s, {most // 1000} MB at most ({before // 1000} MB before)")


if __name__ == "__main__":
    main()
