"""Points scattered over a surface, none nearer to another than a distance."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Cost, derived
from texallon.core.geometry.mesh import Floats, Mesh, MeshError
from texallon.core.kernel import Array, Float, Int, Integers, allocating
from texallon.core.ops.points import Matrix
from texallon.core.random_numbers import uniform4

TRIES = 36.0
"""Candidates for each point of the closest packing: so many that nine tenths of what ever more of them would lay is laid."""

NEAREST_FIRST = np.array(
    sorted(((a, b, c) for a in (-1, 0, 1) for b in (-1, 0, 1) for c in (-1, 0, 1)), key=lambda d: sum(map(abs, d)))
)
"""A cell and those about it: what lies in the way mostly lies near."""

MOST_CANDIDATES = 24_000_000


class Scattered(NamedTuple):
    """Points on a mesh: `face (k,)`, and the `weights (k, 3)` of its corners there; in the order in which they were laid."""

    face: npt.NDArray[np.int32]
    weights: Floats


@derived("scattered points", cost=Cost.SLOW)
def scattered(mesh: Mesh, linear: Matrix, apart: float, most: int, seed: int) -> Scattered:
    """Points on a surface, evenly by chance, none nearer to another than a distance.

    Every face offers candidates by its own corners, each with a rank by chance; they are laid by rank where there is room. So a change at
    one place leaves the points elsewhere where they are.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    linear : Matrix
        `(3, 3)` from there to metres.
    apart : float
        Metres.
    most : int
        How many at most.
    seed : int
        Other points for another.

    Raises
    ------
    MeshError
        Where the surface is so large that too many would be laid, with the distance that would do.

    References
    ----------
    R. Cook, "Stochastic Sampling in Computer Graphics", ACM Transactions on Graphics 5 (1986): Poisson disks, by darts.
    """
    corners = (mesh.vertices.astype(np.float64) @ np.asarray(linear, np.float64).T).astype(np.float32)[mesh.faces]
    doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(doubled.astype(np.float64), axis=1) / 2
    # At the closest, disks of half the distance fill π/√12 of a plane.
    wanted = area * TRIES / (apart * apart * np.sqrt(0.75))
    if wanted.sum() > MOST_CANDIDATES:
        fits = apart * np.sqrt(wanted.sum() / MOST_CANDIDATES) * 1.01
        raise MeshError(
            f"{wanted.sum() / TRIES:,.0f} points {apart:g} m apart would find room on {area.sum():,.4g} m², more than are laid: "
            f"{fits:.3g} m apart would do"
        )
    keys = _face_keys(np.ascontiguousarray(mesh.vertices[mesh.faces].reshape(-1, 9)))
    counts = np.floor(wanted + _chances(keys, seed)).astype(np.int64)
    face = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
    place, rank = np.empty((len(face), 3), np.float32), np.empty(len(face), np.float32)
    weights = np.empty((len(face), 3), np.float32)
    offer(corners, keys, counts, seed, place, weights, rank)
    order = np.argsort(rank, kind="stable").astype(np.int32)
    laid = np.empty(min(most, len(face)), np.int32)
    number = lay(place, order, np.float32(apart), laid) if len(face) else 0
    chosen = laid[:number]
    return Scattered(face[chosen], weights[chosen])


def _face_keys(corners: Floats) -> npt.NDArray[np.int32]:
    """A number for each face that hangs on nothing but where its corners lie (FNV-1a over their bits)."""
    bits = (corners + np.float32(0)).view(np.uint32)  # −0 is 0
    key = np.full(len(bits), 2166136261, np.uint32)
    for column in range(bits.shape[1]):
        for shift in (0, 16):
            key = (key ^ (bits[:, column] >> np.uint32(shift) & np.uint32(0xFFFF))) * np.uint32(16777619)
    return key.view(np.int32)


def _chances(keys: npt.NDArray[np.int32], seed: int) -> npt.NDArray[np.float64]:
    out = np.empty(len(keys), np.float32)
    first_chances(keys, seed, out)
    return out.astype(np.float64)


@allocating
def first_chances(keys: Integers, seed: Int, out: Array) -> None:
    """A number in [0, 1) for each face.

    Parameters
    ----------
    keys : Integers
        `(f,)`.
    seed : int
        Of the scatter.
    out : Array
        `(f,)`, filled.
    """
    for f in range(keys.shape[0]):
        out[f] = uniform4(keys[f], 0, 0, seed)[0]


@allocating
def offer(
    corners: Array, keys: Integers, counts: Integers, seed: Int, place: Array, weights: Array, rank: Array
) -> None:
    """Candidates on faces.

    Parameters
    ----------
    corners : Array
        `(f, 3, 3)` metres.
    keys, counts : Integers
        `(f,)` a number of each face's own, and how many candidates it offers.
    seed : int
        Of the scatter.
    place, weights, rank : Array
        `(n, 3)` metres, `(n, 3)` of the corners, `(n,)` in [0, 1); filled.
    """
    at = 0
    for f in range(counts.shape[0]):
        for number in range(counts[f]):
            u, v, r, _ = uniform4(keys[f], 0, number + 1, seed)
            # Evenly over a triangle: G. Turk, "Generating Random Points in Triangles", Graphics Gems (1990).
            root = np.sqrt(u)
            weights[at, 0], weights[at, 1], weights[at, 2] = 1 - root, root * (1 - v), root * v
            for axis in range(3):
                place[at, axis] = (
                    weights[at, 0] * corners[f, 0, axis]
                    + weights[at, 1] * corners[f, 1, axis]
                    + weights[at, 2] * corners[f, 2, axis]
                )
            rank[at] = r
            at += 1


@allocating
def lay(place: Array, order: Integers, apart: Float, laid: Integers) -> int:
    """Take candidates by rank, each where none that was taken lies nearer than a distance; how many were taken.

    Parameters
    ----------
    place : Array
        `(n, 3)` metres.
    order : Integers
        `(n,)` positions by rank.
    apart : float
        Metres.
    laid : Integers
        Filled with the positions of those that were taken, as far as it reaches.
    """
    # Cells of the distance's own length, found by a hash: those taken in one hang together in a list.
    size = 1
    while size < 2 * laid.shape[0]:
        size *= 2
    heads, following = np.full(size, -1, np.int32), np.empty(laid.shape[0], np.int32)
    taken = np.empty((laid.shape[0], 3), np.float32)
    number, least = 0, apart * apart
    for candidate in order:
        if number == laid.shape[0]:
            break
        x, y, z = place[candidate, 0], place[candidate, 1], place[candidate, 2]
        a, b, c = np.int64(np.floor(x / apart)), np.int64(np.floor(y / apart)), np.int64(np.floor(z / apart))
        free = True
        for near in range(NEAREST_FIRST.shape[0]):
            da, db, dc = NEAREST_FIRST[near, 0], NEAREST_FIRST[near, 1], NEAREST_FIRST[near, 2]
            slot = ((a + da) * 73856093 ^ (b + db) * 19349663 ^ (c + dc) * 83492791) & (size - 1)
            other = heads[slot]
            while other >= 0 and free:
                dx, dy, dz = taken[other, 0] - x, taken[other, 1] - y, taken[other, 2] - z
                if dx * dx + dy * dy + dz * dz < least:
                    free = False
                other = following[other]
            if not free:
                break
        if free:
            slot = (a * 73856093 ^ b * 19349663 ^ c * 83492791) & (size - 1)
            laid[number], following[number] = candidate, heads[slot]
            taken[number, 0], taken[number, 1], taken[number, 2] = x, y, z
            heads[slot] = number
            number += 1
    return number
