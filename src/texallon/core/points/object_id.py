"""Which object a point belongs to."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class ObjectId(PointData):
    name: ClassVar[str] = "object_id"
    meaning: ClassVar[str] = "A whole number below 2²⁴ that stays with the object's name."
    made_from: ClassVar[str] = "the object's name"
    domain: ClassVar[Domain] = "object"

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.object_number()[None]
