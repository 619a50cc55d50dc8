"""Normals of a mesh anew, across seams: points that lie in one place share them, unless an edge between them is sharp."""

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import kernel
from texallon.core.points.welded import weld

Floats = npt.NDArray[np.float32]
Ints = npt.NDArray[np.int32]
Doubles = npt.NDArray[np.float64]


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
    flat, angles = np.empty(faces.shape), np.empty(faces.shape)
    measure_corners(vertices, faces, np.ones(len(faces)) if facing is None else facing, flat, angles)
    if crease >= 180:
        by_place = np.zeros((int(one.max(initial=0)) + 1, 3))
        add_to_corners(at, flat, angles, by_place)
        total = by_place[one]
    else:
        total = _within_crease(faces, at, flat, angles, len(vertices), crease)
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
    faces: Ints, at: npt.NDArray[np.int64], flat: Doubles, angles: Doubles, count: int, crease: float
) -> Doubles:
    """As the vertex's own faces lean: those of other vertices in its place count where they are bent less than the crease."""
    own = np.zeros((count, 3))
    add_to_corners(faces.astype(np.int64), flat, angles, own)
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
    at_face, at_corner = face[entry][near], corner[entry][near]
    weighted = flat[at_face] * angles[at_face, at_corner][:, None]
    return np.stack([np.bincount(vertex[near], weighted[:, k], minlength=count) for k in range(3)], axis=1)


@kernel
def measure_corners(vertices: Floats, faces: Ints, facing: Doubles, flat: Doubles, angles: Doubles) -> None:
    """Each face's unit normal, and the angles at its corners.

    Parameters
    ----------
    vertices : Array
        `(v, 3)`.
    faces : Integers
        `(f, 3)`.
    facing : Array
        `(f,)` −1 or 1, by which normals are turned.
    flat : Array
        `(f, 3)` filled; 0 for faces without area.
    angles : Array
        `(f, 3)` radians, filled.
    """
    for i in range(faces.shape[0]):
        a, b, c = faces[i, 0], faces[i, 1], faces[i, 2]
        ux, uy, uz = vertices[b, 0] - vertices[a, 0], vertices[b, 1] - vertices[a, 1], vertices[b, 2] - vertices[a, 2]
        vx, vy, vz = vertices[c, 0] - vertices[a, 0], vertices[c, 1] - vertices[a, 1], vertices[c, 2] - vertices[a, 2]
        # In double precision: of thin faces nothing would be left.
        px, py, pz, qx, qy, qz = (
            np.float64(ux),
            np.float64(uy),
            np.float64(uz),
            np.float64(vx),
            np.float64(vy),
            np.float64(vz),
        )
        nx, ny, nz = py * qz - pz * qy, pz * qx - px * qz, px * qy - py * qx
        length = np.sqrt(nx * nx + ny * ny + nz * nz)
        uu, vv, uv = px * px + py * py + pz * pz, qx * qx + qy * qy + qz * qz, px * qx + py * qy + pz * qz
        angles[i, 0] = np.arctan2(length, uv)
        angles[i, 1] = np.arctan2(length, uu - uv)
        angles[i, 2] = np.arctan2(length, vv - uv)
        way = facing[i] / max(length, 1e-300)
        flat[i, 0], flat[i, 1], flat[i, 2] = nx * way, ny * way, nz * way


@kernel
def add_to_corners(at: npt.NDArray[np.int64], flat: Doubles, angles: Doubles, total: Doubles) -> None:
    """Add each face's normal, weighted by its angles, to what lies at its corners.

    Parameters
    ----------
    at : Integers
        `(f, 3)` below p.
    flat : Array
        `(f, 3)` unit normals.
    angles : Array
        `(f, 3)` at the corners.
    total : Array
        `(p, 3)`, added to.
    """
    for i in range(at.shape[0]):
        for k in range(3):
            for axis in range(3):
                total[at[i, k], axis] += flat[i, axis] * angles[i, k]
