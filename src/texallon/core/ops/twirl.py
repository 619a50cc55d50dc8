"""Twirl: turn the lookup about an axis by an angle that grows with the distance from it."""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite, Vector
from texallon.core.kernel import Array
from texallon.core.ops.height import AXES
from texallon.core.ops.op import DomainWarp, change_of, param, value_at


class Twirl(DomainWarp):
    name: ClassVar[str] = "twirl"
    purpose: ClassVar[str] = "Winds the pattern round an axis, the more the farther out."
    reference: ClassVar[str] = "rotation by an angle proportional to the distance; preserves area"
    phrase: ClassVar[str] = "twirled by {angle}"

    can_vary: ClassVar[tuple[str, ...]] = ("angle",)
    bends: ClassVar[frozenset[str]] = frozenset({"angle"})

    angle: Finite = param(90.0, "Turn for each metre (on a UV map: for its width) from the axis.", unit="°/m")
    pivot: Vector = param((0.0, 0.0, 0.0), "A point of the axis.", unit="m")
    axis: Literal["x", "y", "z"] = param("y", "The axis turned about; on a UV map always z.")

    def _warp(self, position: Array, inputs: Mapping[str, Array], after: Array, stretch: Array) -> None:
        a, b = plane_across("z" if self.space == "uv" else self.axis)
        x, y = position[a] - np.float32(self.pivot[a]), position[b] - np.float32(self.pivot[b])
        radius = np.sqrt(x * x + y * y)
        rate = np.radians(value_at(self.angle, inputs, "angle"), dtype=np.float32)
        after[:] = position
        turn_in_plane(x, y, -rate * radius, self.pivot[a], self.pivot[b], after[a], after[b])
        stretch *= shear_stretch(rate * radius)
        if "angle" in inputs:
            more_stretch(x, y, inputs[change_of("angle")][0] * radius, inputs["footprint"][0], stretch)


def plane_across(axis: str) -> tuple[int, int]:
    """The two coordinates across an axis, in right-handed order.

    Parameters
    ----------
    axis : str
        `x`, `y` or `z`.
    """
    along = AXES[axis]
    return (along + 1) % 3, (along + 2) % 3


def turn_in_plane(x: Array, y: Array, angle: Array, pivot_x: float, pivot_y: float, to_x: Array, to_y: Array) -> None:
    """Turn `x`, `y` `(n,)`, given from the pivot, by `angle (n,)` radians; fills `to_x`, `to_y`.

    Parameters
    ----------
    x, y : Array
        `(n,)` from the pivot.
    angle : Array
        `(n,)` radians.
    pivot_x : float
        First coordinate of the pivot.
    pivot_y : float
        Second coordinate of the pivot.
    to_x, to_y : Array
        `(n,)`, filled.
    """
    c, s = np.cos(angle), np.sin(angle)
    to_x[:] = c * x - s * y + np.float32(pivot_x)
    to_y[:] = s * x + c * y + np.float32(pivot_y)


def more_stretch(x: Array, y: Array, turn: Array, footprint: Array, stretch: Array) -> None:
    """Add to `stretch (n,)` how far a turn that differs within a sample moves its sides apart, in samples.

    Parameters
    ----------
    x, y : Array
        `(n,)` from the pivot.
    turn : Array
        `(n,)` by how much the turn differs within a sample, degrees.
    footprint : Array
        `(n,)` width of a sample.
    stretch : Array
        `(n,)`, changed.
    """
    apart = np.sqrt(x * x + y * y) * np.radians(turn, dtype=np.float32)
    more = np.where(footprint > 0, apart / np.maximum(footprint, np.float32(1e-12)), np.float32(0))
    np.hypot(stretch, more * np.float32(3**-0.5), out=stretch)


def shear_stretch(shear: Array) -> Array:
    """The most that a shear lengthens anything: the larger singular value of [[1, 0], [shear, 1]].

    Parameters
    ----------
    shear : Array
        `(n,)`.
    """
    size = np.abs(shear)
    result: Array = (size + np.sqrt(size * size + np.float32(4))) * np.float32(0.5)
    return result
