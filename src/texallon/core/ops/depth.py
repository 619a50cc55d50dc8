"""How far away the point is from the camera: fog, haze, detail that is only worth having near by."""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.op import Source, Space, param
from texallon.core.ops.points import Points


class Depth(Source):
    name: ClassVar[str] = "depth"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "0 near the camera and 1 far from it, or the distance in metres."
    reference: ClassVar[str] = (
        "distance to the camera's plane (depth) or to its eye; ((d − near) / (far − near)) ^ falloff"
    )
    phrase: ClassVar[str] = "the {measure} from {near} to {far}"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    measure: Literal["depth", "distance"] = param("distance", "Along the view, or straight to the eye.")
    near: Finite = param(0.0, "Where it is 0.", unit="m")
    far: Finite = param(40.0, "Where it is 1; may lie nearer than `near`.", unit="m")
    falloff: float = param(1.0, "Above 1 it rises late, below 1 early.", above=0, high=64)
    metres: bool = param(False, "Give the distance itself instead.")

    def required_data(self) -> frozenset[str]:
        return frozenset({"position"})

    def spaces(self) -> tuple[Space, ...]:
        return ("camera",)

    def _fill(self, points: Points, out: Array) -> None:
        x, y, z = points.position("camera")
        away = -z if self.measure == "depth" else np.sqrt(x * x + y * y + z * z)
        if self.metres:
            out[0] = away
            return
        reach = self.far - self.near
        share = (away - np.float32(self.near)) / np.float32(reach) if reach else (away >= self.near).astype(np.float32)
        out[0] = np.clip(share, 0, 1) ** np.float32(self.falloff)
