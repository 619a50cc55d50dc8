"""Where a point lies in the world."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class Position(PointData):
    name: ClassVar[str] = "position"
    width: ClassVar[int] = 3
    unit: ClassVar[str] = "m"
    meaning: ClassVar[str] = "Position in the world."
    made_from: ClassVar[str] = "the hit"
    domain: ClassVar[Domain] = "hit"
    otherwise: ClassVar[tuple[float, ...]] = (0.0, 0.0, 0.0)
    required: ClassVar[bool] = True
    in_formulas: ClassVar[bool] = True

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.position
