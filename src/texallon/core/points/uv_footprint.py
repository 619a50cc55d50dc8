"""How much of the UV map one sample stands for."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class UvFootprint(PointData):
    name: ClassVar[str] = "uv_footprint"
    unit: ClassVar[str] = "uv"
    meaning: ClassVar[str] = "Width that one sample stands for, in the UV map."
    made_from: ClassVar[str] = "the footprint, by how large the face is in the map"
    domain: ClassVar[Domain] = "ray"

    def _at_hits(self, hits: PointContext) -> Array:
        result: Array = hits.uv_per_metre()[None] * hits.footprint
        return result
