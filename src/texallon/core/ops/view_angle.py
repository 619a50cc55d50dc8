"""How far the surface turns away from the eye: rims, outlines, and water that is clear from above.

Facing the eye it is 0 and at the silhouette 1 (common practice); `fresnel` gives the share of light that a smooth
boundary of that index reflects instead.
"""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.lean import LEAN, NORMALS, Lean
from texallon.core.ops.op import Source, param
from texallon.core.ops.points import Points


class ViewAngle(Source):
    name: ClassVar[str] = "view angle"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "0 where the surface faces the eye, 1 at its silhouette."
    reference: ClassVar[str] = "1 − |N·V| to a power; Fresnel's equations for unpolarised light"
    phrase: ClassVar[str] = "the turn away from the eye"

    measure: Literal["facing", "fresnel"] = param("facing", "The plain angle, or the reflection of a smooth boundary.")
    exponent: float = param(1.0, "Of the plain angle: above 1 keeps only the rim.", low=0.01, high=64)
    index: float = param(1.5, "Index of refraction, for fresnel.", low=1.0001, high=10)
    lean: Lean = param("mesh", LEAN)
    inverse: bool = param(False, "1 facing the eye and 0 at the silhouette instead.")

    def required_data(self) -> frozenset[str]:
        return frozenset({NORMALS[self.lean], "view"})

    def _fill(self, points: Points, out: Array) -> None:
        n, v = points.data[NORMALS[self.lean]], points.data["view"]
        cosine = np.clip(np.abs(n[0] * v[0] + n[1] * v[1] + n[2] * v[2]), 0, 1)
        if self.measure == "facing":
            out[0] = (1 - cosine) ** self.exponent
        else:
            refracted = np.sqrt(1 - (1 - cosine * cosine) / self.index**2)
            parallel = (self.index * cosine - refracted) / (self.index * cosine + refracted)
            across = (cosine - self.index * refracted) / (cosine + self.index * refracted)
            out[0] = 0.5 * (parallel * parallel + across * across)
        if self.inverse:
            np.subtract(np.float32(1), out, out=out)
