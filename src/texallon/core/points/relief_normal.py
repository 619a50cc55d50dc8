"""Which way a surface faces with everything that its look raises and sinks on it."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class ReliefNormal(PointData):
    name: ClassVar[str] = "relief_normal"
    width: ClassVar[int] = 3
    meaning: ClassVar[str] = (
        "Unit normal in the world with the look's bump, normal map and displacement, as fine as a sample."
    )
    made_from: ClassVar[str] = (
        "the smooth normal, tilted by the look's own relief; within the relief itself the smooth normal"
    )
    domain: ClassVar[Domain] = "hit"
    instead: ClassVar[str] = "normal"
    otherwise: ClassVar[tuple[float, ...]] = (0.0, 1.0, 0.0)

    def _at_hits(self, hits: PointContext) -> Array:
        return hits.relief_normal()
