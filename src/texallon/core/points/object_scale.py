"""How large an object is made where it stands."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class ObjectScale(PointData):
    name: ClassVar[str] = "object_scale"
    meaning: ClassVar[str] = "Metres in the world for a metre of the object's own space."
    made_from: ClassVar[str] = "the object's placement"
    domain: ClassVar[Domain] = "object"
    otherwise: ClassVar[tuple[float, ...]] = (1.0,)

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.object_scale()[None]
