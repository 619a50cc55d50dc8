"""Whether places lie in what a volume fills."""

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.rays import OPAQUE, MeshRays, Placed, SceneRays
from texallon.core.kernel import Array
from texallon.core.render.volume.tables import BALL, CLOSED
from texallon.core.render.volume.volumes import Container

MOST_WALLS = 64
"""Walls of a closed mesh that are counted from a point."""

Flags = npt.NDArray[np.bool_]


def inside_closed(structure: MeshRays, own: Array) -> Flags:
    """Which places lie in a closed mesh: those from which an odd number of walls lies one way.

    Parameters
    ----------
    structure : MeshRays
        Of the mesh.
    own : Array
        `(3, n)` in its space.
    """
    rays = SceneRays([Placed(structure, np.eye(4, dtype=np.float32)[:3], OPAQUE)])
    n = own.shape[1]
    way = np.repeat(np.array([[0.36], [0.48], [0.8]], np.float32), n, axis=1)
    odd, near, going = np.zeros(n, np.bool_), np.zeros(n, np.float32), np.arange(n)
    for _ in range(MOST_WALLS):
        if not len(going):
            break
        hits = rays.nearest(np.ascontiguousarray(own[:, going]), np.ascontiguousarray(way[:, going]), near[going])
        met = hits.instance >= 0
        going = going[met]
        odd[going] = ~odd[going]
        near[going] = hits.distance[met] * np.float32(1 + 1e-6) + np.float32(1e-7)
    return odd


def inside(container: Container, own: Array) -> Flags:
    """Which places lie in a container.

    Parameters
    ----------
    container : Container
        What is filled.
    own : Array
        `(3, n)` in its space.
    """
    low, high = container.low[:, None], container.high[:, None]
    bounds: Flags = np.logical_and((own >= low).all(axis=0), (own <= high).all(axis=0))
    if container.kind == BALL:
        half = (container.high - container.low) / 2
        away = np.linalg.norm((own - container.low[:, None] - half[:, None]) / half[:, None], axis=0)
        rounded: Flags = bounds & (away <= 1)
        return rounded
    if container.kind == CLOSED and container.structure is not None:
        within = np.flatnonzero(bounds)
        bounds[within] = inside_closed(container.structure, np.ascontiguousarray(own[:, within]))
    return bounds
