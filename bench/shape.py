"""What masks read from geometry, beside what others take for it: `python -m bench.shape`.

Curvature against libigl's principal curvatures (quadrics over three rings) on an uneven torus; occlusion's rays against the same number of rays from
the same places and directions through the plain kernel.
"""

import time
from collections.abc import Callable
from functools import partial

import igl
import numpy as np
import trimesh

from texallon.core.geometry.bake_geometry import BakeGeometry
from texallon.core.geometry.bending import WAYS, Bodies, Felt, fill_bending
from texallon.core.geometry.displaced import Bounds, at_rest, displaced, look_heights
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.geometry.rays import OPAQUE, MeshRays, find_blocked
from texallon.core.geometry.subdivide import subdivided
from texallon.core.points.curvature import Curvature
from texallon.core.points.occlusion import RAYS, Occlusion


def torus(count: int) -> Mesh:
    """Of about so many vertices, unevenly spaced."""
    random = np.random.default_rng(3)
    n, m = int((count / 0.35) ** 0.5), int((count * 0.35) ** 0.5)
    u, v = np.meshgrid(
        np.linspace(0, 2 * np.pi, n, endpoint=False), np.linspace(0, 2 * np.pi, m, endpoint=False), indexing="ij"
    )
    u = u + random.uniform(-0.3, 0.3, u.shape) * 2 * np.pi / n
    v = v + random.uniform(-0.3, 0.3, v.shape) * 2 * np.pi / m
    wide = 1 + 0.35 * np.cos(v)
    places = np.stack([wide * np.cos(u), 0.35 * np.sin(v), -wide * np.sin(u)], 2).reshape(-1, 3)
    i, j = np.arange(n)[:, None], np.arange(m)[None]
    a, b, c, d = (((i + x) % n) * m + (j + y) % m for x, y in ((0, 0), (1, 0), (1, 1), (0, 1)))
    return make_mesh(places, np.concatenate([np.stack(f, 2).reshape(-1, 3) for f in ((a, b, c), (a, c, d))]))


def timed(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def curvature(count: int) -> None:
    mesh = torus(count)
    bakes = [Curvature("0.01").bake, Curvature("0.05").bake]
    own = [timed(partial(bake, mesh)) for bake in bakes]
    corners, faces = mesh.vertices.astype(np.float64), mesh.faces.astype(np.int64)
    theirs = timed(partial(igl.principal_curvature, corners, faces, radius=3))
    print(
        f"curvature, {len(mesh.vertices):,} vertices: {own[0]:.2f} s at 1 cm, {own[1]:.2f} s at 5 cm; "
        f"libigl {theirs:.2f} s ({theirs / max(own):.1f} times as long)"
    )


def displacement() -> None:
    """A million faces and more: divided, displaced, and put into a search structure."""
    ball = trimesh.creation.icosphere(5)
    mesh = make_mesh(ball.vertices, ball.faces)
    theirs = timed(partial(igl.upsample, ball.vertices, ball.faces.astype(np.int64), 3))
    for scheme in ("midpoint", "catmull-clark"):
        made: list[Mesh] = []
        divided = timed(lambda: made.append(subdivided(mesh, scheme, 3, 180.0)))  # noqa: B023
        height = np.full((1, len(made[0].vertices)), 0.1, np.float32)
        heights = (look_heights((0,), height, None),)
        eye = np.eye(3, dtype=np.float32)
        bounds = Bounds(0.0, 1.0, False)
        moved = timed(lambda: made.append(displaced(made[0], at_rest(made[0], eye), heights, eye, bounds, 180.0)))  # noqa: B023
        tree = timed(lambda: MeshRays(made[1].vertices, made[1].faces))  # noqa: B023
        faces = len(made[0].faces)
        held = sum(
            each.nbytes for each in (made[1].vertices, made[1].faces, made[1].normals, *made[1].attributes.values())
        )
        print(
            f"displacement, {scheme}, {faces:,} faces: divided {divided:.2f} s, displaced {moved:.2f} s, searched {tree:.2f} s; "
            f"{held / faces:.0f} bytes a face; libigl divides in {theirs:.2f} s"
        )


def by_rays(mesh: Mesh, plain: float) -> None:
    """Curvature felt out about a point: 33 rays and more for each, beside as many of the plain kernel's."""
    rays = MeshRays(mesh.vertices, mesh.faces)
    here = np.eye(4, dtype=np.float32)[None, :3]
    first = np.zeros(1, np.int32)
    bodies = Bodies(np.array([rays.handle]), mesh.vertices, mesh.normals, mesh.faces, first, here)
    some = slice(0, 20_000)
    place, normal = (np.ascontiguousarray(each[some].T) for each in (mesh.vertices, mesh.normals))
    felt, out = (
        Felt(place, normal, np.zeros(20_000, np.int32), np.full(20_000, 1e-5, np.float32)),
        np.empty(20_000, np.float32),
    )
    fill_bending(bodies, felt, np.float32(0.05), out)
    taken = timed(lambda: fill_bending(bodies, felt, np.float32(0.05), out))
    rate = 20_000 * (2 * WAYS + 1) / taken / 1e6
    print(
        f"curvature by rays, one thread: {20_000 / taken:,.0f} points/s, {rate:.2f} M rays/s; plain kernel {plain:.2f} M rays/s"
    )


def main() -> None:
    displacement()
    curvature(100_000)
    curvature(1_000_000)
    mesh = torus(100_000)
    geometry = BakeGeometry(mesh, threads=1)
    bake = Occlusion("0.3,180,outwards").bake
    bake(geometry)  # type: ignore[arg-type]
    taken = timed(lambda: bake(geometry))  # type: ignore[arg-type]
    rays = len(mesh.vertices) * RAYS
    some = slice(0, 20_000)
    lifted = np.ascontiguousarray((mesh.vertices[some] + 1e-5 * mesh.normals[some]).T)
    aside = np.ascontiguousarray(mesh.normals[some].T)
    near, far = np.zeros(20_000, np.float32), np.full(20_000, 0.3, np.float32)
    found = np.empty(20_000, np.int32)
    find_blocked(geometry._rays.handle, lifted, aside, near, far, OPAQUE, found)
    plain = timed(
        lambda: [find_blocked(geometry._rays.handle, lifted, aside, near, far, OPAQUE, found) for _ in range(40)]
    )
    print(
        f"occlusion, {len(mesh.vertices):,} vertices × {RAYS} rays on one thread: {taken:.2f} s, "
        f"{rays / taken / 1e6:.2f} M rays/s; plain kernel along the normals {40 * 20_000 / plain / 1e6:.2f} M rays/s"
    )
    by_rays(mesh, 40 * 20_000 / plain / 1e6)


if __name__ == "__main__":
    main()
