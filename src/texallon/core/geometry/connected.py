"""Parts of a mesh by what hangs together, where its file names none."""

from dataclasses import replace

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from texallon.core.derived import Cost, derived
from texallon.core.geometry.mesh import Mesh
from texallon.core.points.welded import weld

MOST = 250
"""Pieces that are parts of their own, the largest first; what is left is one more."""


@derived("connected pieces", cost=Cost.SLOW)
def connected_parts(mesh: Mesh) -> Mesh:
    """The mesh with a part for each connected piece, named `piece 1`, `piece 2` … by their number of faces.

    Points that lie in one place count as one: seams of normals and of texture coordinates divide nothing.

    Parameters
    ----------
    mesh : Mesh
        Its parts until now don't matter.

    Returns
    -------
    Mesh
        With the same points and faces.

    References
    ----------
    Connected components of a graph: R. Tarjan, "Depth-first search and linear graph algorithms", SIAM J. Comput. 1 (1972).
    """
    corners = weld(mesh.vertices)[1][mesh.faces]
    count = int(corners.max(initial=-1)) + 1
    a, b = corners[:, [0, 1]].ravel(), corners[:, [1, 2]].ravel()
    edges = coo_array((np.ones(len(a), np.int8), (a, b)), shape=(count, count))
    _, label = connected_components(edges, directed=False)
    of_face = label[corners[:, 0]]
    pieces, first, sizes = np.unique(of_face, return_index=True, return_counts=True)
    order = np.lexsort((first, -sizes))
    number = np.empty(int(pieces.max(initial=-1)) + 1, np.int32)
    number[pieces[order]] = np.minimum(np.arange(len(pieces)), MOST)
    names = tuple(f"piece {each + 1}" for each in range(min(len(pieces), MOST)))
    names += ("other pieces",) if len(pieces) > MOST else ()
    return replace(mesh, part_names=names, part_of_face=np.ascontiguousarray(number[of_face], np.int32))
