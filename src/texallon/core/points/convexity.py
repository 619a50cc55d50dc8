"""Where a mesh bulges and where it is hollow, by its neighbours' mean: enough to tell an outer edge from a crevice."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.points.kind import BakedPointData, VertexGeometry
from texallon.core.points.welded import weld


class Convexity(BakedPointData):
    """The height of a vertex over the mean of its neighbours, along its normal, over the mean length of its edges.

    References
    ----------
    The umbrella operator: G. Taubin, "A Signal Processing Approach to Fair Surface Design", SIGGRAPH 1995.
    """

    name: ClassVar[str] = "convexity"
    meaning: ClassVar[str] = "Above 0 on convex edges, below 0 in hollows; in lengths of the mesh's edges."
    made_from: ClassVar[str] = "each vertex and its neighbours"

    def _bake(self, mesh: VertexGeometry) -> Array:
        # Vertices are split at seams: those in one place count as one.
        places, one = weld(mesh.vertices)
        edges = np.concatenate([mesh.faces[:, [0, 1]], mesh.faces[:, [1, 2]], mesh.faces[:, [2, 0]]])
        pairs = one[np.concatenate([edges, edges[:, ::-1]])]
        count = np.bincount(pairs[:, 0], minlength=len(places))
        total = np.zeros_like(places, np.float64)
        lengths = np.bincount(
            pairs[:, 0], np.linalg.norm(places[pairs[:, 1]] - places[pairs[:, 0]], axis=1), minlength=len(places)
        )
        for column in range(3):
            total[:, column] = np.bincount(pairs[:, 0], places[pairs[:, 1], column], minlength=len(places))
        known = np.maximum(count, 1)
        away = places - total / known[:, None]
        along = (away[one] * mesh.normals).sum(axis=1)
        result: Array = (along / np.maximum(lengths / known, 1e-12)[one]).astype(np.float32)
        return result[:, None]
