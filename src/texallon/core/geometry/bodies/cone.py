"""The mesh of a cone."""

from texallon.core.document.body import Cone
from texallon.core.geometry.bodies.patches import line, mesh_of, turned
from texallon.core.geometry.mesh import Mesh


def make_cone(body: Cone) -> Mesh:
    """A cone with its end, or a piece of one with both.

    Parameters
    ----------
    body : Cone
        Its measures, metres.
    """
    curves = [line((0.0, 0.0), (body.radius, 0.0)), line((body.radius, 0.0), (body.top, body.height))]
    if body.top > 0:
        curves.append(line((body.top, body.height), (0.0, body.height)))
    return mesh_of([turned(curve, body.segments) for curve in curves])
