"""Where a point lies in its object's UV map."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class Uv(PointData):
    name: ClassVar[str] = "uv"
    width: ClassVar[int] = 2
    unit: ClassVar[str] = "uv"
    meaning: ClassVar[str] = "Position in the UV map."
    made_from: ClassVar[str] = "the mesh's texture coordinates, interpolated"
    domain: ClassVar[Domain] = "vertex"
    otherwise: ClassVar[tuple[float, ...]] = (0.0, 0.0)
    required: ClassVar[bool] = True
    in_formulas: ClassVar[bool] = True

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.uv()
