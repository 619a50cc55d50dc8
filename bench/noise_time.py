"""How long three demo shots take to a noise level: `python -m bench.noise_time [SHOT …]`.

Relative mean-square error, mean of (I − R)² / (R² + 0.01), against a long reference with other random numbers, at 160×90 on all
cores; pixels are weighed alike. The time is that of the samples alone.
"""

import json
import os
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.render.film.film import Film
from texallon.core.render.render_frame import make_context
from texallon.demo.write import write_demo
from texallon.formats.shot_files import ShotFiles

SHOTS = ("GH010", "GH070", "GH100")
SIZE, REFERENCE, MOST = (160, 90), 640, 256
LEVELS = (0.1, 0.03, 0.01)


def main() -> None:
    folder = Path(tempfile.mkdtemp())
    write_demo(folder)
    files = ShotFiles(root=folder)
    with ThreadPoolExecutor(os.cpu_count() or 2) as pool:
        for name in sys.argv[1:] or SHOTS:
            shot = resolve(read_shot(json.loads((folder / f"{name}.json").read_text())))
            other = make_context(shot.model_copy(update={"seed": 7}), files, *SIZE)
            reference = Film(*SIZE, len(other.lights.names))
            for _ in range(REFERENCE):
                reference.add_sample(other, pool)
            truth = reference.picture()
            context = make_context(shot, files, *SIZE)
            film = Film(*SIZE, len(context.lights.names))
            spent, left, told = 0.0, list(LEVELS), []
            while left and film.samples < MOST:
                started = time.perf_counter()
                film.add_sample(context, pool)
                spent += time.perf_counter() - started
                error = float((((film.picture() - truth) ** 2) / (truth**2 + 0.01)).mean())
                while left and error <= left[0]:
                    told.append(f"{left.pop(0):g} after {spent:.1f} s ({film.samples} samples)")
            told += [f"not {left[0]:g}: {error:.3g} after {spent:.1f} s ({film.samples} samples)"] if left else []
            print(f"{name}: {', '.join(told)}")


if __name__ == "__main__":
    main()
