"""The renderer's intersection stage against plain calls of the ray-tracing library: `python -m bench.rays`.

The same rays, in turn, in one run on one thread: the demo's basin and floor as the renderer holds them (instances, every
hit written out as arrays), and joined into one mesh for the library's own Python binding (embreex), hits written likewise.
"""

import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from embreex import rtcore_scene
from embreex.mesh_construction import TriangleMesh

from texallon.core.geometry.rays import MeshRays, SceneRays
from texallon.demo.basin import stone_basin
from texallon.demo.flagstones import flagstones

COUNT, RUNS = 400_000, 9


def rays(coherent: bool) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(0)
    if coherent:
        origin = np.tile([[1.4], [1.9], [2.4]], (1, COUNT))
        x, y = np.meshgrid(np.linspace(-0.9, 0.9, 800), np.linspace(-0.5, 0.5, 500))
        target = np.stack([x.ravel(), 0.5 + y.ravel(), -x.ravel() * 0.2])
    else:
        origin = rng.uniform(-2, 2, (3, COUNT))
        origin[1] = rng.uniform(0.02, 1.5, COUNT)
        target = origin + rng.normal(size=(3, COUNT))
    way = target - origin
    way /= np.linalg.norm(way, axis=0)
    return np.ascontiguousarray(origin, np.float32), np.ascontiguousarray(way, np.float32)


def main() -> None:
    meshes = [stone_basin(), flagstones()]
    here = np.eye(4, dtype=np.float32)[:3]
    ours = SceneRays([(MeshRays(mesh.vertices, mesh.faces), here, 1) for mesh in meshes])
    raw = rtcore_scene.EmbreeScene(robust=True)
    start = len(meshes[0].vertices)
    vertices = np.concatenate([mesh.vertices for mesh in meshes])
    TriangleMesh(raw, vertices, np.concatenate([meshes[0].faces, meshes[1].faces + start]))
    near = np.zeros(COUNT, np.float32)
    for name in ("coherent", "incoherent"):
        origin, way = rays(name == "coherent")
        rows = np.ascontiguousarray(origin.T), np.ascontiguousarray(way.T)
        times = []
        for _ in range(RUNS + 1):
            a = time.perf_counter()
            hits = ours.nearest(origin, way, near)
            b = time.perf_counter()
            found = raw.run(*rows, output=True)
            times.append((b - a, time.perf_counter() - b))
        agree = ((hits.instance >= 0) == (found["geomID"] >= 0)).mean()
        measured = np.array(times[1:])
        rate = COUNT / np.median(measured, axis=0) / 1e6
        share = np.median(measured[:, 1] / measured[:, 0])
        print(
            f"{name:<11} texallon {rate[0]:5.2f}   embreex {rate[1]:5.2f} Mray/s   share {share:5.0%}   (hits agree {agree:.3%})"
        )
        with ThreadPoolExecutor(2) as pool:
            a = time.perf_counter()
            half = COUNT // 2
            parts = [
                (np.ascontiguousarray(origin[:, s]), np.ascontiguousarray(way[:, s]), near[s])
                for s in (slice(0, half), slice(half, None))
            ]
            list(pool.map(lambda part: ours.nearest(*part), parts))
            print(f"{name:<11} two threads {COUNT / (time.perf_counter() - a) / 1e6:5.2f} Mray/s")


if __name__ == "__main__":
    main()
