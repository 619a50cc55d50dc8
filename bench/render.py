"""Where a sample's time goes on the demo shot: `python -m bench.render`."""

import json
import tempfile
import time
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from texallon.core.document import read_shot
from texallon.core.geometry.rays import SceneRays
from texallon.core.render import integrator
from texallon.core.render.film import Film
from texallon.core.render.materials import Materials
from texallon.core.render.still import make_job
from texallon.demo.write import write_demo
from texallon.formats.shot_files import ShotFiles

SAMPLES = 6


def main() -> None:
    folder = Path(tempfile.mkdtemp())
    write_demo(folder)
    shot = read_shot(json.loads((folder / "GH010.json").read_text()))
    job = make_job(shot, ShotFiles(root=folder), 640, 360)
    spent: dict[str, float] = defaultdict(float)
    rays = [0]

    def timed(name: str, original: Callable[..., Any], counts: bool = False) -> Callable[..., Any]:
        def run(*arguments: Any) -> Any:
            started = time.perf_counter()
            result = original(*arguments)
            spent[name] += time.perf_counter() - started
            if counts:
                rays[0] += arguments[1].shape[1]
            return result

        return run

    film = Film(640, 360)
    film.add_sample(job)
    SceneRays.nearest = timed("rays", SceneRays.nearest, True)  # type: ignore[method-assign]
    SceneRays.blocked = timed("rays", SceneRays.blocked, True)  # type: ignore[method-assign]
    Materials.rows = timed("plans", Materials.rows)  # type: ignore[method-assign]
    integrator.scatter = timed("scattering", integrator.scatter)  # type: ignore[assignment]
    times = []
    for _ in range(SAMPLES):
        started = time.perf_counter()
        film.add_sample(job)
        times.append(time.perf_counter() - started)
    total = sum(times)
    print(f"one 640×360 sample on one thread: {np.median(times):.2f} s, {rays[0] / total / 1e6:.2f} Mray/s in all")
    for name in ("rays", "plans", "scattering"):
        print(f"  {name:<11} {spent[name] / total:5.0%}")
    print(f"  {'the rest':<11} {1 - sum(spent.values()) / total:5.0%}")


if __name__ == "__main__":
    main()
