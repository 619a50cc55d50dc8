"""From where a point is seen."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class ViewDirection(PointData):
    name: ClassVar[str] = "view"
    width: ClassVar[int] = 3
    meaning: ClassVar[str] = "Unit vector towards the eye, or back along the ray."
    made_from: ClassVar[str] = "the ray"
    domain: ClassVar[Domain] = "ray"
    otherwise: ClassVar[tuple[float, ...]] = (0.0, 1.0, 0.0)
    required: ClassVar[bool] = True
    in_formulas: ClassVar[bool] = True

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.view
