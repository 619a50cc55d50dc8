"""Which way a surface faced before it was displaced."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class RestNormal(PointData):
    name: ClassVar[str] = "rest_normal"
    width: ClassVar[int] = 3
    meaning: ClassVar[str] = "Smooth unit normal in the world, of the surface before displacement."
    made_from: ClassVar[str] = "the normals of the mesh before it was displaced, interpolated"
    domain: ClassVar[Domain] = "hit"
    instead: ClassVar[str] = "normal"
    otherwise: ClassVar[tuple[float, ...]] = (0.0, 1.0, 0.0)

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.rest_normal()
