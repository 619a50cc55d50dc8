"""Occlusion: dirt in crevices, moss where it is sheltered; inwards, how thin a body is."""

from typing import ClassVar, Literal

from texallon.core.kernel import Array
from texallon.core.ops.op import Source, param
from texallon.core.ops.points import Points


class OcclusionSource(Source):
    name: ClassVar[str] = "occlusion"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = (
        "0 in the open, 1 where the object itself, or everything about it, shuts a point in: crevices."
    )
    reference: ClassVar[str] = "share of cosine-weighted rays that meet the object; Zhukov, Iones and Kronin 1998"
    phrase: ClassVar[str] = "how far the object shuts in within {distance}"

    distance: float = param(
        0.2,
        "Up to which something hides, in the object's own space; against everything in the world.",
        unit="m",
        low=1e-4,
        high=1e4,
    )
    spread: float = param(180.0, "Across the cone that is looked into.", unit="°", low=1, high=180)
    way: Literal["outwards", "inwards", "upwards"] = param(
        "outwards",
        "To the open side: crevices; into the body: 1 where it is thinner than the distance; or up along the object's own y axis: "
        "1 where neither rain nor dust falls.",
    )

    against: Literal["itself", "everything"] = param(
        "itself",
        "What hides: the object itself, measured once at its points; or everything opaque that is shown, in metres of the world, measured "
        "at each place that is seen, which takes longer.",
    )

    def required_data(self) -> frozenset[str]:
        # Against everything the fan stands at the point itself, on its normal.
        return frozenset({self._kind} if self.against == "itself" else {self._kind, "normal"})

    @property
    def _kind(self) -> str:
        kind = "occlusion" if self.against == "itself" else "occlusion_of_all"
        return f"{kind}:{self.distance:.6g},{self.spread:.6g},{self.way}"

    def _fill(self, points: Points, out: Array) -> None:
        out[0] = points.data[self._kind][0]
