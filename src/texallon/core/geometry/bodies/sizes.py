"""How large the mesh of a body will be, before it is made."""

from texallon.core.document.body import Body, Box, Capsule, Cone, Cylinder, Plane, Sphere, Torus, Tube
from texallon.core.document.simulation import Cells, Flow, Footsteps, Rain, Simulation, Spores
from texallon.core.geometry.bodies.box import OF_A_CORNER
from texallon.core.geometry.bodies.cylinder import OF_AN_EDGE
from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.simulations.flow import RINGS


def body_size(body: Body | Simulation) -> MeshSize:
    """As many points and triangles as its mesh has at most.

    Parameters
    ----------
    body : Body or Simulation
        Its measures.
    """
    match body:
        case Plane(segments=cells):
            return _grid(cells, cells)
        case Box(segments=cells):
            side = _grid(cells + 2 * OF_A_CORNER, cells + 2 * OF_A_CORNER)
            return MeshSize(6 * side.points, 6 * side.triangles)
        case Sphere(segments=around):
            return _grid(max(around // 2, 2), around)
        case Torus(segments=around):
            return _grid(4 * max(around // 12, 2), around)
        case Cylinder(segments=around):
            return _grid(2 * OF_AN_EDGE + 8, around)
        case Capsule(segments=around):
            return _grid(2 * max(around // 4, 2) + 4, around)
        case Cone(segments=around):
            return _grid(6, around)
        case Tube(points=points, segments=around, spans=spans):
            side = _grid(len(points) * spans, around)
            return MeshSize(side.points + 2 * (around + 2), side.triangles + 2 * around)
        case Rain(rate=rate, height=height, speed=speed, rests=rests):
            return MeshSize(int(rate * (height / speed + rests)) + 4, 0)
        case Spores(count=count):
            return MeshSize(count, 0)
        case Cells(divisions=divisions):
            return MeshSize(2**divisions, 0)
        case Flow(segments=around):
            return _grid(RINGS, around)
        case Footsteps():
            return MeshSize(288, 96)


def _grid(rows: int, columns: int) -> MeshSize:
    return MeshSize((rows + 1) * (columns + 1), 2 * rows * columns)
