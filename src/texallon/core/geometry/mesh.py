"""A triangle mesh with what it carries: normals, texture coordinates, attributes and named parts."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt

from texallon.core.derived import content_key
from texallon.core.geometry.geometry import Geometry, Piece

Floats = npt.NDArray[np.float32]
Ints = npt.NDArray[np.int32]


class MeshError(ValueError):
    """Geometry that can't be used, in a sentence for a person."""


@dataclass(frozen=True, eq=False)
class Mesh(Geometry):
    """Row-wise arrays, as files hold them.

    `vertices (v, 3)` in metres, `faces (f, 3)` vertex numbers, `normals (v, 3)` unit, `uv (v, 2)` or None,
    `attributes` name → `(v, 1…4)`, `part_of_face (f,)` a position in `part_names`.
    """

    vertices: Floats
    faces: Ints
    normals: Floats
    uv: Floats | None = None
    attributes: Mapping[str, Floats] = field(default_factory=dict)
    part_names: tuple[str, ...] = ("all",)
    part_of_face: Ints | None = None

    @cached_property
    def content_key(self) -> str:
        """The same for meshes whose arrays, attributes and parts are the same."""
        held = (self.vertices, self.faces, self.normals, self.uv, self.attributes, self.part_names, self.part_of_face)
        return content_key(("mesh", *held))

    def pieces(self) -> tuple[Piece, ...]:
        return (Piece(self),)

    @cached_property
    def bounds(self) -> tuple[Floats, Floats]:
        """Lowest and highest corner, each `(3,)`."""
        return self.vertices.min(axis=0), self.vertices.max(axis=0)

    @cached_property
    def points_apart(self) -> float:
        """The median length of edges in metres of its own space, from some of its faces."""
        if not len(self.faces):
            return 0.0
        some = self.faces[:: max(len(self.faces) // 4096, 1)]
        sides = self.vertices[some] - self.vertices[np.roll(some, 1, axis=1)]
        return float(np.median(np.linalg.norm(sides, axis=2)))


def make_mesh(
    vertices: npt.ArrayLike,
    faces: npt.ArrayLike,
    normals: npt.ArrayLike | None = None,
    uv: npt.ArrayLike | None = None,
    attributes: Mapping[str, npt.ArrayLike] | None = None,
    part_names: tuple[str, ...] = ("all",),
    part_of_face: npt.ArrayLike | None = None,
) -> Mesh:
    """A checked mesh; missing normals are made from the faces.

    Raises `MeshError` for no faces, corners that do not exist, or coordinates that are not finite.

    Parameters
    ----------
    vertices : Array
        `(v, 3)` metres, in object space.
    faces : Array
        `(f, 3)` vertex numbers.
    normals : Array, optional
        `(v, 3)`; made from the faces where there are none.
    uv : Array, optional
        `(v, 2)` texture coordinates.
    attributes : mapping, optional
        By name, `(v,)` or `(v, 1…4)`.
    part_names : tuple of str, optional
        In the order of `part_of_face`.
    part_of_face : Array, optional
        `(f,)` positions in the mesh's part names.
    """
    points = np.ascontiguousarray(vertices, np.float32)
    corners = np.ascontiguousarray(faces, np.int32)
    if points.ndim != 2 or points.shape[1] != 3 or len(points) == 0:
        raise MeshError("the mesh has no points")
    if corners.ndim != 2 or corners.shape[1] != 3 or len(corners) == 0:
        raise MeshError("the mesh has no faces")
    bad = np.flatnonzero(~np.isfinite(points).all(axis=1))
    if len(bad):
        raise MeshError(f"{len(bad)} of {len(points)} points are not finite numbers (the first is point {bad[0]})")
    if corners.min() < 0 or corners.max() >= len(points):
        raise MeshError(f"a face names a point that does not exist (there are {len(points)})")
    if normals is None:
        smooth = vertex_normals(points, corners)
    else:
        smooth = np.ascontiguousarray(normals, np.float32)
        length = np.linalg.norm(smooth, axis=1, keepdims=True)
        broken = ~(length[:, 0] > 1e-6)
        smooth = np.where(broken[:, None], vertex_normals(points, corners), smooth / np.where(length > 0, length, 1))
    kept = {name: _per_vertex(name, values, len(points)) for name, values in (attributes or {}).items()}
    return Mesh(
        points,
        corners,
        np.ascontiguousarray(smooth, np.float32),
        None if uv is None else _per_vertex("uv", uv, len(points)),
        kept,
        part_names,
        None if part_of_face is None else np.ascontiguousarray(part_of_face, np.int32),
    )


def make_points(vertices: npt.ArrayLike, attributes: Mapping[str, npt.ArrayLike] | None = None) -> Mesh:
    """Checked points without faces: particles.

    Parameters
    ----------
    vertices : Array
        `(v, 3)` metres, in object space.
    attributes : mapping, optional
        By name, `(v,)` or `(v, 1…4)`.

    Raises
    ------
    MeshError
        For no points, or coordinates that are not finite.
    """
    with np.errstate(over="ignore"):
        points = np.ascontiguousarray(vertices, np.float32)
    if points.ndim != 2 or points.shape[1] != 3 or len(points) == 0:
        raise MeshError("there are no points")
    bad = np.flatnonzero(~np.isfinite(points).all(axis=1))
    if len(bad):
        raise MeshError(f"{len(bad)} of {len(points)} points are not finite numbers (the first is point {bad[0]})")
    kept = {name: _per_vertex(name, values, len(points)) for name, values in (attributes or {}).items()}
    up = np.tile(np.array([0, 1, 0], np.float32), (len(points), 1))
    return Mesh(points, np.zeros((0, 3), np.int32), up, None, kept)


def _per_vertex(name: str, values: npt.ArrayLike, count: int) -> Floats:
    array = np.asarray(values, np.float32)
    array = array.reshape(len(array), -1) if len(array) else array.reshape(0, 1)
    if len(array) != count:
        raise MeshError(f"“{name}” has {len(array)} values for {count} points")
    return np.ascontiguousarray(np.nan_to_num(array, nan=0.0, posinf=0.0, neginf=0.0))


def vertex_normals(vertices: Floats, faces: Ints) -> Floats:
    """Unit normals `(v, 3)`: the mean of the faces around a vertex, weighted by their angle there; up where there is none.

    So they hang on the surface, and not on how it is cut into triangles.

    Parameters
    ----------
    vertices : Array
        `(v, 3)` metres, in object space.
    faces : Integers
        `(f, 3)` vertex numbers.

    Returns
    -------
    Array
        `(v, 3)`.

    References
    ----------
    G. Thürmer, C. A. Wüthrich, "Computing Vertex Normals from Polygonal Facets", Journal of Graphics Tools 3 (1998).
    """
    corners = vertices[faces].astype(np.float64)
    sides = np.roll(corners, -1, axis=1) - corners
    sides /= np.maximum(np.linalg.norm(sides, axis=2, keepdims=True), 1e-300)
    across = np.cross(sides[:, 0], sides[:, 1])
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-300)
    angle = np.arccos(np.clip(-(sides * np.roll(sides, 1, axis=1)).sum(axis=2), -1, 1))
    total = np.stack(
        [
            np.bincount(faces.ravel(), (angle * across[:, axis, None]).ravel(), minlength=len(vertices))
            for axis in range(3)
        ],
        axis=1,
    )
    length = np.linalg.norm(total, axis=1, keepdims=True)
    up = np.array([0.0, 1.0, 0.0])
    normals: Floats = np.where(length > 0, total / np.where(length > 0, length, 1), up).astype(np.float32)
    return normals
