"""Occlusion: dirt in crevices, moss where it is sheltered; inwards, how thin a body is."""

from typing import ClassVar, Literal

from texallon.core.kernel import Array
from texallon.core.ops.op import Source, param
from texallon.core.ops.points import Points


class OcclusionSource(Source):
    name: ClassVar[str] = "occlusion"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "0 in the open, 1 where the object itself shuts a point in: crevices."
    reference: ClassVar[str] = "share of cosine-weighted rays that meet the object; Zhukov, Iones and Kronin 1998"
    phrase: ClassVar[str] = "how far the object shuts in within {distance}"

    distance: float = param(
        0.2, "Up to which something hides, in the object's own space.", unit="m", low=1e-4, high=1e4
    )
    spread: float = param(180.0, "Across the cone that is looked into.", unit="°", low=1, high=180)
    way: Literal["outwards", "inwards"] = param(
        "outwards", "To the open side: crevices; or into the body: 1 where it is thinner than the distance."
    )

    def required_data(self) -> frozenset[str]:
        return frozenset({self._kind})

    @property
    def _kind(self) -> str:
        return f"occlusion:{self.distance:.6g},{self.spread:.6g},{self.way}"

    def fill(self, points: Points, out: Array) -> None:
        out[0] = points.data[self._kind][0]
