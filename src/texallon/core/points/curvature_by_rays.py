"""How much the surface bends about a point, in the world."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class CurvatureByRays(PointData):
    """As `Curvature`, at each point itself and in the world: displaced and repeated bodies as they stand, whatever their mesh and size."""

    name: ClassVar[str] = "curvature_by_rays"
    parameter: ClassVar[str] = "radius, m"
    unit: ClassVar[str] = "1/m"
    meaning: ClassVar[str] = (
        "Mean curvature in the world: above 0 on convex edges, below 0 in hollows; 1 / r on a ball of radius r."
    )
    made_from: ClassVar[str] = "rays about the point against its own object"
    domain: ClassVar[Domain] = "hit"

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.bending(float(self.given))[None]
