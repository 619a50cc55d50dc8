"""The mesh of a sphere."""

from texallon.core.document.body import Sphere
from texallon.core.geometry.bodies.patches import arc, mesh_of, turned
from texallon.core.geometry.mesh import Mesh


def make_sphere(body: Sphere) -> Mesh:
    """A sphere of latitudes and longitudes.

    Parameters
    ----------
    body : Sphere
        Its measures, metres.
    """
    curve = arc((0.0, body.radius), body.radius, -90, 90, max(body.segments // 2, 2))
    return mesh_of([turned(curve, body.segments)])
