"""A mesh as kinds of point data see it that are baked: its arrays, and rays against itself."""

import os
from concurrent.futures import ThreadPoolExecutor
from functools import cached_property

import numpy as np

from texallon.core.derived import checkpoint
from texallon.core.geometry.embree import occluded_one
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.rays import MeshRays, aim
from texallon.core.kernel import Array, Float, Integers, allocating

CHUNK = 2048
"""Vertices that one thread takes at a time."""

LIFT = 64 * 2.0**-24
"""How far above the surface rays begin, in sizes of the largest coordinate: a few roundings, so that they do not meet where they come from."""


class BakeGeometry:
    """Implements `points.VertexGeometry`.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    threads : int, optional
        That trace rays; as many as there are processors unless given.
    """

    def __init__(self, mesh: Mesh, threads: int | None = None) -> None:
        self._mesh, self._threads = mesh, threads or len(os.sched_getaffinity(0))

    @property
    def vertices(self) -> Array:
        return self._mesh.vertices

    @property
    def normals(self) -> Array:
        return self._mesh.normals

    @property
    def faces(self) -> Integers:
        return self._mesh.faces

    @cached_property
    def _rays(self) -> MeshRays:
        return MeshRays(self.vertices, self.faces)

    def blocked_share(self, places: Array, axes: Array, fan: Array, far: float) -> Array:
        """How much of a fan of rays meets the mesh, from each of some places.

        Parameters
        ----------
        places : Array
            `(3, n)` in the mesh's space, on its surface.
        axes : Array
            `(3, n)` unit vectors that the fan lies about.
        fan : Array
            `(3, k)` unit vectors about z, each counting the same.
        far : float
            Metres, beyond which nothing blocks.

        Returns
        -------
        Array
            `(n,)` of 0…1.
        """
        count = places.shape[1]
        out = np.empty(count, np.float32)
        handle, lift = self._rays.handle, np.float32(LIFT * float(np.abs(self.vertices).max(initial=0.0)))

        check = checkpoint()

        def some(start: int) -> None:
            check()
            part = slice(start, min(start + CHUNK, count))
            fill_blocked_share(
                handle, np.ascontiguousarray(places[:, part]), np.ascontiguousarray(axes[:, part]), fan, np.float32(far), lift, out[part]
            )  # fmt: skip

        with ThreadPoolExecutor(self._threads) as pool:
            list(pool.map(some, range(0, count, CHUNK)))
        return out


@allocating
def fill_blocked_share(scene: int, places: Array, axes: Array, fan: Array, far: Float, lift: Float, out: Array) -> None:
    """The share of a fan's rays that meet something (see `BakeGeometry.blocked_share`).

    Parameters
    ----------
    scene : int
        Handle of the acceleration structure.
    places : Array
        `(3, n)`.
    axes : Array
        `(3, n)` unit vectors.
    fan : Array
        `(3, k)` about z.
    far : float
        Metres.
    lift : float
        Metres along the axis from which rays begin.
    out : Array
        `(n,)`, filled.
    """
    store = np.empty(48, np.float32)
    first = ((-store.ctypes.data) % 64) // 4
    ray = store[first : first + 24]
    bits = ray.view(np.uint32)
    at = ray.ctypes.data
    one, count = np.float32(1), fan.shape[1]
    for i in range(out.shape[0]):
        x, y, z = axes[0, i], axes[1, i], axes[2, i]
        # A frame without a branch (T. Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6, 2017).
        sign = one if z >= np.float32(0) else -one
        a = -one / (sign + z)
        b = x * y * a
        ux, uy, uz = one + sign * x * x * a, sign * b, -sign * x
        vx, vy, vz = b, sign + y * y * a, -y
        blocked = 0
        for k in range(count):
            s, t, w = fan[0, k], fan[1, k], fan[2, k]
            aim(
                ray, bits, i, 1, places[0, i] + lift * x, places[1, i] + lift * y, places[2, i] + lift * z,
                s * ux + t * vx + w * x, s * uy + t * vy + w * y, s * uz + t * vz + w * z, np.float32(0), far,
            )  # fmt: skip
            occluded_one(scene, at, 0)
            blocked += 1 if ray[8] < np.float32(0) else 0
        out[i] = np.float32(blocked) / np.float32(count)
