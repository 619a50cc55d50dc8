"""Where the point lies on the geometry's UV map."""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Source, param
from texallon.core.ops.points import Points


class Uv(Source):
    name: ClassVar[str] = "uv"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "The texture coordinates stored on the geometry: u, v, or both as red and green."
    phrase: ClassVar[str] = "the map's {read}"

    read: Literal["u", "v", "both"] = param("u", "Which of them.")

    def required_data(self) -> frozenset[str]:
        return frozenset({"uv"})

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.read == "both" else 1

    def _fill(self, points: Points, out: Array) -> None:
        uv = points.data["uv"]
        if self.read == "both":
            out[:2] = uv
            out[2] = np.float32(0)
        else:
            out[0] = uv[0 if self.read == "u" else 1]
