"""How far another object's surface is."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class Distance(PointData):
    name: ClassVar[str] = "distance"
    parameter: ClassVar[str] = "most in m, object"
    unit: ClassVar[str] = "m"
    meaning: ClassVar[str] = "Distance from another object's surface in the world, up to what is given as the most."
    made_from: ClassVar[str] = "the object's mesh where it stands"
    of_others: ClassVar[bool] = True
    domain: ClassVar[Domain] = "hit"
    otherwise: ClassVar[tuple[float, ...]] = (1e6,)

    def at_hits(self, hits: PointContext) -> Array:
        most, _, name = self.given.partition(",")
        return hits.distance_to(name, float(most))[None]
