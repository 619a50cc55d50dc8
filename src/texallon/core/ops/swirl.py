"""Swirl: a full turn at the pivot that eases to none at a radius, and stays none beyond it.

Beyond the radius an unclamped fall-off, 1 − r, would turn the other way.
"""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite, Vector
from texallon.core.kernel import Array
from texallon.core.ops.op import DomainWarp, change_of, param, value_at
from texallon.core.ops.twirl import more_stretch, plane_across, shear_stretch, turn_in_plane


class Swirl(DomainWarp):
    name: ClassVar[str] = "swirl"
    purpose: ClassVar[str] = (
        "Turns the pattern fully at a pivot and ever less out to a radius: drains, eddies, marbling."
    )
    reference: ClassVar[str] = "rotation by angle · (1 − r / radius) ^ power within the radius, 0 beyond"
    phrase: ClassVar[str] = "swirled {angle} within {radius}"

    can_vary: ClassVar[tuple[str, ...]] = ("angle",)
    bends: ClassVar[frozenset[str]] = frozenset({"angle"})

    angle: Finite = param(360.0, "The turn at the pivot.", unit="°")
    radius: float = param(1.0, "Where it has eased to none.", unit="m", above=0, high=1e6)
    power: float = param(1.0, "How it eases: above 1 most of the turn is near the pivot.", above=0, high=64)
    pivot: Vector = param((0.0, 0.0, 0.0), "A point of the axis.", unit="m")
    axis: Literal["x", "y", "z"] = param("y", "The axis turned about; on a UV map always z.")

    def _warp(self, position: Array, inputs: Mapping[str, Array], after: Array, stretch: Array) -> None:
        a, b = plane_across("z" if self.space == "uv" else self.axis)
        x, y = position[a] - np.float32(self.pivot[a]), position[b] - np.float32(self.pivot[b])
        share = np.sqrt(x * x + y * y) / np.float32(self.radius)
        left = np.maximum(np.float32(1) - share, np.float32(0))
        angle = np.radians(value_at(self.angle, inputs, "angle"), dtype=np.float32)
        after[:] = position
        turn_in_plane(x, y, -angle * left ** np.float32(self.power), self.pivot[a], self.pivot[b], after[a], after[b])
        inside = np.where(left > 0, left, np.float32(1)) ** np.float32(self.power - 1)
        stretch *= shear_stretch(np.where(left > 0, angle * np.float32(self.power) * inside * share, np.float32(0)))
        if "angle" in inputs:
            turn = inputs[change_of("angle")][0] * left ** np.float32(self.power)
            more_stretch(x, y, turn, inputs["footprint"][0], stretch)
