"""The mesh of a capsule."""

from texallon.core.document.body import Capsule
from texallon.core.geometry.bodies.patches import arc, line, mesh_of, turned
from texallon.core.geometry.mesh import Mesh


def make_capsule(body: Capsule) -> Mesh:
    """A cylinder between two half balls.

    Parameters
    ----------
    body : Capsule
        Its measures, metres.
    """
    radius, height = body.radius, max(body.height, 2 * body.radius)
    cells = max(body.segments // 4, 2)
    curves = [arc((0.0, radius), radius, -90, 0, cells)]
    if height > 2 * radius:
        curves.append(line((radius, radius), (radius, height - radius)))
    curves.append(arc((0.0, height - radius), radius, 0, 90, cells))
    return mesh_of([turned(curve, body.segments) for curve in curves])
