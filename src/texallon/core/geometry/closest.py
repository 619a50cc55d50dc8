"""How far points lie from a surface: the ray library's point queries, with a callback that is compiled too."""

from collections.abc import Sequence
from functools import cache, cached_property
from threading import Lock
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt
from numba import cfunc, types
from scipy.spatial import KDTree

from texallon.core.derived import Cost, derived
from texallon.core.geometry.embree import point_query
from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.core.geometry.peek import FACE, QUERY, RADIUS, USER, address_at, float_at, put_float, word_at
from texallon.core.geometry.rays import OPAQUE, Hits, MeshRays, Rays, find_nearest
from texallon.core.kernel import Array, Float, allocating

CONTEXT = 32
"""Bytes of a query, after which its context may stand (RTCPointQueryContext, on a multiple of 16)."""

INSTANCE, DEPTH = CONTEXT + 128, CONTEXT + 136
"""Where in a context the stack of instances stands, after two matrices of 64 bytes, and how deep it is."""

OURS = CONTEXT + 144
"""After a context: the addresses of vertices and faces, which the callback is handed."""


def _nearer(given: int) -> bool:
    """Whether a triangle is nearer than what was found so far: then it bounds what is looked for.

    The nearest point of a triangle: C. Ericson, Real-Time Collision Detection, 2005, 5.1.5.
    """
    query, user = address_at(given + QUERY), address_at(given + USER)
    vertices, faces = address_at(user), address_at(user + 8)
    face = faces + 12 * np.int64(word_at(given + FACE))
    a, b, c = (
        vertices + 12 * np.int64(word_at(face)),
        vertices + 12 * np.int64(word_at(face + 4)),
        vertices + 12 * np.int64(word_at(face + 8)),
    )
    px, py, pz = np.float64(float_at(query)), np.float64(float_at(query + 4)), np.float64(float_at(query + 8))
    ax, ay, az = float_at(a) - px, float_at(a + 4) - py, float_at(a + 8) - pz
    ux, uy, uz = float_at(b) - px - ax, float_at(b + 4) - py - ay, float_at(b + 8) - pz - az
    vx, vy, vz = float_at(c) - px - ax, float_at(c + 4) - py - ay, float_at(c + 8) - pz - az
    d1, d2 = -(ux * ax + uy * ay + uz * az), -(vx * ax + vy * ay + vz * az)
    uu, uv, vv = ux * ux + uy * uy + uz * uz, ux * vx + uy * vy + uz * vz, vx * vx + vy * vy + vz * vz
    d3, d4, d5, d6 = d1 - uu, d2 - uv, d1 - uv, d2 - vv
    s, t = 0.0, 0.0
    if d1 <= 0 and d2 <= 0:
        pass
    elif d3 >= 0 and d4 <= d3:
        s = 1.0
    elif d6 >= 0 and d5 <= d6:
        t = 1.0
    elif d1 * d4 - d3 * d2 <= 0 and d1 >= 0 and d3 <= 0:
        s = d1 / (d1 - d3)
    elif d5 * d2 - d1 * d6 <= 0 and d2 >= 0 and d6 <= 0:
        t = d2 / (d2 - d6)
    elif d3 * d6 - d5 * d4 <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        t = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        s = 1.0 - t
    else:
        whole = d1 * d4 - d3 * d2 + (d5 * d2 - d1 * d6) + (d3 * d6 - d5 * d4)
        s, t = (d5 * d2 - d1 * d6) / whole, (d1 * d4 - d3 * d2) / whole
    x, y, z = ax + s * ux + t * vx, ay + s * uy + t * vy, az + s * uz + t * vz
    apart = np.float32(np.sqrt(x * x + y * y + z * z))
    if apart < float_at(query + RADIUS):
        put_float(query + RADIUS, apart)
        return True
    return False


def _nearer_edge(given: int) -> bool:
    """As `_nearer`, of the sides of a triangle."""
    query, user = address_at(given + QUERY), address_at(given + USER)
    vertices, faces = address_at(user), address_at(user + 8)
    face = faces + 12 * np.int64(word_at(given + FACE))
    px, py, pz = np.float64(float_at(query)), np.float64(float_at(query + 4)), np.float64(float_at(query + 8))
    least = np.float64(float_at(query + RADIUS)) ** 2
    found = False
    for side in range(3):
        a = vertices + 12 * np.int64(word_at(face + 4 * side))
        b = vertices + 12 * np.int64(word_at(face + 4 * ((side + 1) % 3)))
        ax, ay, az = float_at(a) - px, float_at(a + 4) - py, float_at(a + 8) - pz
        ux, uy, uz = float_at(b) - px - ax, float_at(b + 4) - py - ay, float_at(b + 8) - pz - az
        along = -(ux * ax + uy * ay + uz * az) / max(ux * ux + uy * uy + uz * uz, 1e-300)
        along = min(max(along, 0.0), 1.0)
        x, y, z = ax + along * ux, ay + along * uy, az + along * uz
        apart = x * x + y * y + z * z
        if apart < least:
            least, found = apart, True
    if found:
        put_float(query + RADIUS, np.float32(np.sqrt(least)))
    return found


_compiling = Lock()


@cache
def _compiled(edges: bool) -> Any:
    return cfunc(types.boolean(types.int64), cache=True, error_model="numpy")(_nearer_edge if edges else _nearer)


def callback(edges: bool = False) -> int:
    """The address of a compiled callback, for as long as the process lives; not compiled before anything is measured.

    Parameters
    ----------
    edges : bool
        Whether it measures from the sides of triangles, rather than from all of them.
    """
    with _compiling:
        return int(_compiled(edges).address)


@allocating
def fill_distance(
    scene: int, callback: int, vertices: int, faces: int, position: Array, far: Float, out: Array
) -> None:
    """Distances from a surface, none greater than `far`.

    Parameters
    ----------
    scene : int
        Handle of the search structure.
    callback, vertices, faces : int
        Addresses of the callback, and of the surface's arrays.
    position : Array
        `(3, n)`.
    far : float
        Metres; what lies farther gets this.
    out : Array
        `(n,)` metres, filled.
    """
    # One piece of memory for the query, its context and what the callback reads, on a multiple of 16 bytes.
    memory = np.zeros(64, np.float32)
    start = ((-memory.ctypes.data) % 16) // 4
    query = memory[start : start + (OURS + 16) // 4]
    words, longs, at = query.view(np.uint32), query.view(np.int64), query.ctypes.data
    longs[OURS // 8], longs[OURS // 8 + 1] = vertices, faces
    words[INSTANCE // 4], words[INSTANCE // 4 + 1] = 0xFFFFFFFF, 0xFFFFFFFF
    for i in range(out.shape[0]):
        query[0], query[1], query[2], query[3] = position[0, i], position[1, i], position[2, i], np.float32(0)
        query[RADIUS // 4] = far
        words[DEPTH // 4] = 0
        point_query(scene, at, at + CONTEXT, callback, at + OURS)
        out[i] = query[RADIUS // 4]


WAYS = np.array([[0.267, 0.535, 0.802], [-0.811, 0.324, 0.487], [0.228, -0.911, -0.342]], np.float32)
"""Of rays that leave a point: along no axis, as walls stand along those."""

MOST_CROSSINGS = 256
"""Of one ray: a surface that is crossed oftener is no body."""


MOST_MEASURED = 4_000_000
"""Faces of one object and its copies that are measured from."""


class Measurable(Protocol):
    """What distances are measured from."""

    @property
    def nbytes(self) -> int:
        """About what it takes in memory."""

    def distance(self, position: Array, far: float, part: str = "surface") -> Array:
        """How far points lie from it, at most `far`.

        Parameters
        ----------
        position : Array
            `(3, n)` in the world, metres.
        far : float
            Metres.
        part : str
            `surface`, `edges`, `points`, or `signed`: below 0, at least −`far`, inside of a closed surface.

        Returns
        -------
        Array
            `(n,)` metres.
        """


class PlacedSurface(Measurable):
    """A mesh in every place where it stands, to measure from.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    matrices : Array
        `(k, 3, 4)` or `(3, 4)` into the world.
    """

    def __init__(self, mesh: Mesh, matrices: Array) -> None:
        rows = np.asarray(matrices, np.float64).reshape(-1, 3, 4)
        if len(rows) * len(mesh.faces) > MOST_MEASURED:
            raise MeshError(
                f"{len(rows):,} copies of {len(mesh.faces):,} faces are too many to measure from; at most {MOST_MEASURED:,} faces are"
            )
        placed = mesh.vertices.astype(np.float64) @ rows[:, :, :3].transpose(0, 2, 1) + rows[:, None, :, 3]
        faces = mesh.faces + (np.arange(len(rows)) * len(mesh.vertices))[:, None, None]
        self.rays = MeshRays(
            np.ascontiguousarray(placed.reshape(-1, 3), np.float32), faces.reshape(-1, 3).astype(np.int32)
        )

    @property
    def nbytes(self) -> int:
        """About what it takes in memory."""
        return self.rays.nbytes

    @cached_property
    def _tree(self) -> KDTree:
        return KDTree(self.rays.vertices)

    def distance(self, position: Array, far: float, part: str = "surface") -> Array:
        """How far points lie from it, at most `far`.

        Parameters
        ----------
        position : Array
            `(3, n)` in the world, metres.
        far : float
            Metres.
        part : str
            `surface`, `edges`, `points`, or `signed`: below 0, at least −`far`, inside of a closed surface.

        Returns
        -------
        Array
            `(n,)` metres.
        """
        places = np.ascontiguousarray(position, np.float32)
        if part == "points":
            there = np.isfinite(places).all(axis=0)
            away: Array = np.full(places.shape[1], far, np.float32)
            away[there] = np.minimum(self._tree.query(places.T[there], distance_upper_bound=far)[0], far)
            return away
        out = np.empty(places.shape[1], np.float32)
        vertices, faces = self.rays.addresses
        fill_distance(self.rays.handle, callback(part == "edges"), vertices, faces, places, np.float32(far), out)
        if part == "signed":
            out[self.inside(places)] *= np.float32(-1)
        return out

    def inside(self, position: Array) -> npt.NDArray[np.bool_]:
        """Which points lie within a closed surface: those from which most of three rays leave through it once more than they enter.

        Parameters
        ----------
        position : Array
            `(3, n)` in the world, metres.

        Returns
        -------
        Array
            `(n,)`.

        References
        ----------
        The parity of crossings: E. Haines, "Point in Polygon Strategies", Graphics Gems IV (1994); three rays, as one may run along an edge.
        """
        odd = np.zeros(position.shape[1], np.int32)
        for way in WAYS:
            odd += self._crossings(np.ascontiguousarray(position, np.float32), way) % 2
        return odd >= 2

    def _crossings(self, position: Array, way: Array) -> npt.NDArray[np.int32]:
        count = np.zeros(position.shape[1], np.int32)
        here, near = np.arange(position.shape[1]), np.zeros(position.shape[1], np.float32)
        for _ in range(MOST_CROSSINGS):
            hits = Hits.empty(len(here))
            along = np.ascontiguousarray(np.broadcast_to(way[:, None], (3, len(here))))
            find_nearest(self.rays.table, Rays(np.ascontiguousarray(position[:, here]), along, near), OPAQUE, hits)
            met = hits.face >= 0
            if not met.any():
                break
            here, near = here[met], hits.distance[met] * np.float32(1 + 1e-6) + np.float32(1e-7)
            count[here] += 1
        return count


def nearest_of(surfaces: Sequence[Measurable], position: Array, most: float, part: str = "surface") -> Array:
    """How far points lie from the nearest of some surfaces, at most `most`.

    Parameters
    ----------
    surfaces : sequence of Measurable
        None at all are infinitely far.
    position : Array
        `(3, n)` in the world, metres.
    most : float
        Metres.
    part : str
        As of `PlacedSurface.distance`.

    Returns
    -------
    Array
        `(n,)` metres.
    """
    out = np.full(position.shape[1], most, np.float32)
    for each in surfaces:
        np.minimum(out, each.distance(position, most, part), out=out)
    return out


@derived("surface to measure from", cost=Cost.SLOW)
def placed_surface(mesh: Mesh, matrices: Array) -> PlacedSurface:
    """A mesh in every place where it stands, to measure from.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    matrices : Array
        `(k, 3, 4)` into the world.
    """
    return PlacedSurface(mesh, matrices)
