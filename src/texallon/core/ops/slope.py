"""Which way the surface leans: snow, dust and rain lie where it faces up."""

from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.lean import LEAN, NORMALS, Lean
from texallon.core.ops.op import Source, param
from texallon.core.ops.points import Points


class Slope(Source):
    name: ClassVar[str] = "slope"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = (
        "1 where the surface faces a direction, 0 where it turns away from it, with a soft band between."
    )
    reference: ClassVar[str] = "angle between normal and direction, eased by 3t²−2t³"
    phrase: ClassVar[str] = "the surface leans less than {full} … {none} away from {direction}"

    direction: tuple[Finite, Finite, Finite] = param(
        (0.0, 1.0, 0.0), "The direction it should face; up unless changed."
    )
    full: float = param(20.0, "Up to this lean it is 1.", unit="°", low=0, high=180)
    none: float = param(45.0, "From this lean on it is 0.", unit="°", low=0, high=180)

    lean: Lean = param("mesh", LEAN)

    def required_data(self) -> frozenset[str]:
        return frozenset({NORMALS[self.lean]})

    def _fill(self, points: Points, out: Array) -> None:
        way = np.array(self.direction, np.float64)
        length = float(np.linalg.norm(way))
        way = way / length if length > 0 else np.array([0.0, 1.0, 0.0])
        normal = points.data[NORMALS[self.lean]]
        cosine = np.clip(way[0] * normal[0] + way[1] * normal[1] + way[2] * normal[2], -1, 1)
        lean = np.degrees(np.arccos(cosine))
        if self.full == self.none:
            out[0] = lean <= self.full
            return
        t = np.clip((lean - self.none) / (self.full - self.none), 0, 1)
        out[0] = t * t * (3 - 2 * t)
