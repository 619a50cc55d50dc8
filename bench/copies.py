"""Copies and particles: how long they take to make, what they take in memory, and how fast rays and distances are.

    python -m bench.copies

Prints: 200 000 copies of one mesh scattered on a ground; rays against a flat mesh of the same faces, in one run; particles as spheres; distances
from 100 000 particles against SciPy's k-d tree, in one run.
"""

import ctypes
import os
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
from scipy.spatial import cKDTree
from trimesh.creation import icosphere

from texallon.core.document.array import SurfaceArray
from texallon.core.geometry.closest import placed_surface
from texallon.core.geometry.copies import surface_copies
from texallon.core.geometry.mesh import Mesh, make_mesh, make_points
from texallon.core.geometry.nearest_ball import PlacedBalls
from texallon.core.geometry.particles import particles_of
from texallon.core.geometry.rays import OPAQUE, MeshRays, Placed, SceneRays, SphereRays
from texallon.core.geometry.scatter import scattered
from texallon.core.geometry.skin import skinned

COUNT = 400_000
HERE = np.eye(4, dtype=np.float32)[None, :3]


def seconds(work: Callable[[], object], times: int = 3) -> float:
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    return float(np.median(found))


def resident() -> int:
    """Bytes of memory that the process holds, what it has freed given back."""
    ctypes.CDLL(None).malloc_trim(0)
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def ground(cells: int, size: float) -> Mesh:
    x, z = (each.ravel() for each in np.meshgrid(*[np.linspace(0, size, cells + 1)] * 2, indexing="ij"))
    at = np.arange((cells + 1) ** 2).reshape(cells + 1, cells + 1)
    a, b, c, d = at[:-1, :-1].ravel(), at[:-1, 1:].ravel(), at[1:, 1:].ravel(), at[1:, :-1].ravel()
    return make_mesh(np.stack([x, 0 * x, z], 1), np.concatenate([np.stack([a, b, c], 1), np.stack([a, c, d], 1)]))


def rays(size: float, seed: int = 0) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    origin = rng.uniform(0, size, (3, COUNT))
    origin[1] = 0.1 * size
    way = rng.uniform(0, size, (3, COUNT))
    way[1] = 0
    way -= origin
    way /= np.linalg.norm(way, axis=0)
    return (
        np.ascontiguousarray(origin, np.float32), np.ascontiguousarray(way, np.float32), np.zeros(COUNT, np.float32),
    )  # fmt: skip


def copies() -> None:
    plane, array = ground(100, 10.0), SurfaceArray(along="surface", object="g", apart=0.0175, most=200_000)
    scattered(ground(2, 1.0), HERE[0, :, :3], 0.3, 10, 1)
    begun = time.perf_counter()
    points = scattered(plane, HERE[0, :, :3], array.apart, array.most, 1)
    laid = time.perf_counter()
    made = surface_copies(plane, points, HERE[0], array)
    matrices = np.ascontiguousarray(made.frames[:, :3] * 1.0, np.float32)
    matrices[:, :, :3] *= np.float32(0.006)
    placed = time.perf_counter()
    body = icosphere(subdivisions=3)
    structure = MeshRays(np.asarray(body.vertices, np.float32), np.asarray(body.faces, np.int32))
    built = time.perf_counter()
    before = resident()
    scene = SceneRays([Placed(structure, matrices, OPAQUE)])
    done = time.perf_counter()
    taken = (resident() - before) / len(matrices)
    print(
        f"{len(matrices):,} copies of {len(body.faces):,} faces: laid {laid - begun:.1f} s, placed {placed - laid:.2f} s, "
        f"searchable {done - built:.2f} s; {taken:.0f} bytes of memory a copy in the library, {matrices.nbytes // len(matrices)} of matrices"
    )
    some = matrices[:1500].copy()
    some[:, :, :3] *= 15  # so large that most rays meet one
    flat = (body.vertices @ some[:, :, :3].transpose(0, 2, 1) + some[:, None, :, 3]).reshape(-1, 3)
    faces = (body.faces + (np.arange(len(some)) * len(body.vertices))[:, None, None]).reshape(-1, 3)
    one = SceneRays([Placed(MeshRays(flat.astype(np.float32), faces.astype(np.int32)), HERE, OPAQUE)])
    few = SceneRays([Placed(structure, some, OPAQUE)])
    given = rays(10.0)
    whole, copied, single = (seconds(lambda each=each: each.nearest(*given)) for each in (scene, few, one))
    print(f"  rays, all copies       {COUNT / whole / 1e6:5.2f} Mray/s")
    print(
        f"  rays, 1 500 copies     {COUNT / copied / 1e6:5.2f} Mray/s, one flat mesh of the same {len(faces):,} faces "
        f"{COUNT / single / 1e6:5.2f}: {single / copied:.0%}"
    )


def particles() -> None:
    rng = np.random.default_rng(1)
    for count in (100_000, 1_000_000):
        centres = rng.uniform(0, 10, (count, 3)).astype(np.float32)
        centres[:, 1] *= 0.05
        radii = np.full(count, 0.3 / count ** (1 / 3), np.float32)
        begun = time.perf_counter()
        spheres = SphereRays(centres, radii)
        took = time.perf_counter() - begun
        scene = SceneRays([Placed(spheres, HERE, OPAQUE)])
        rate = COUNT / seconds(partial(scene.nearest, *rays(10.0))) / 1e6
        print(f"{count:,} particles as spheres: searchable {took:.2f} s, {rate:.2f} Mray/s")
    cloud = particles_of(
        make_points(rng.normal(0, 0.3, (20_000, 3)), {"radius": rng.uniform(0.01, 0.02, 20_000)}), 1.0, "radius", 1.0
    )
    begun = time.perf_counter()
    made = skinned(cloud, 0.02, 0.009)
    print(f"a skin around 20,000 particles: {time.perf_counter() - begun:.1f} s, {len(made.faces):,} faces")


def distances() -> None:
    rng = np.random.default_rng(2)
    even = rng.uniform(0, 1, (100_000, 3))
    clusters = rng.normal(0, 0.004, (100_000, 3)) + rng.uniform(0, 1, (60, 3))[rng.integers(0, 60, 100_000)]
    surface = even.copy()
    surface[:, 1] = 0.5 + 0.02 * np.sin(9 * surface[:, 0])
    at = np.ascontiguousarray(rng.uniform(0, 1, (3, 1_000_000)), np.float32)
    at[1] = 0.5 + 0.02 * rng.normal(size=at.shape[1])
    for name, centres in (("even", even), ("on a sheet", surface), ("in clusters", clusters)):
        for far in (0.05, 1.0):
            balls = PlacedBalls(centres.astype(np.float32), np.zeros(len(centres), np.float32))
            balls.distance(at[:, :1000].copy(), far)
            tree = cKDTree(centres)
            ours = seconds(lambda balls=balls, far=far: balls.distance(at, far), 1)
            theirs = seconds(lambda tree=tree, far=far: tree.query(at.T, distance_upper_bound=far), 1)
            print(
                f"distance from 100,000 particles {name:<11} up to {far:<4g} m: a million points in {ours:5.2f} s, SciPy's tree {theirs:5.2f} s: "
                f"{theirs / ours:.1f} ×"
            )
    row = np.tile(HERE[0], (200, 1, 1))
    row[:, 0, 3] = np.linspace(0, 1, 200)
    body = icosphere(subdivisions=3, radius=0.002)
    mesh = make_mesh(body.vertices, body.faces, body.vertices)
    begun = time.perf_counter()
    found = placed_surface(mesh, row)
    built = time.perf_counter()
    found.distance(at[:, :100_000].copy(), 0.05)
    print(
        f"200 copies of 1,280 faces to measure from: {built - begun:.2f} s, then {0.1 / (time.perf_counter() - built):.2f} million points a second"
    )


def main() -> None:
    copies()
    particles()
    distances()


if __name__ == "__main__":
    main()
