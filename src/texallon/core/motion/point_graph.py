"""Points that hand on what they remember to their neighbours: those of a surface, or copies that stand near each other."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.sparse import csr_array, diags_array
from scipy.spatial import cKDTree

from texallon.core.derived import derived
from texallon.core.kernel import Array
from texallon.core.motion.fronts import Corners, Edges, corners_of, edges_between, no_faces
from texallon.core.ops.points import Matrix
from texallon.core.points.kind import VertexGeometry
from texallon.core.points.welded import welded

Doubles = npt.NDArray[np.float64]
Longs = npt.NDArray[np.int64]

NEIGHBOURS = 14
"""Nearest copies among which the neighbours of one are sought."""

THIN = 0.05
"""Of the mean: no point stands for less of a surface, as slivers would make springs between their corners as stiff as they are thin."""


@dataclass(frozen=True, eq=False)
class PointGraph:
    """Points and what lies between them, in the world.

    Attributes
    ----------
    places : Doubles
        `(p, 3)` metres.
    one : Longs
        `(v,)` for each vertex or copy its point.
    corners, edges
        Along which fronts spread.
    stiffness : csr_array
        `(p, p)` minus the Laplacian, integrated about each point.
    share : Doubles
        `(p,)` what each stands for: square metres, or 1.
    """

    places: Doubles
    one: Longs
    corners: Corners
    edges: Edges
    stiffness: csr_array
    share: Doubles

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        held = (self.places, self.one, *self.corners, *self.edges, self.share, self.stiffness.data)
        return int(sum(each.nbytes for each in held) + self.stiffness.indices.nbytes)

    @property
    def distinct(self) -> bool:
        """Whether each vertex or copy is a point of its own, in their order."""
        return len(self.one) == len(self.places)

    def at_points(self, values: Array) -> Doubles:
        """The mean `(p,)` of values `(v,)` at the vertices in each place; what is no number counts as 0.

        Parameters
        ----------
        values : Array
            `(v,)`.
        """
        clean = np.nan_to_num(values.astype(np.float64), nan=0.0, posinf=0.0, neginf=0.0)
        if self.distinct:
            return clean
        total = np.bincount(self.one, clean, minlength=len(self.places))
        met: Doubles = total / np.maximum(np.bincount(self.one, minlength=len(self.places)), 1)
        return met


@derived("graph of a surface")
def surface_graph(mesh: VertexGeometry, matrix: Matrix) -> PointGraph:
    """The points of a placed mesh; vertices in one place are one.

    Parameters
    ----------
    mesh : VertexGeometry
        In its own space, v vertices.
    matrix : Matrix
        `(3, 4)` into the world.
    """
    surface = welded(mesh)
    at = np.asarray(matrix, np.float64)
    placed = surface.places @ at[:, :3].T + at[:, 3]
    in_world = type(surface)(placed, surface.faces, surface.one, surface.normals)
    nothing = np.zeros(0, np.int64)
    count, area = len(placed), in_world.areas()
    share = np.maximum(area, THIN * max(float(area.mean()) if count else 0.0, 1e-300))
    edges = edges_between(count, nothing, nothing, np.zeros(0))
    return PointGraph(placed, surface.one, corners_of(count, surface.faces), edges, in_world.stiffness(), share)


@derived("graph of copies")
def copies_graph(places: Array, matrix: Matrix) -> PointGraph:
    """Copies, of which neighbours are those with no third one between them.

    Parameters
    ----------
    places : Array
        `(k, 3)` in some space.
    matrix : Matrix
        `(3, 4)` from there into the world.

    References
    ----------
    K. Gabriel, R. Sokal, "A New Statistical Approach to Geographic Variation Analysis", Systematic Zoology 18 (1969): two points are neighbours
    where the ball of which they are opposite ends holds no other.
    """
    at = np.asarray(matrix, np.float64)
    placed: Doubles = np.asarray(places, np.float64) @ at[:, :3].T + at[:, 3]
    count = len(placed)
    first, second = _neighbours(placed)
    length = np.linalg.norm(placed[first] - placed[second], axis=1)
    weight = 1 / np.maximum(length, 1e-6) ** 2
    between = csr_array(
        (np.concatenate([weight, weight]), (np.r_[first, second], np.r_[second, first])), (count, count)
    )
    stiffness = csr_array(diags_array(np.asarray(between.sum(axis=1)).ravel()) - between)
    edges = edges_between(count, first, second, length)
    return PointGraph(placed, np.arange(count), corners_of(count, no_faces()), edges, stiffness, np.ones(count))


def _neighbours(placed: Doubles) -> tuple[Longs, Longs]:
    count = len(placed)
    if count < 2:
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    tree = cKDTree(placed)
    near = min(NEIGHBOURS + 1, count)
    _, found = tree.query(placed, near)
    pairs = np.stack([np.repeat(np.arange(count), near), found.ravel()], axis=1)
    pairs = np.unique(np.sort(pairs[pairs[:, 0] != pairs[:, 1]], axis=1), axis=0).astype(np.int64)
    first, second = pairs[:, 0], pairs[:, 1]
    half = np.linalg.norm(placed[first] - placed[second], axis=1) / 2
    away, _ = tree.query((placed[first] + placed[second]) / 2, min(3, count))
    # The two ends themselves are the nearest unless another lies within the ball, or on it.
    alone = np.ones(len(half), np.bool_) if count < 3 else away[:, 2] > half * (1 + 1e-4)
    return first[alone], second[alone]
