"""How far points lie from the nearest of many balls: by cells where the balls lie evenly, else by the ray library's tree."""

from functools import cache
from threading import Lock
from typing import Any, NamedTuple

import numpy as np
from numba import cfunc, types

from texallon.core.derived import Cost, derived
from texallon.core.geometry.closest import CONTEXT, DEPTH, INSTANCE, OURS, Measurable
from texallon.core.geometry.embree import point_query
from texallon.core.geometry.particles import Particles
from texallon.core.geometry.peek import FACE, QUERY, RADIUS, USER, address_at, float_at, put_float, word_at
from texallon.core.geometry.rays import MeshRays
from texallon.core.kernel import Array, Float, Int, Integers, allocating
from texallon.core.ops.points import Matrix

EVEN = 0.15
"""Balls lie evenly where so great a part of the cells holds one; below it cells far from all balls are many (chosen, not measured)."""

PER_CELL = 6.0
"""Balls in a cell, were they even (of 2, 3, 4 and 8 measured: no difference where they are, and a third faster on a sheet)."""


class Cells(NamedTuple):
    """Balls sorted by cells: where these begin, `low (3,)`, their `length`, how many there are along x, y and z, and where the balls of
    each begin in the sorted `balls (k, 4)`, each x, y, z and radius; `widest` of all radii."""

    low: Array
    length: float
    counts: Integers
    starts: Integers
    balls: Array
    widest: float


class PlacedBalls(Measurable):
    """Particles where they stand, to measure from.

    Parameters
    ----------
    centres : Array
        `(k, 3)` in the world, metres.
    radii : Array
        `(k,)` metres.
    """

    def __init__(self, centres: Array, radii: Array) -> None:
        self._balls = np.ascontiguousarray(np.column_stack([centres, radii]), np.float32)
        # The library asks about no spheres here, but about triangles, even those of no size.
        corners = np.tile(np.arange(len(centres), dtype=np.int32)[:, None], (1, 3))
        self._points = MeshRays(np.ascontiguousarray(centres, np.float32), corners)
        self._cells = _in_cells(self._balls)
        filled = np.count_nonzero(np.diff(self._cells.starts))
        self._even = filled >= EVEN * (len(self._cells.starts) - 1)

    @property
    def nbytes(self) -> int:
        """About what it takes in memory."""
        return self._points.nbytes + int(self._cells.balls.nbytes + self._cells.starts.nbytes)

    def distance(self, position: Array, far: float, part: str = "surface") -> Array:
        """How far points lie from the nearest ball, at most `far`.

        Parameters
        ----------
        position : Array
            `(3, n)` in the world, metres.
        far : float
            Metres.
        part : str
            `points` is from their middles; `signed` is below 0 within, at least −`far`; else 0 within.

        Returns
        -------
        Array
            `(n,)` metres.
        """
        out = np.full(position.shape[1], far, np.float32)
        places = np.ascontiguousarray(position, np.float32)
        cells = self._cells
        if part == "points":
            cells = cells._replace(balls=cells.balls * np.array([1, 1, 1, 0], np.float32), widest=0.0)
        if self._even or part == "points":
            nearest_in_cells(cells, places, np.float32(far), out)
        else:
            out = self.by_tree(places, far)
        np.maximum(out, -far if part == "signed" else 0, out=out)
        return out

    def by_tree(self, position: Array, far: float) -> Array:
        """As `distance`, below 0 within, whatever lies best, by the ray library's tree.

        Parameters
        ----------
        position : Array
            `(3, n)` in the world, metres.
        far : float
            Metres.

        Returns
        -------
        Array
            `(n,)` metres.
        """
        out = np.empty(position.shape[1], np.float32)
        given = self._points.handle, callback(), int(self._balls.ctypes.data)
        fill_from_tree(*given, position, np.float32(far), np.float32(self._cells.widest), out)
        return out


def _in_cells(balls: Array) -> Cells:
    if not len(balls):
        return Cells(np.zeros(3, np.float32), 1.0, np.ones(3, np.int32), np.zeros(2, np.int32), balls, 0.0)
    low, high = balls[:, :3].min(axis=0), balls[:, :3].max(axis=0)
    extent = np.maximum(high - low, float((high - low).max()) * 1e-3 + 1e-9).astype(np.float64)
    length = float((extent.prod() * PER_CELL / len(balls)) ** (1 / 3))
    counts = np.maximum(np.ceil(extent / length), 1)
    while counts.prod() > 4 * len(balls) + 64:
        length *= 1.26
        counts = np.maximum(np.ceil(extent / length), 1)
    at = np.minimum(((balls[:, :3] - low) / length).astype(np.int64), counts.astype(np.int64) - 1)
    cell = (at[:, 0] * int(counts[1]) + at[:, 1]) * int(counts[2]) + at[:, 2]
    order = np.argsort(cell, kind="stable")
    starts = np.zeros(int(counts.prod()) + 1, np.int32)
    np.cumsum(np.bincount(cell, minlength=int(counts.prod())), out=starts[1:])
    widest = float(balls[:, 3].max())
    return Cells(low, length, counts.astype(np.int32), starts, np.ascontiguousarray(balls[order]), widest)


@allocating
def nearest_in_cells(cells: Cells, position: Array, far: Float, out: Array) -> None:
    """Distances from the nearest ball, below 0 within one: cells are looked through in rings around each point until none can be nearer.

    Parameters
    ----------
    cells : Cells
        Balls sorted by cells.
    position : Array
        `(3, n)`.
    far : float
        Metres; what lies farther keeps what is there.
    out : Array
        `(n,)` metres, filled.
    """
    nx, ny, nz = np.int64(cells.counts[0]), np.int64(cells.counts[1]), np.int64(cells.counts[2])
    length, starts, balls, widest = cells.length, cells.starts, cells.balls, cells.widest
    beyond = 3 * (nx + ny + nz) + 8 + np.int64(min((far + widest) / length, 1e9))
    for i in range(out.shape[0]):
        x, y, z = position[0, i], position[1, i], position[2, i]
        if not (np.isfinite(x) and np.isfinite(y) and np.isfinite(z)):
            continue
        fx, fy, fz = (x - cells.low[0]) / length, (y - cells.low[1]) / length, (z - cells.low[2]) / length
        if max(abs(fx), abs(fy), abs(fz)) > beyond:
            continue
        a, b, c = np.int64(np.floor(fx)), np.int64(np.floor(fy)), np.int64(np.floor(fz))
        ring: Int = max(0, -a, a - nx + 1, -b, b - ny + 1, -c, c - nz + 1)
        last: Int = max(abs(a), abs(nx - 1 - a), abs(b), abs(ny - 1 - b), abs(c), abs(nz - 1 - c))
        best = out[i]
        # Within its own cell a point has so far to go to the nearest side.
        within = min(fx - a, a + 1 - fx, fy - b, b + 1 - fy, fz - c, c + 1 - fz)
        while ring <= last and (ring - 1 + within) * length - widest <= best:
            reach = (best + widest) / length
            square_reach = reach * reach
            for ca in range(max(a - ring, 0), min(a + ring, nx - 1) + 1):
                ga = max(ca - fx, fx - ca - 1, 0.0)
                for cb in range(max(b - ring, 0), min(b + ring, ny - 1) + 1):
                    gb = max(cb - fy, fy - cb - 1, 0.0)
                    if ga * ga + gb * gb > square_reach:
                        continue
                    # Inside of the ring only its two ends count.
                    step = 1 if ring == 0 or abs(ca - a) == ring or abs(cb - b) == ring else 2 * ring
                    cc = c - ring
                    if cc < 0:  # a point far outside would else count through what holds no cells
                        cc = np.int64(0) if step == 1 else c + ring
                    while cc <= min(c + ring, nz - 1):
                        gc = max(cc - fz, fz - cc - 1, 0.0)
                        if cc >= 0 and ga * ga + gb * gb + gc * gc <= square_reach:
                            cell = (ca * ny + cb) * nz + cc
                            for k in range(starts[cell], starts[cell + 1]):
                                dx, dy, dz = balls[k, 0] - x, balls[k, 1] - y, balls[k, 2] - z
                                near = best + balls[k, 3]
                                square = dx * dx + dy * dy + dz * dz
                                if near > 0 and square < near * near:
                                    best = np.sqrt(square) - balls[k, 3]
                                    reach = (best + widest) / length
                                    square_reach = reach * reach
                        cc += step
            ring += 1
        out[i] = best


def _nearer(given: int) -> bool:
    """Whether a ball is nearer than what was found so far."""
    query, user = address_at(given + QUERY), address_at(given + USER)
    ball = address_at(user) + 16 * np.int64(word_at(given + FACE))
    dx = np.float64(float_at(query)) - float_at(ball)
    dy = np.float64(float_at(query + 4)) - float_at(ball + 4)
    dz = np.float64(float_at(query + 8)) - float_at(ball + 8)
    apart = np.float32(np.sqrt(dx * dx + dy * dy + dz * dz) - float_at(ball + 12))
    if apart < float_at(user + BEST):
        put_float(user + BEST, apart)
        # A middle that lies farther than this has no nearer surface, however wide its ball.
        put_float(query + RADIUS, max(apart + float_at(user + WIDEST), np.float32(0)))
        return True
    return False


BEST, WIDEST = 16, 20
"""Bytes from the beginning of what the callback is handed to the distance that it has found, and to the widest radius; before them stands
the address of the balls."""


@allocating
def fill_from_tree(
    scene: int, callback: int, balls: int, position: Array, far: Float, widest: Float, out: Array
) -> None:
    """As `nearest_in_cells`, by the ray library's tree.

    Parameters
    ----------
    scene : int
        Handle of the search structure.
    callback, balls : int
        Addresses of the callback, and of the balls.
    position : Array
        `(3, n)`.
    far : float
        Metres; what lies farther gets this.
    widest : float
        Of all radii, metres.
    out : Array
        `(n,)` metres, filled.
    """
    memory = np.zeros(64, np.float32)
    start = ((-memory.ctypes.data) % 16) // 4
    query = memory[start : start + (OURS + 32) // 4]
    words, longs, at = query.view(np.uint32), query.view(np.int64), query.ctypes.data
    longs[OURS // 8] = balls
    query[(OURS + WIDEST) // 4] = widest
    words[INSTANCE // 4], words[INSTANCE // 4 + 1] = 0xFFFFFFFF, 0xFFFFFFFF
    for i in range(out.shape[0]):
        query[0], query[1], query[2], query[3] = position[0, i], position[1, i], position[2, i], np.float32(0)
        query[RADIUS // 4] = far + widest
        query[(OURS + BEST) // 4] = far
        words[DEPTH // 4] = 0
        point_query(scene, at, at + CONTEXT, callback, at + OURS)
        out[i] = query[(OURS + BEST) // 4]


_compiling = Lock()


@cache
def _compiled() -> Any:
    return cfunc(types.boolean(types.int64), cache=True, error_model="numpy")(_nearer)


def callback() -> int:
    """The address of the compiled callback, for as long as the process lives."""
    with _compiling:
        return int(_compiled().address)


@derived("particles to measure from", cost=Cost.SLOW)
def placed_particles(particles: Particles, matrix: Matrix) -> PlacedBalls:
    """Particles where they stand, to measure from; of unevenly scaled ones the mean radius counts.

    Parameters
    ----------
    particles : Particles
        In their object's space.
    matrix : Matrix
        `(3, 4)` into the world.
    """
    linear = np.asarray(matrix, np.float64)
    centres = particles.positions.astype(np.float64) @ linear[:, :3].T + linear[:, 3]
    scale = abs(np.linalg.det(linear[:, :3])) ** (1 / 3)
    return PlacedBalls(np.ascontiguousarray(centres, np.float32), (particles.radii * scale).astype(np.float32))
