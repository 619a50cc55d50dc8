"""Where a sample's time goes, and the same rays in the bare ray-tracing library: `python -m bench.render [SHOT …]`.

The rays of one sample are written down as they are asked, then asked again of the library's own Python binding (embreex), on one
thread, in the same run.
"""

import json
import sys
import tempfile
import time
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from embreex import rtcore_scene
from embreex.mesh_construction import TriangleMesh

from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.geometry.rays import SceneRays
from texallon.core.render.film.film import Film
from texallon.core.render.render_frame import make_context
from texallon.core.render.scene.scene import Scene
from texallon.core.render.surface.materials import Materials
from texallon.core.render.transport import integrator, shadow_tracing
from texallon.demo.write import write_demo
from texallon.formats.shot_files import ShotFiles

SAMPLES = 6


def raw_scene(scene: Scene) -> Any:
    """All objects as one mesh in the world."""
    vertices, faces, start = [], [], 0
    for mesh, matrix in zip(scene.meshes, scene.geometry.matrix, strict=True):
        vertices.append(mesh.vertices @ matrix[:, :3].T + matrix[:, 3])
        faces.append(mesh.faces + start)
        start += len(mesh.vertices)
    raw = rtcore_scene.EmbreeScene(robust=True)
    TriangleMesh(raw, np.concatenate(vertices).astype(np.float32), np.concatenate(faces).astype(np.int32))
    return raw


def measure(folder: Path, name: str) -> None:
    shot = resolve(read_shot(json.loads((folder / f"{name}.json").read_text())))
    context = make_context(shot, ShotFiles(root=folder), 640, 360)
    spent: dict[str, float] = defaultdict(float)
    asked: list[tuple[np.ndarray, np.ndarray]] = []
    recording = [False]

    def timed(what: str, original: Callable[..., Any], counts: bool = False) -> Callable[..., Any]:
        def run(*arguments: Any) -> Any:
            started = time.perf_counter()
            result = original(*arguments)
            spent[what] += time.perf_counter() - started
            if counts and recording[0]:
                asked.append((arguments[1].T.copy(), arguments[2].T.copy()))
            return result

        return run

    originals = (
        SceneRays.nearest,
        SceneRays.blocked,
        Materials.rows,
        integrator.scatter,
        shadow_tracing.attenuate_at_boundaries,
    )
    film = Film(640, 360, len(context.lights.names))
    film.add_sample(context)
    SceneRays.nearest = timed("rays", originals[0], True)  # type: ignore[method-assign]
    SceneRays.blocked = timed("rays", originals[1], True)  # type: ignore[method-assign]
    Materials.rows = timed("plans", originals[2])  # type: ignore[method-assign]
    integrator.scatter = timed("scattering", originals[3])  # type: ignore[assignment]
    shadow_tracing.attenuate_at_boundaries = timed("scattering", originals[4])  # type: ignore[assignment]
    recording[0] = True
    film.add_sample(context)
    recording[0] = False
    spent.clear()
    raw = raw_scene(context.scene)
    frames, bare = [], []
    try:
        for _ in range(SAMPLES):
            started = time.perf_counter()
            film.add_sample(context)
            frames.append(time.perf_counter() - started)
            started = time.perf_counter()
            for origin, way in asked:
                raw.run(origin, way, output=True)
            bare.append(time.perf_counter() - started)
    finally:
        SceneRays.nearest, SceneRays.blocked, Materials.rows = originals[:3]  # type: ignore[method-assign]
        integrator.scatter, shadow_tracing.attenuate_at_boundaries = originals[3:]
    total, rays = sum(frames), sum(len(origin) for origin, _ in asked)
    print(
        f"{name}: one 640×360 sample on one thread {np.median(frames):.2f} s, {640 * 360 / np.median(frames) / 1e3:.0f} k samples/s, "
        f"{rays / np.median(frames) / 1e6:.2f} Mray/s; the bare library takes {np.median(bare):.2f} s for its {rays / 1e6:.2f} M rays, "
        f"so the whole takes {np.median(np.array(frames) / np.array(bare)):.1f} times as long"
    )
    for what in ("rays", "plans", "scattering"):
        print(f"  {what:<11} {spent[what] / total:5.0%}")
    print(f"  {'the rest':<11} {1 - sum(spent.values()) / total:5.0%}")


def main() -> None:
    folder = Path(tempfile.mkdtemp())
    write_demo(folder)
    for name in sys.argv[1:] or ["GH010", "GH100"]:
        measure(folder, name)


if __name__ == "__main__":
    main()
