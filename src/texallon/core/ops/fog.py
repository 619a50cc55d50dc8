"""Fog by distance: how much of what lies at each distance is swallowed, as the density that does so, or as a plain mask.

Between `near` and `far` the mask rises as `u ^ curve`, u from 0 to 1. A density that leaves `1 − u ^ curve` of the light at every distance is, by Beer and
Lambert's law, `curve · u ^ (curve − 1) / ((far − near) · (1 − u ^ curve))`: it grows without bound towards `far`, where nothing is seen any more, and
is held there.
"""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.op import Source, Space, param
from texallon.core.ops.points import Points

LEFT = 0.002
"""Share of light at which the density is held: less is not seen."""


class Fog(Source):
    name: ClassVar[str] = "fog"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "Fog that swallows what lies far from the eye: as a density for a volume, or as a mask."
    reference: ClassVar[str] = "Beer–Lambert law: density = −d ln(1 − u^curve) / dr, u = (r − near) / (far − near)"
    phrase: ClassVar[str] = "fog from {near} to {far}, as {give}"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    give: Literal["density", "mask"] = param(
        "density", "Density in 1/m, which leaves the mask's share of light; or the mask."
    )
    near: Finite = param(2.0, "Distance from the eye where it begins.", unit="m")
    far: Finite = param(30.0, "Where all is swallowed; a nearer one swallows far bodies sooner.", unit="m")
    curve: float = param(1.0, "Above 1 it comes late, below 1 early.", low=0.05, high=16)

    def required_data(self) -> frozenset[str]:
        return frozenset({"position"})

    def spaces(self) -> tuple[Space, ...]:
        return ("camera",)

    def _fill(self, points: Points, out: Array) -> None:
        x, y, z = points.position("camera").astype(np.float64)
        away = np.sqrt(x * x + y * y + z * z)
        reach = max(self.far - self.near, 1e-6)
        u = np.clip((away - self.near) / reach, 0, 1)
        if self.give == "mask":
            out[0] = u**self.curve
            return
        # Held where all but a trace is swallowed, and, for curves below 1, next to where it begins.
        u = np.minimum(np.maximum(u, 1e-4), (1 - LEFT) ** (1 / self.curve))
        density = self.curve * u ** (self.curve - 1) / (reach * (1 - u**self.curve))
        out[0] = np.where(away <= self.near, 0, density)
