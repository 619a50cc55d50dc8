"""The mesh of a cylinder, with rounded edges."""

from texallon.core.document.body import Cylinder
from texallon.core.geometry.bodies.patches import arc, line, mesh_of, rounding_of, turned
from texallon.core.geometry.mesh import Mesh

OF_AN_EDGE = 12
"""Cells over a rounded edge."""


def make_cylinder(body: Cylinder) -> Mesh:
    """A cylinder with its two ends.

    Parameters
    ----------
    body : Cylinder
        Its measures, metres.
    """
    radius, height = body.radius, body.height
    round_by = rounding_of(body.rounding, min(radius, height / 2))
    inner = radius - round_by
    curves = []
    if inner > 0:
        curves.append(line((0.0, 0.0), (inner, 0.0)))
    if round_by > 0:
        curves.append(arc((inner, round_by), round_by, -90, 0, OF_AN_EDGE))
    if height > 2 * round_by:
        curves.append(line((radius, round_by), (radius, height - round_by)))
    if round_by > 0:
        curves.append(arc((inner, height - round_by), round_by, 0, 90, OF_AN_EDGE))
    if inner > 0:
        curves.append(line((inner, height), (0.0, height)))
    return mesh_of([turned(curve, body.segments) for curve in curves])
