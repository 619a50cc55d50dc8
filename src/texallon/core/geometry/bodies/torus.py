"""The mesh of a torus."""

from texallon.core.document.body import Torus
from texallon.core.geometry.bodies.patches import arc, mesh_of, turned
from texallon.core.geometry.mesh import Mesh


def make_torus(body: Torus) -> Mesh:
    """A ring that lies on the ground.

    Parameters
    ----------
    body : Torus
        Its measures, metres.
    """
    thickness = min(body.thickness, body.radius)
    curve = arc((body.radius, thickness), thickness, -180, 180, 4 * max(body.segments // 12, 2))
    curve.points[-1] = curve.points[0]
    return mesh_of([turned(curve, body.segments)])
