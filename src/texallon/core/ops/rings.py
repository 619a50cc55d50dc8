"""Rings about an axis: the grain of turned wood, targets, and ripples seen from above."""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.filtered import Filtered
from texallon.core.ops.height import AXES
from texallon.core.ops.op import Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points
from texallon.core.ops.stripes import profile_of


class Rings(Filtered):
    fades: ClassVar[bool] = False
    name: ClassVar[str] = "rings"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "Values that go up and down with the distance from an axis or a point."
    reference: ClassVar[str] = "periodic functions of a distance: raised cosine, triangle, square"
    phrase: ClassVar[str] = "{profile} rings {spacing} apart about {space}"

    profile: Literal["wave", "ridge", "band"] = param("wave", "Rounded, pointed, or hard-edged.")
    shape: Literal["axis", "point"] = param("axis", "Round an axis, or in shells round a point.")
    spacing: float = param(0.05, "From one ring to the next.", unit="m", above=0, high=1e6)
    share: float = param(0.5, "How much of the spacing a band fills.", low=0, high=1)
    offset: Finite = param(0.0, "Moves the rings outwards, in spacings.")
    speed: Finite = param(0.0, "Spacings that the rings run outwards each second.", unit="/s")
    space: Space = param("world", "Where the middle is.", kind="place")
    axis: Literal["x", "y", "z"] = param("y", "The axis.")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def time_dependent(self) -> bool:
        return self.speed != 0

    def unit(self) -> float:
        return float(self.spacing)

    def plain(self) -> "Rings":
        return self.model_copy(update={"spacing": 1.0, "offset": 0.0, "speed": 0.0, "space": "world"})

    def expected(self) -> float:
        return self.share if self.profile == "band" else 0.5

    def _pattern(self, points: Points, out: Array) -> None:
        position = points.position(space_key(self.space))
        rows = [row for row in range(3) if self.shape == "point" or row != AXES[self.axis]]
        away = np.sqrt(np.square(position[rows]).sum(axis=0, dtype=np.float32))
        turns = away / np.float32(self.spacing) - np.float32(self.offset + self.speed * points.time)
        width = points.footprint(space_key(self.space)) / np.float32(self.spacing)
        out[0] = profile_of(self.profile, turns, self.share, width)
