"""Meshes of the document's bodies, a file for each shape: `make_body` finds the right one."""

from collections.abc import Callable
from typing import Any

from texallon.core.derived import derived
from texallon.core.document.body import Body, Box, Capsule, Cone, Cylinder, Plane, Sphere, Torus, Tube
from texallon.core.document.simulation import Cells, Flow, Footsteps, Rain, Simulation, Spores
from texallon.core.geometry.bodies.box import make_box
from texallon.core.geometry.bodies.capsule import make_capsule
from texallon.core.geometry.bodies.cone import make_cone
from texallon.core.geometry.bodies.cylinder import make_cylinder
from texallon.core.geometry.bodies.plane import make_plane
from texallon.core.geometry.bodies.sphere import make_sphere
from texallon.core.geometry.bodies.torus import make_torus
from texallon.core.geometry.bodies.tube import make_tube
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.simulations.cells import make_cells
from texallon.core.geometry.simulations.flow import make_flow
from texallon.core.geometry.simulations.footsteps import make_footsteps
from texallon.core.geometry.simulations.rain import make_rain
from texallon.core.geometry.simulations.spores import make_spores

MAKERS: dict[type, Callable[[Any], Mesh]] = {
    Plane: make_plane,
    Box: make_box,
    Sphere: make_sphere,
    Cylinder: make_cylinder,
    Cone: make_cone,
    Torus: make_torus,
    Capsule: make_capsule,
    Tube: make_tube,
    Rain: make_rain,
    Spores: make_spores,
    Footsteps: make_footsteps,
    Flow: make_flow,
    Cells: make_cells,
}


@derived("body")
def make_body(body: Body | Simulation) -> Mesh:
    """The mesh of a body, with normals and texture coordinates 0…1 over each of its faces.

    Parameters
    ----------
    body : Body or Simulation
        Its measures, metres.
    """
    return MAKERS[type(body)](body)
