"""The mesh of a plane."""

import numpy as np

from texallon.core.document.body import Plane
from texallon.core.geometry.bodies.patches import Patch, mesh_of
from texallon.core.geometry.mesh import Mesh


def make_plane(body: Plane) -> Mesh:
    """A level grid about the origin.

    Parameters
    ----------
    body : Plane
        Its measures, metres.
    """
    x = np.linspace(-body.width / 2, body.width / 2, body.segments + 1)
    z = np.linspace(body.depth / 2, -body.depth / 2, body.segments + 1)
    down, across = np.meshgrid(z, x, indexing="ij")
    points = np.stack([across, np.zeros_like(across), down], axis=2)
    return mesh_of([Patch(points, np.broadcast_to([0.0, 1.0, 0.0], points.shape))])
