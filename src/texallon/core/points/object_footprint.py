"""How much of an object's own space one sample stands for."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class ObjectFootprint(PointData):
    name: ClassVar[str] = "object_footprint"
    unit: ClassVar[str] = "m"
    meaning: ClassVar[str] = "Width that one sample stands for, in the object's own space."
    made_from: ClassVar[str] = "the footprint, by the object's scale"
    domain: ClassVar[Domain] = "ray"
    instead: ClassVar[str] = "footprint"

    def _at_hits(self, hits: PointContext) -> Array:
        result: Array = hits.footprint / hits.object_scale()
        return result
