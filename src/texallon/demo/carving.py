"""Shapes turned on a lathe and cut from slabs, with the small unevenness that hand-worked stone has."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.mesh import Mesh, make_mesh, vertex_normals
from texallon.core.ops.noise import Noise
from texallon.core.ops.points import Points

Points2 = Sequence[tuple[float, float]]


def unevenness(position: npt.NDArray[np.float32], size: float, octaves: int, seed: int) -> npt.NDArray[np.float32]:
    """Noise −1…1 at positions `(n, 3)`, for moving points about; shape `(n,)`."""
    columns = np.ascontiguousarray(position.T, np.float32)
    count = len(position)
    out = np.empty((1, count), np.float32)
    points = Points(count, {"position": columns, "footprint": np.zeros((1, count), np.float32)})
    Noise(size=size, octaves=octaves, low=-1.0, high=1.0, seed=seed).run(
        points, np.empty((0, points.count), np.float32), {}, out
    )
    return out[0]


def smooth_profile(corners: Points2, spacing: float) -> npt.NDArray[np.float64]:
    """Points `(n, 2)` along a curve through the corners (Catmull–Rom, centripetal), about `spacing` metres apart."""
    given = np.asarray(corners, np.float64)
    padded = np.vstack([2 * given[0] - given[1], given, 2 * given[-1] - given[-2]])
    result = [given[:1]]
    for p0, p1, p2, p3 in zip(padded[:-3], padded[1:-2], padded[2:-1], padded[3:], strict=True):
        count = max(int(np.ceil(np.linalg.norm(p2 - p1) / spacing)), 2)
        t01, t12, t23 = (max(float(np.linalg.norm(b - a)) ** 0.5, 1e-6) for a, b in ((p0, p1), (p1, p2), (p2, p3)))
        m1 = (p2 - p1) + t12 * ((p1 - p0) / t01 - (p2 - p0) / (t01 + t12))
        m2 = (p2 - p1) + t12 * ((p3 - p2) / t23 - (p3 - p1) / (t12 + t23))
        t = (np.arange(1, count + 1) / count)[:, None]
        a, b = 2 * (p1 - p2) + m1 + m2, -3 * (p1 - p2) - 2 * m1 - m2
        result.append(a * t**3 + b * t**2 + m1 * t + p1)
    return np.vstack(result)


def lathe(
    profile: npt.NDArray[np.float64], around: int
) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.int32], npt.NDArray[np.float32]]:
    """Turn a profile `(n, 2)` of radius and height about the y axis: vertices, faces and texture coordinates.

    The seam's points stand twice, so that texture coordinates run from 0 to 1 without a jump.
    """
    angle = np.linspace(0, 2 * np.pi, around + 1)
    radius, height = np.maximum(profile[:, 0], 0)[:, None], profile[:, 1][:, None]
    x, z = radius * np.cos(angle), -radius * np.sin(angle)
    vertices = np.stack([x, np.broadcast_to(height, x.shape), z], axis=2).reshape(-1, 3).astype(np.float32)
    vertices.reshape(len(profile), around + 1, 3)[:, -1] = vertices.reshape(len(profile), around + 1, 3)[:, 0]
    length = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(profile, axis=0), axis=1))])
    u = np.broadcast_to(angle / (2 * np.pi), x.shape)
    uv = np.stack([u, np.broadcast_to(length[:, None] / length[-1], x.shape)], axis=2).reshape(-1, 2)
    return vertices, grid_faces(len(profile), around + 1), uv.astype(np.float32)


def grid_faces(rows: int, columns: int) -> npt.NDArray[np.int32]:
    """Two triangles for each cell of a grid of points numbered row by row."""
    corner = (np.arange(rows - 1)[:, None] * columns + np.arange(columns - 1)).ravel()
    first = np.stack([corner, corner + 1, corner + columns], axis=1)
    second = np.stack([corner + 1, corner + columns + 1, corner + columns], axis=1)
    return np.concatenate([first, second]).astype(np.int32)


def weathered(
    vertices: npt.NDArray[np.float32], faces: npt.NDArray[np.int32], depth: float, size: float, seed: int
) -> npt.NDArray[np.float32]:
    """Points moved along their normals by noise of `depth` metres."""
    normals = vertex_normals(vertices, faces)
    return (vertices + normals * (depth * unevenness(vertices, size, 4, seed))[:, None]).astype(np.float32)


def closed_normals(vertices: npt.NDArray[np.float32], faces: npt.NDArray[np.int32]) -> npt.NDArray[np.float32]:
    """Smooth normals where points that coincide (a seam, a pole) share theirs."""
    _, same = np.unique(np.round(vertices, 5), axis=0, return_inverse=True)
    same = same.ravel()
    a, b, c = (vertices[faces[:, corner]] for corner in range(3))
    across = np.cross(b - a, c - a).astype(np.float64)
    corners = same[faces]
    total = np.stack(
        [np.bincount(corners.ravel(), np.repeat(across[:, axis], 3), minlength=same.max() + 1) for axis in range(3)],
        axis=1,
    )
    normals = total / np.maximum(np.linalg.norm(total, axis=1, keepdims=True), 1e-12)
    return normals[same].astype(np.float32)


def joined(meshes: Sequence[Mesh]) -> Mesh:
    """Several meshes as one; attributes must agree."""
    starts = np.cumsum([0, *[len(mesh.vertices) for mesh in meshes]])[:-1]
    names = meshes[0].attributes.keys()
    return make_mesh(
        np.concatenate([mesh.vertices for mesh in meshes]),
        np.concatenate([mesh.faces + start for mesh, start in zip(meshes, starts, strict=True)]),
        np.concatenate([mesh.normals for mesh in meshes]),
        np.concatenate([mesh.uv for mesh in meshes if mesh.uv is not None]),
        {name: np.concatenate([mesh.attributes[name] for mesh in meshes]) for name in names},
    )
