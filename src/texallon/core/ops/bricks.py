"""Bricks, tiles and slabs in rows, with joints between them."""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, Float, Int, kernel
from texallon.core.ops.filtered import Filtered
from texallon.core.ops.lattice import mixed
from texallon.core.ops.op import Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points

RESULTS = {"face": 0, "height": 1, "brick": 2}
PLANES = {"x y": (0, 1), "x z": (0, 2), "z y": (2, 1)}


class Bricks(Filtered):
    fades: ClassVar[bool] = False
    name: ClassVar[str] = "bricks"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "1 on bricks and 0 in the joints; or a rounded height, or a random value per brick."
    reference: ClassVar[str] = "definition: rows of rectangles, each row moved along; corners rounded by a box distance"
    phrase: ClassVar[str] = "bricks of {width} by {height}"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    width: float = param(0.24, "From joint to joint along a row.", unit="m", above=0, high=1e6)
    height: float = param(0.075, "From row to row.", unit="m", above=0, high=1e6)
    joint: float = param(0.01, "Width of the joints.", unit="m", low=0, high=1e6)
    shift: Finite = param(0.5, "How far each row is moved along, in bricks: 0 for tiles.")
    edge: float = param(0.004, "How far the edges are rounded or softened.", unit="m", low=0, high=1e6)
    result: Literal["face", "height", "brick"] = param(
        "face", "1 on bricks; or a height that falls off to the joints; or a random value per brick."
    )
    plane: Literal["x y", "x z", "z y"] = param("x y", "Along a row, then across the rows.")
    seed: int = param(0, "Other random values per brick.", low=0, high=2**31 - 1)
    space: Space = param("world", "What the pattern sticks to.", kind="place")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def unit(self) -> float:
        return float(min(self.width, self.height))

    def plain(self) -> "Bricks":
        unit = self.unit()
        small = {name: getattr(self, name) / unit for name in ("width", "height", "joint", "edge")}
        return self.model_copy(update={**small, "seed": 0, "space": "world"})

    def _pattern(self, points: Points, out: Array) -> None:
        position = points.position(space_key(self.space))
        along, across = PLANES[self.plane]
        bricks(
            position[along],
            position[across],
            points.footprint(space_key(self.space)),
            np.float32(self.width),
            np.float32(self.height),
            np.float32(self.joint),
            np.float32(self.shift),
            np.float32(self.edge),
            np.uint32(self.seed),
            RESULTS[self.result],
            out[0],
        )


@kernel
def bricks(
    along: Array,
    across: Array,
    footprint: Array,
    width: Float,
    height: Float,
    joint: Float,
    shift: Float,
    edge: Float,
    seed: Int,
    result: Int,
    out: Array,
) -> None:
    """A wall of bricks: which is hit, and how near its edge.

    Parameters
    ----------
    along : Array
        `(n,)` coordinate along the rows.
    across : Array
        `(n,)` coordinate across the rows.
    footprint : Array
        `(n,)` width of a sample, in the pattern's units.
    width : float
        Of a brick.
    height : float
        Of a row.
    joint : float
        Width of a joint.
    shift : float
        Share of a brick by which rows are shifted.
    edge : float
        Width of a brick's rounded edge.
    seed : int
        Of the random numbers.
    result : int
        Which of the op's results, by its number.
    out : Array
        `(width, n)`, filled.
    """
    zero, one, half = np.float32(0), np.float32(1), np.float32(0.5)
    for i in range(out.shape[0]):
        if not (abs(along[i]) < np.float32(1e9) and abs(across[i]) < np.float32(1e9)):
            out[i] = np.float32(np.nan)
            continue
        row = np.floor(across[i] / height)
        x = along[i] / width - shift * row
        number = np.floor(x)
        # Metres inwards from the middle of the nearest joint.
        a = (half - abs(x - number - half)) * width - joint * half
        b = (half - abs(across[i] / height - row - half)) * height - joint * half
        # Mixed one after the other: joined before mixing, a brick and its mirror image could share a number.
        of_row = mixed(np.uint32(np.uint32(np.int32(row)) ^ mixed(np.uint32(seed + np.uint32(1)))))
        own = mixed(np.uint32(np.uint32(np.int32(number)) ^ of_row))
        if result == 2:
            out[i] = np.float32(mixed(own) >> np.uint32(8)) * np.float32(2.0**-24) if min(a, b) >= zero else zero
            continue
        if result == 1 and edge > zero:
            # Distance to the brick shrunk by the rounding: 0 on its flat top.
            p, q = max(edge - a, zero), max(edge - b, zero)
            value = one - np.sqrt(p * p + q * q) / edge
            value = min(max(value, zero), one)
            value = np.sqrt(value * (np.float32(2) - value))
        else:
            soft = max(edge, footprint[i])
            value = min(a, b) / soft + half if soft > zero else (one if min(a, b) >= zero else zero)
            value = min(max(value, zero), one)
        out[i] = value
