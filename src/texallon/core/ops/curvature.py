"""Curvature: worn edges, bright rims, green in hollows. How large a detail counts is chosen by a radius."""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Source, param
from texallon.core.ops.points import Points


class CurvatureSource(Source):
    name: ClassVar[str] = "curvature"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "How much the surface bends: worn edges, and hollows where dirt stays."
    reference: ClassVar[str] = (
        "mean curvature; Meyer et al. 2003, spread over a radius by implicit steps (Desbrun et al. 1999)"
    )
    phrase: ClassVar[str] = "the {side} curvature over {radius}"

    side: Literal["convex", "concave", "signed"] = param(
        "convex", "Edges that stand out, hollows, or both: above 0 outwards, below 0 inwards."
    )
    radius: float = param(
        0.02,
        "Of the detail that counts, in the object's own space, or by rays in the world; finer detail is evened out.",
        unit="m",
        low=1e-4,
        high=1e3,
    )
    measure: Literal["by radius", "1/m"] = param(
        "by radius", "1 for an edge as round as the radius, whatever that is; or plain, 1 / r on a ball of radius r."
    )

    by: Literal["mesh", "rays"] = param(
        "mesh",
        "Measured once on the mesh; or felt out by rays about each place that is seen, in the world: for copies of many sizes and coarse meshes "
        "under fine relief. That takes longer, and a right-angled edge counts two thirds of what it does on the mesh.",
    )

    def required_data(self) -> frozenset[str]:
        # By rays the circle that is felt along stands on the point's normal.
        return frozenset({self._kind, "object_scale"} if self.by == "mesh" else {self._kind, "normal"})

    @property
    def _kind(self) -> str:
        return f"curvature:{self.radius:.6g}" if self.by == "mesh" else f"curvature_by_rays:{self.radius:.6g}"

    def _fill(self, points: Points, out: Array) -> None:
        bent = points.data[self._kind][0]
        if self.side == "convex":
            bent = np.maximum(bent, np.float32(0))
        elif self.side == "concave":
            bent = np.maximum(-bent, np.float32(0))
        if self.measure == "by radius":
            out[0] = bent * np.float32(self.radius)
        else:
            out[0] = bent if self.by == "rays" else bent / points.data["object_scale"][0]
