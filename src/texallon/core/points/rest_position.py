"""Where a point lay before anything bent its object."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData


class RestPosition(PointData):
    name: ClassVar[str] = "rest_position"
    width: ClassVar[int] = 3
    unit: ClassVar[str] = "m"
    meaning: ClassVar[str] = "Position in the object's own space before anything bent it."
    made_from: ClassVar[str] = "the attribute “rest”, interpolated; where there is none the position in object space"
    domain: ClassVar[Domain] = "vertex"
    instead: ClassVar[str] = "object_position"
    otherwise: ClassVar[tuple[float, ...]] = (0.0, 0.0, 0.0)

    def _at_hits(self, hits: PointContext) -> Array:
        out = hits.object_position()
        carried = hits.carries("rest") > 0
        if carried.any():
            np.copyto(out, hits.attribute("rest"), where=carried[None])
        return out
