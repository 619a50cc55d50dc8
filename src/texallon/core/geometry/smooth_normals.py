"""Normals of a mesh anew, across seams: points that lie in one place share them, unless an edge between them is sharp."""

import numpy as np
import numpy.typing as npt

from texallon.core.points.welded import weld

Floats = npt.NDArray[np.float32]
Ints = npt.NDArray[np.int32]


def smooth_normals(
    vertices: Floats,
    faces: Ints,
    crease: float = 180.0,
    place: npt.NDArray[np.int64] | None = None,
    facing: npt.NDArray[np.float64] | None = None,
) -> Floats:
    """Unit normals `(v, 3)`, the mean of the faces about each place, weighted by their angles there.

    Parameters
    ----------
    vertices : Array
        `(v, 3)`.
    faces : Integers
        `(f, 3)`.
    crease : float
        Degrees: a vertex leaves out faces in its place that are bent by more against its own. At 180 none are.
    place : Integers, optional
        `(v,)` numbers of places, where it is known which vertices lie in one.
    facing : Array, optional
        `(f,)` −1 for faces whose corners run the other way round than their normals say, else 1.

    References
    ----------
    G. Thürmer, C. Wüthrich, "Computing Vertex Normals from Polygonal Facets", Journal of Graphics Tools 3 (1998).
    """
    one = weld(vertices)[1] if place is None else place
    at = one[faces]
    corner = [vertices[faces[:, k]].astype(np.float64) for k in range(3)]
    across = np.cross(corner[1] - corner[0], corner[2] - corner[0])
    if facing is not None:
        across *= facing[:, None]
    flat = across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-300)
    angles = np.stack(
        [_angle(corner[(k + 1) % 3] - corner[k], corner[(k + 2) % 3] - corner[k]) for k in range(3)], axis=1
    )
    weighted = flat[:, None, :] * angles[:, :, None]
    if crease >= 180:
        total = _totals(at.ravel(), weighted.reshape(-1, 3), int(one.max(initial=0)) + 1)[one]
    else:
        total = _within_crease(faces, at, flat, weighted, len(vertices), crease)
    length = np.linalg.norm(total, axis=1, keepdims=True)
    up = np.array([0.0, 1.0, 0.0])
    made: Floats = np.ascontiguousarray(np.where(length > 1e-12, total / np.maximum(length, 1e-12), up), np.float32)
    return made


def facing(vertices: Floats, faces: Ints, normals: Floats) -> npt.NDArray[np.float64]:
    """`(f,)` −1 for faces whose corners run the other way round than the normals at them say, else 1: files are not always of one mind.

    Parameters
    ----------
    vertices : Array
        `(v, 3)`.
    faces : Integers
        `(f, 3)`.
    normals : Array
        `(v, 3)`.
    """
    a, b, c = (vertices[faces[:, k]] for k in range(3))
    said = normals[faces[:, 0]] + normals[faces[:, 1]] + normals[faces[:, 2]]
    return np.where((np.cross(b - a, c - a) * said).sum(axis=1) < 0, -1.0, 1.0)


def _within_crease(
    faces: Ints,
    at: npt.NDArray[np.int64],
    flat: npt.NDArray[np.float64],
    weighted: npt.NDArray[np.float64],
    count: int,
    crease: float,
) -> npt.NDArray[np.float64]:
    """As the vertex's own faces lean: those of other vertices in its place count where they are bent less than the crease."""
    own = _totals(faces.ravel(), weighted.reshape(-1, 3), count)
    own /= np.maximum(np.linalg.norm(own, axis=1, keepdims=True), 1e-300)
    order = np.argsort(at.ravel(), kind="stable")
    place, face, corner = at.ravel()[order], order // 3, order % 3
    first = np.searchsorted(place, np.arange(place.max(initial=-1) + 2))
    of_place = np.empty(count, np.int64)
    of_place[faces.ravel()] = at.ravel()
    used = np.unique(faces)
    many = first[of_place[used] + 1] - first[of_place[used]]
    vertex = np.repeat(used, many)
    within = np.arange(len(vertex)) - np.repeat(np.cumsum(many) - many, many)
    entry = np.repeat(first[of_place[used]], many) + within
    near = (flat[face[entry]] * own[vertex]).sum(axis=1) >= np.cos(np.radians(crease)) - 1e-9
    return _totals(vertex[near], weighted[face[entry], corner[entry]][near], count)


def _totals(at: npt.NDArray[np.integer], values: npt.NDArray[np.float64], count: int) -> npt.NDArray[np.float64]:
    return np.stack([np.bincount(at, values[:, k], minlength=count) for k in range(3)], axis=1)


def _angle(a: npt.NDArray[np.float64], b: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    cross = np.linalg.norm(np.cross(a, b), axis=1)
    found: npt.NDArray[np.float64] = np.arctan2(cross, (a * b).sum(axis=1))
    return found
