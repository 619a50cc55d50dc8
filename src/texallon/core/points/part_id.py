"""Which part of an object a point belongs to."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class PartId(PointData):
    name: ClassVar[str] = "part_id"
    meaning: ClassVar[str] = "A whole number below 2²⁴ that stays with the names of object and part."
    made_from: ClassVar[str] = "the names of object and part"
    domain: ClassVar[Domain] = "part"

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.part_number()[None]
