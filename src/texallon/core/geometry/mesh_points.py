"""The vertices or faces of a placed mesh, as points at which signals are evaluated: what is made from geometry reads them there."""

from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Cost, derived
from texallon.core.geometry.bake_geometry import LIFT
from texallon.core.geometry.bending import Bodies, Felt, fill_bending
from texallon.core.geometry.closest import Measurable, nearest_of
from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.core.geometry.rays import MeshRays
from texallon.core.kernel import Array, Integers
from texallon.core.ops.points import Matrix
from texallon.core.points import BakedPointData, PointContext, attribute_name, is_attribute, point_data_kind
from texallon.core.points.name_number import name_number

Domain = Literal["vertex", "face"]


@derived("widths of mesh points", cost=Cost.INSTANT)
def point_widths(mesh: Mesh, linear: Matrix, domain: Domain) -> Array:
    """How far about itself each vertex or face of a mesh stands for, `(1, n)` metres of the world: the mean length of the edges that end
    there, or the side of a square as large as the face.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    linear : Matrix
        `(3, 3)` from there into the world.
    domain : str
        `vertex` or `face`.
    """
    edges = _edges(mesh.vertices.astype(np.float64) @ np.asarray(linear, np.float64).T, mesh.faces)
    if domain == "face":
        doubled = np.linalg.norm(np.cross(edges[0], edges[1]), axis=1)
        across: Array = np.sqrt(doubled / 2).astype(np.float32)[None]
        return across
    count = len(mesh.vertices)
    lengths = np.linalg.norm(edges, axis=2)
    ends = np.stack([mesh.faces, np.roll(mesh.faces, -1, axis=1)])  # both ends of edge k
    weights = np.stack([lengths.T, lengths.T])
    total = np.bincount(ends.ravel(), weights.ravel(), minlength=count)
    met = np.bincount(ends.ravel(), minlength=count)
    mean: Array = (total / np.maximum(met, 1)).astype(np.float32)[None]
    return mean


def _edges(placed: npt.NDArray[np.float64], faces: npt.NDArray[np.int32]) -> npt.NDArray[np.float64]:
    """`(3, f, 3)`: from each corner of a face to the next."""
    return np.stack([placed[faces[:, (k + 1) % 3]] - placed[faces[:, k]] for k in range(3)])


class MeshPoints(PointContext):
    """Implements `points.PointContext` for the vertices or the middles of the faces of a mesh that stands somewhere.

    Nothing looks at them: they are seen straight on, along their normals. A sample stands for as much as lies about a vertex, or in a face.

    Parameters
    ----------
    mesh : Mesh
        In its own space, metres.
    matrix : Matrix
        `(3, 4)` from there into the world.
    name : str
        Of the object.
    domain : str
        `vertex` or `face`.
    bakes : mapping
        By kind of point data, `(v, width)` at the vertices.
    surfaces : mapping
        By object, what distances are measured from.
    detail : float
        Scales what a point stands for.
    widths : Array, optional
        `point_widths`, where they are known.
    """

    def __init__(
        self,
        mesh: Mesh,
        matrix: Matrix,
        name: str,
        domain: Domain,
        bakes: Mapping[str, Array] | None = None,
        surfaces: Mapping[str, Sequence[Measurable]] | None = None,
        detail: float = 1.0,
        widths: Array | None = None,
    ) -> None:
        self._detail, self._widths = np.float32(detail), widths
        self._surfaces = surfaces or {}
        self._mesh, self._name, self._domain, self._bakes = mesh, name, domain, bakes or {}
        self._linear, self._matrix = matrix[:, :3], np.asarray(matrix, np.float64)
        self._placed = (mesh.vertices.astype(np.float64) @ self._matrix[:, :3].T + self._matrix[:, 3]).astype(
            np.float32
        )

    @property
    def count(self) -> int:
        return len(self._mesh.vertices if self._domain == "vertex" else self._mesh.faces)

    @property
    def position(self) -> Array:
        return self._at(self._placed)

    @property
    def normal(self) -> Array:
        turned = self._mesh.normals.astype(np.float64) @ np.linalg.inv(self._matrix[:, :3])
        made = self._at(turned.astype(np.float32))
        made /= np.maximum(np.linalg.norm(made, axis=0), np.float32(1e-20))
        return made

    @property
    def view(self) -> Array:
        return self.normal

    @property
    def footprint(self) -> Array:
        known = self._widths
        widths = point_widths(self._mesh, self._linear, self._domain) if known is None else known
        return widths * self._detail

    @property
    def instance(self) -> Integers:
        return np.zeros(self.count, np.int32)

    @property
    def face(self) -> Integers:
        if self._domain == "face":
            return np.arange(self.count, dtype=np.int32)
        of_vertex = np.zeros(self.count, np.int32)
        of_vertex[self._mesh.faces.ravel()] = np.repeat(np.arange(len(self._mesh.faces), dtype=np.int32), 3)
        return of_vertex

    def relief_normal(self) -> Array:
        return self.normal

    def rest_normal(self) -> Array:
        return self.normal

    def object_position(self) -> Array:
        return self._at(self._mesh.vertices)

    def object_scale(self) -> Array:
        scale = abs(np.linalg.det(self._matrix[:, :3])) ** (1 / 3)
        return np.full(self.count, scale, np.float32)

    def uv(self) -> Array:
        return np.zeros((2, self.count), np.float32) if self._mesh.uv is None else self._at(self._mesh.uv)

    def uv_per_metre(self) -> Array:
        if self._mesh.uv is None or not len(self._mesh.faces):
            return np.zeros(self.count, np.float32)
        a, b, c = (self._mesh.uv[self._mesh.faces[:, k]].astype(np.float64) for k in range(3))
        mapped = np.abs((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])
        edges = _edges(self._mesh.vertices.astype(np.float64) @ self._matrix[:, :3].T, self._mesh.faces)
        area = np.linalg.norm(np.cross(edges[0], edges[1]), axis=1)
        dense: Array = np.sqrt(mapped / np.maximum(area, 1e-30)).astype(np.float32)[self.face]
        return dense

    def object_number(self) -> Array:
        return np.full(self.count, name_number(self._name), np.float32)

    def part_number(self) -> Array:
        names = self._mesh.part_names
        own = np.array([name_number(f"{self._name}/{part}") for part in names], np.float32)
        parts = self._mesh.part_of_face
        found: Array = own[np.zeros(self.count, np.int32) if parts is None else parts[self.face]]
        return found

    def attribute(self, name: str) -> Array:
        """An attribute of this mesh at its points; zeros where it carries none of that name.

        Parameters
        ----------
        name : str
            Of the attribute.

        Returns
        -------
        Array
            `(width, n)`.
        """
        values = self._mesh.attributes.get(name)
        return np.zeros((1, self.count), np.float32) if values is None else self._at(values)

    def carries(self, name: str) -> Array:
        """Whether this mesh carries an attribute: the same for all its points.

        Parameters
        ----------
        name : str
            Of the attribute.

        Returns
        -------
        Array
            `(n,)` 0 or 1.
        """
        return np.full(self.count, float(name in self._mesh.attributes), np.float32)

    def distance_to(self, name: str, most: float, part: str) -> Array:
        """Metres from the placed points to another object of the shot.

        Parameters
        ----------
        name : str
            Of the object.
        most : float
            Metres; nothing farther is looked for.
        part : str
            `surface`, `edges`, `points` or `signed`.

        Returns
        -------
        Array
            `(n,)` metres, at most `most`.
        """
        return nearest_of(self._surfaces.get(name, ()), self.position, most, part)

    def shut_in(self, far: float, directions: Array, way: str) -> Array:
        """Not known while the shot's meshes are still being made; raises `MeshError`.

        Parameters
        ----------
        far : float
            Metres.
        directions : Array
            `(3, k)` unit vectors about z.
        way : str
            `outwards`, `inwards` or `upwards`.
        """
        raise MeshError(
            f"“{self._name or 'an object'}” is made from how far everything about it shuts it in, which is known only when everything is made: "
            "let the occlusion be against the object itself"
        )

    def bending(self, radius: float) -> Array:
        """Mean curvature of the placed mesh, by rays against itself alone.

        Parameters
        ----------
        radius : float
            Metres of the world.

        Returns
        -------
        Array
            `(n,)` 1/m.
        """
        mesh = self._mesh
        turned = mesh.normals.astype(np.float64) @ np.linalg.inv(self._matrix[:, :3])
        here = np.eye(4, dtype=np.float32)[None, :3]
        own = MeshRays(self._placed, mesh.faces)
        first, normals = np.zeros(1, np.int32), np.ascontiguousarray(turned, np.float32)
        bodies = Bodies(np.array([own.handle]), own.vertices, normals, mesh.faces, first, here)
        lift = np.full(self.count, LIFT * float(np.abs(self._placed).max(initial=0.0)), np.float32)
        out = np.empty(self.count, np.float32)
        at = Felt(np.ascontiguousarray(self.position), self.normal, self.instance, lift)
        fill_bending(bodies, at, np.float32(radius), out)
        return out

    def baked(self, kind: BakedPointData) -> Array:
        """What was baked for this mesh, at its points.

        Parameters
        ----------
        kind : BakedPointData
            That was baked.

        Returns
        -------
        Array
            `(width, n)`.
        """
        return self._at(self._bakes[kind.asked])

    def _at(self, values: npt.NDArray[np.float32]) -> Array:
        """Values at vertices `(v, width)`, at the points `(width, n)`."""
        if self._domain == "vertex":
            return np.ascontiguousarray(values.T, np.float32)
        return np.ascontiguousarray(values[self._mesh.faces].mean(axis=1).T, np.float32)

    def data(self, required: frozenset[str]) -> dict[str, Array]:
        """The point data that a plan needs, `(width, n)` by name.

        Parameters
        ----------
        required : frozenset of str
            Names of kinds, or of stored attributes.

        Raises
        ------
        KeyError
            For a name that is no kind.
        """
        return {
            name: self.attribute(attribute_name(name))
            if is_attribute(name)
            else np.atleast_2d(point_data_kind(name).at_hits(self))
            for name in required
        }
