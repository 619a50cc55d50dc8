"""Finer meshes: each face in four, level after level; flat (midpoint) or smooth (Catmull–Clark).

Points that lie in one place are one, so that nothing opens along seams of normals or texture coordinates; what is carried (texture
coordinates, attributes) stays divided there, and is interpolated.
"""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from texallon.core.derived import Cost, checkpoint, derived
from texallon.core.geometry.catmull_clark import Cage
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.net import Floats, Net, Numbers, as_quads, distinct_sides
from texallon.core.geometry.smooth_normals import facing, smooth_normals
from texallon.core.points.welded import weld

Scheme = Literal["midpoint", "catmull-clark"]
TRIANGLES = {"midpoint": (4, 4), "catmull-clark": (6, 4)}
"""Into how many triangles one is made at the first level, at most, and at each that follows."""


def triangles_at(triangles: int, scheme: Scheme, levels: int) -> int:
    """How many triangles a mesh has after some levels, at most.

    Parameters
    ----------
    triangles : int
        Before.
    scheme : str
        `midpoint` or `catmull-clark`.
    levels : int
        From 0.

    Examples
    --------
    >>> triangles_at(10, "midpoint", 2), triangles_at(10, "catmull-clark", 2)
    (160, 240)
    """
    first, later = TRIANGLES[scheme]
    return triangles if levels == 0 else triangles * first * later ** (levels - 1)


@derived("subdivided mesh", cost=Cost.SLOW)
def subdivided(mesh: Mesh, scheme: Scheme, levels: int, crease: float) -> Mesh:
    """A mesh whose faces are divided.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    scheme : str
        `midpoint` leaves the surface as it is; `catmull-clark` rounds it, edges of the border excepted.
    levels : int
        From 0; each makes four faces of one.
    crease : float
        Degrees; with Catmull–Clark edges that bend more than this stay sharp.

    Returns
    -------
    Mesh
        With the same parts and attributes; where it moves points, with a smooth normal in each place, divided along creases.

    References
    ----------
    E. Catmull, J. Clark, "Recursively generated B-spline surfaces on arbitrary topological meshes", Computer-Aided Design 10 (1978).
    Sharp edges: H. Hoppe et al., "Piecewise Smooth Surface Reconstruction", SIGGRAPH 1994; T. DeRose, M. Kass, T. Truong,
    "Subdivision Surfaces in Character Animation", SIGGRAPH 1998.
    """
    if levels == 0:
        return mesh
    check = checkpoint()
    carried = CarriedPoints.of(mesh)
    if scheme == "midpoint":
        faces, of_face = mesh.faces.astype(np.int64), np.arange(len(mesh.faces))
        for _ in range(levels):
            check()
            faces, of_face, carried = _midpoint(faces, of_face, carried)
        return carried.mesh(mesh, faces, of_face)
    places, one = weld(mesh.vertices)
    corners, of_face = as_quads(mesh.faces.astype(np.int64), one, places.astype(np.float64))
    cage = Cage.of(one[corners], places.astype(np.float64), crease)
    net = Net.of(corners, carried.count)
    for _ in range(levels):
        check()
        of_face = np.repeat(of_face, net.sides)
        cage, values = cage.divided(), net.interpolated(carried.values)
        net, carried = net.divided(), CarriedPoints(values)
    halves = ([0, 1, 2], [0, 2, 3])
    faces = np.stack([net.faces[:, half] for half in halves], axis=1).reshape(-1, 3)
    in_place = np.stack([cage.net.faces[:, half] for half in halves], axis=1).reshape(-1, 3)
    place = np.empty(carried.count, np.int64)
    place[faces.ravel()] = in_place.ravel()
    made = carried.mesh(mesh, faces, np.repeat(of_face, 2))
    place = place[np.unique(faces)] if len(made.vertices) < carried.count else place
    vertices = np.ascontiguousarray(cage.places[place], np.float32)
    ways = facing(mesh.vertices, mesh.faces, mesh.normals)[np.repeat(of_face, 2)]
    return replace(made, vertices=vertices, normals=smooth_normals(vertices, made.faces, crease, place, ways))


@dataclass(frozen=True)
class CarriedPoints:
    """What points carry, side by side `(v, width)`: place, normal, texture coordinates, attributes."""

    values: Floats

    @property
    def count(self) -> int:
        """How many points there are."""
        return len(self.values)

    @staticmethod
    def of(mesh: Mesh) -> "CarriedPoints":
        """What a mesh's points carry.

        Parameters
        ----------
        mesh : Mesh
            In its own space.
        """
        columns = [mesh.vertices, mesh.normals, *([] if mesh.uv is None else [mesh.uv]), *mesh.attributes.values()]
        return CarriedPoints(np.concatenate(columns, axis=1).astype(np.float64))

    def mesh(self, like: Mesh, faces: Numbers, of_face: Numbers) -> Mesh:
        """As a mesh with the attributes and parts of another.

        Parameters
        ----------
        like : Mesh
            Whose columns these are.
        faces : Numbers
            `(f, 3)` rows of these points.
        of_face : Numbers
            `(f,)` the face of `like` that each lies in.
        """
        used, at = np.unique(faces, return_inverse=True)
        whole = len(used) == self.count
        values = (self.values if whole else self.values[used]).astype(np.float32)
        normals = values[:, 3:6] / np.maximum(np.linalg.norm(values[:, 3:6], axis=1, keepdims=True), 1e-12)
        at_column = 6 + (0 if like.uv is None else 2)
        attributes = {}
        for name, old in like.attributes.items():
            attributes[name] = np.ascontiguousarray(values[:, at_column : at_column + old.shape[1]])
            at_column += old.shape[1]
        return Mesh(
            np.ascontiguousarray(values[:, :3]),
            np.ascontiguousarray(faces if whole else at.reshape(faces.shape), np.int32),
            np.ascontiguousarray(normals, np.float32),
            None if like.uv is None else np.ascontiguousarray(values[:, 6:8]),
            attributes,
            like.part_names,
            None if like.part_of_face is None else np.ascontiguousarray(like.part_of_face[of_face], np.int32),
        )


def _midpoint(faces: Numbers, of_face: Numbers, carried: CarriedPoints) -> tuple[Numbers, Numbers, CarriedPoints]:
    """Each triangle in four, by the middles of its sides."""
    ends, number = distinct_sides(faces)
    middles = (carried.values[ends[:, 0]] + carried.values[ends[:, 1]]) / 2
    m = (carried.count + number).reshape(-1, 3)  # of sides 01, 12, 20
    a, b, c = faces.T
    quarters = np.stack([a, m[:, 0], m[:, 2], m[:, 0], b, m[:, 1], m[:, 2], m[:, 1], c, m[:, 0], m[:, 1], m[:, 2]], 1)
    return quarters.reshape(-1, 3), np.repeat(of_face, 4), CarriedPoints(np.concatenate([carried.values, middles]))
