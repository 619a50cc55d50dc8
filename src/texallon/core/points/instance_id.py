"""Which instance a point belongs to."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class InstanceId(PointData):
    name: ClassVar[str] = "instance_id"
    meaning: ClassVar[str] = (
        "A whole number below 2²⁴ that stays with the instance; an object placed once is its own instance."
    )
    made_from: ClassVar[str] = "the object's name"
    domain: ClassVar[Domain] = "object"

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.object_number()[None]
