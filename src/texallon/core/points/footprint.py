"""How much of the surface one sample stands for."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class Footprint(PointData):
    name: ClassVar[str] = "footprint"
    unit: ClassVar[str] = "m"
    meaning: ClassVar[str] = "Width that one sample stands for, in the world."
    made_from: ClassVar[str] = "the ray's cone"
    domain: ClassVar[Domain] = "ray"

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.footprint
