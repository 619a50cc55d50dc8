"""Where a point lies in its object's own space."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class ObjectPosition(PointData):
    name: ClassVar[str] = "object_position"
    width: ClassVar[int] = 3
    unit: ClassVar[str] = "m"
    meaning: ClassVar[str] = "Position in the object's own space, before its placement."
    made_from: ClassVar[str] = "the hit, by the object's placement"
    domain: ClassVar[Domain] = "hit"
    instead: ClassVar[str] = "position"
    otherwise: ClassVar[tuple[float, ...]] = (0.0, 0.0, 0.0)
    in_formulas: ClassVar[bool] = True

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.object_position()
