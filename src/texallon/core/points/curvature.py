"""How much the surface bends, smoothed over a radius."""

from typing import ClassVar

import numpy as np
from scipy.sparse import csr_array, diags_array
from scipy.sparse.linalg import cg

from texallon.core.derived import checkpoint
from texallon.core.kernel import Array
from texallon.core.points.kind import BakedPointData, VertexGeometry
from texallon.core.points.welded import welded

STEPS = 2
"""Implicit steps by which curvature is smoothed: one alone has a peak in its middle and a long tail."""


class Curvature(BakedPointData):
    """Mean curvature, above 0 where the surface bulges outwards: the mean over about a disc of a radius in the object's own space.

    What bends about a point, as the cotangent formula integrates it, is spread by implicit steps of the heat equation until it has the variance
    of a disc of that radius. Integrals are spread, not values, so that uneven and sliver faces count by their area. A sheet whose two sides lie
    in one place bends both ways at once: 0.

    References
    ----------
    Cotangent formula: M. Meyer, M. Desbrun, P. Schröder, A. Barr, "Discrete Differential-Geometry Operators for Triangulated 2-Manifolds", 2003.
    Implicit smoothing: M. Desbrun, M. Meyer, P. Schröder, A. Barr, "Implicit Fairing of Irregular Meshes using Diffusion and Curvature Flow",
    SIGGRAPH 1999.
    """

    name: ClassVar[str] = "curvature"
    parameter: ClassVar[str] = "radius, m"
    unit: ClassVar[str] = "1/m"
    meaning: ClassVar[str] = (
        "Mean curvature in the object's own space: above 0 on convex edges, below 0 in hollows; 1 / r on a ball of radius r."
    )
    made_from: ClassVar[str] = "the mesh, smoothed over the radius"

    def _bake(self, mesh: VertexGeometry) -> Array:
        check = checkpoint()
        surface = welded(mesh)
        stiffness, areas = surface.stiffness(), surface.areas()
        bent = 0.5 * ((stiffness @ surface.places) * surface.normals).sum(axis=1)
        lone = areas <= 0
        areas = np.where(lone, 1.0, areas)
        bent[lone] = 0.0
        # A disc of radius r has the variance r² / 4 along each axis, and heat that flows for a time t has 2 t.
        time = float(self.given) ** 2 / 8 / STEPS
        system = csr_array(diags_array(areas) + stiffness * time)
        # Scaled by its diagonal on both sides: as a preconditioner would, without a second product at each turn.
        scale = 1 / np.sqrt(np.maximum(system.diagonal(), 1e-30))
        system.data *= scale[system.indices] * np.repeat(scale, np.diff(system.indptr))
        found = bent / areas
        for _ in range(STEPS):
            solved, _ = cg(system, bent * scale, found / scale, rtol=1e-4, maxiter=2000, callback=lambda _: check())
            found = solved * scale
            bent = areas * found
        at_vertices: Array = found[surface.one].astype(np.float32)[:, None]
        return at_vertices
