"""How much of what lies about a point is hidden by anything that is shown."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData
from texallon.core.points.occlusion import fan

RAYS = 64
"""In a fan at each point: a third of those at a vertex, as there are far more points."""


class OcclusionOfAll(PointData):
    """As `Occlusion`, of everything that is shown and opaque, at each point itself; the fan is the same everywhere, so that there is no noise."""

    name: ClassVar[str] = "occlusion_of_all"
    parameter: ClassVar[str] = "distance in m, spread in degrees, way"
    meaning: ClassVar[str] = "Share of what lies about a point that anything shown hides: 0 in the open, 1 shut in."
    made_from: ClassVar[str] = "rays from the point"
    domain: ClassVar[Domain] = "hit"
    of_others: ClassVar[bool] = True

    def _at_hits(self, hits: PointContext) -> Array:
        distance, spread, way = self.given.split(",")
        return hits.shut_in(float(distance), fan(float(spread), RAYS), way)[None]
