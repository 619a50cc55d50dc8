"""Stripes and waves across a placed axis."""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.filtered import Filtered
from texallon.core.ops.height import AXES
from texallon.core.ops.op import Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points


class Stripes(Filtered):
    fades: ClassVar[bool] = False
    name: ClassVar[str] = "stripes"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "Values that go up and down along an axis: waves, ridges or hard bands."
    reference: ClassVar[str] = "periodic functions of one coordinate: raised cosine, triangle, square"
    phrase: ClassVar[str] = "{profile} stripes {spacing} apart"

    profile: Literal["wave", "ridge", "band"] = param("wave", "Rounded, pointed, or hard-edged.")
    spacing: float = param(0.1, "From one stripe to the next.", unit="m", above=0, high=1e6)
    share: float = param(0.5, "How much of the spacing a band fills.", low=0, high=1)
    offset: Finite = param(0.0, "Moves the stripes along, in spacings.")
    speed: Finite = param(0.0, "Spacings that the stripes run along each second.", unit="/s")
    space: Space = param("world", "What the pattern sticks to.", kind="place")
    axis: Literal["x", "y", "z"] = param("x", "The axis they follow each other along.")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def time_dependent(self) -> bool:
        return self.speed != 0

    def unit(self) -> float:
        return float(self.spacing)

    def plain(self) -> "Stripes":
        return self.model_copy(update={"spacing": 1.0, "offset": 0.0, "speed": 0.0, "space": "world"})

    def expected(self) -> float:
        return self.share if self.profile == "band" else 0.5

    def _pattern(self, points: Points, out: Array) -> None:
        along = points.position(space_key(self.space))[AXES[self.axis]]
        turns = along / np.float32(self.spacing) - np.float32(self.offset + self.speed * points.time)
        width = points.footprint(space_key(self.space)) / np.float32(self.spacing)
        out[0] = profile_of(self.profile, turns, self.share, width)


def profile_of(profile: str, turns: Array, share: float, width: Array) -> Array:
    """0…1 over `turns (n,)`, 1 at whole numbers; hard edges are as wide as a sample, `width (n,)` in turns.

    Parameters
    ----------
    profile : str
        Which profile, by its number.
    turns : Array
        `(n,)` position in periods.
    share : float
        Of a period that is not 0.
    width : Array
        `(n,)` footprint in the pattern's units.
    """
    part = turns - np.floor(turns)
    if profile == "wave":
        value = np.float32(0.5) + np.float32(0.5) * np.cos(np.float32(2 * np.pi) * part)
    elif profile == "ridge":
        value = np.abs(np.float32(1) - np.float32(2) * part)
    else:
        # A hard edge is as wide as a sample.
        near = np.minimum(part, np.float32(1) - part)
        wide = np.maximum(width, np.float32(1e-6))
        value = (np.float32(share / 2) - near) / wide + np.float32(0.5)
        value = np.clip(value, 0, np.minimum(np.float32(share) / wide, 1))
        value = np.where(width > 0, value, near < np.float32(share / 2)).astype(np.float32)
        value = np.where(np.isnan(near), near, value)
    result: Array = value.astype(np.float32)
    return result
