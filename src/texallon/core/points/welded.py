"""Meshes as their smooth surfaces: points that lie in one place are one, whatever seams divide them."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.sparse import csr_array, diags_array

from texallon.core.points.kind import VertexGeometry

Floats = npt.NDArray[np.float64]

NOTHING = 2.0**-24
"""Of the largest coordinate: half a step of single precision there."""

MIXERS = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9], np.uint64)
"""Odd numbers that spread the bits of three coordinates over 64."""


@dataclass(frozen=True)
class Surface:
    """A welded mesh.

    Attributes
    ----------
    places : Floats
        `(p, 3)` distinct points.
    faces : Integers
        `(f, 3)` of those; none twice in a face.
    one : Integers
        `(v,)` for each vertex its place.
    normals : Floats
        `(p, 3)` unit, the mean of what the vertices there have.
    """

    places: Floats
    faces: npt.NDArray[np.int64]
    one: npt.NDArray[np.int64]
    normals: Floats

    def areas(self) -> Floats:
        """The area `(p,)` that belongs to each place: a third of the faces about it."""
        a, b, c = (self.places[self.faces[:, k]] for k in range(3))
        third = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 6
        total: Floats = np.bincount(self.faces.ravel(), np.repeat(third, 3), minlength=len(self.places)).astype(float)
        return total

    def stiffness(self) -> csr_array:
        """The cotangent matrix `(p, p)`: applied to a function on the surface it gives the integral of minus its Laplacian about each place."""
        count = len(self.places)
        corners = [self.places[self.faces[:, k]] for k in range(3)]
        sides = [corners[(k + 1) % 3] - corners[k] for k in range(3)]
        across = np.maximum(np.linalg.norm(np.cross(sides[0], sides[1]), axis=1), 1e-30)
        first, second, values = [], [], []
        for k in range(3):
            # The angle opposite to side k. A face without area has none; one that is nearly so counts as one of a thousandth of a radian.
            u, v = sides[(k + 2) % 3], -sides[(k + 1) % 3]
            values.append(0.5 * np.clip((u * v).sum(axis=1) / across, -1e3, 1e3))
            first.append(self.faces[:, k])
            second.append(self.faces[:, (k + 1) % 3])
        rows, columns, value = np.concatenate(first), np.concatenate(second), np.concatenate(values)
        one_way = csr_array((value, (rows, columns)), shape=(count, count))
        apart = one_way + one_way.T
        return csr_array(diags_array(np.asarray(apart.sum(axis=1)).ravel()) - apart)


def weld(vertices: npt.NDArray[np.float32]) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.int64]]:
    """The distinct places `(p, 3)` of vertices `(v, 3)`, in the order in which they first appear, and for each vertex the number `(v,)` of its place.

    Parameters
    ----------
    vertices : Array
        `(v, 3)`.
    """
    rows = np.array(vertices, np.float32)
    # The sine of a whole turn is not quite 0: what is nothing beside the mesh's size is 0, and −0 as well.
    rows[np.abs(rows) <= np.float32(NOTHING) * np.abs(rows).max(initial=0)] = 0
    bits = rows.view(np.uint32).astype(np.uint64)
    # By a number made from each row, which is ten times as fast as by rows; where two rows share one, by rows after all.
    code = (
        (bits[:, 0] * MIXERS[0]) ^ (bits[:, 1] * MIXERS[1] << np.uint64(1)) ^ (bits[:, 2] * MIXERS[2] << np.uint64(2))
    )
    _, first, one = np.unique(code, return_index=True, return_inverse=True)
    # In the order of the vertices, in which neighbours lie near each other in memory too: half the time of what is worked out on them.
    order = np.argsort(first)
    rank = np.empty(len(order), np.int64)
    rank[order] = np.arange(len(order))
    places, one = rows[first[order]], rank[one.reshape(-1)]
    if not np.array_equal(places[one], rows):
        places, one = np.unique(rows, axis=0, return_inverse=True)
    return places, one.reshape(-1)


def welded(mesh: VertexGeometry) -> Surface:
    """A mesh as its smooth surface.

    Parameters
    ----------
    mesh : VertexGeometry
        With v vertices.
    """
    places, one = weld(mesh.vertices)
    faces = one[mesh.faces]
    whole = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
    total = np.stack([np.bincount(one, mesh.normals[:, k], minlength=len(places)) for k in range(3)], axis=1)
    length = np.linalg.norm(total, axis=1, keepdims=True)
    return Surface(
        places.astype(np.float64), faces[whole].astype(np.int64), one, total / np.where(length > 1e-12, length, 1)
    )
