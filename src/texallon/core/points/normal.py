"""Which way a surface faces."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class Normal(PointData):
    name: ClassVar[str] = "normal"
    width: ClassVar[int] = 3
    meaning: ClassVar[str] = "Smooth unit normal in the world, outwards."
    made_from: ClassVar[str] = "the mesh's normals, interpolated"
    domain: ClassVar[Domain] = "hit"
    otherwise: ClassVar[tuple[float, ...]] = (0.0, 1.0, 0.0)
    required: ClassVar[bool] = True
    in_formulas: ClassVar[bool] = True

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.normal
