"""Twisted cable: strands that wind round an axis, described by their number, their twist, and their thickness.

The angle about the axis, less the twist so far, is cut into as many equal parts as there are strands; each part holds one strand,
whose thickness is measured across it on the cable's surface. Number, twist and thickness do not touch each other.
"""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, Float, Int, kernel
from texallon.core.ops.height import AXES
from texallon.core.ops.lattice import mixed
from texallon.core.ops.op import Source, Space, change_of, footprint_in, param, position_in, row_of, space_key
from texallon.core.ops.points import Points

RESULTS = {"height": 0, "strand": 1, "strand number": 2}


class Strands(Source):
    name: ClassVar[str] = "strands"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "A twisted cable or rope: the height of its strands, or which strand it is."
    reference: ClassVar[str] = "helices about an axis: angle − 2π · turns · length; a superellipse across each strand"
    phrase: ClassVar[str] = "{count} strands, {turns} turns a metre, {thickness} thick"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    can_vary: ClassVar[tuple[str, ...]] = ("turns", "thickness")
    bends: ClassVar[frozenset[str]] = frozenset({"turns"})

    count: int = param(3, "Number of strands.", low=1, high=256)
    turns: Finite = param(8.0, "Turns per metre; negative twists the other way.", unit="/m")
    thickness: float = param(0.01, "Thickness of a strand.", unit="m", above=0, high=1e3)
    roundness: float = param(1.0, "1 is round, towards 0 ever flatter on top.", above=0, high=1)
    result: Literal["height", "strand", "strand number"] = param(
        "height", "1 on the strands' tops and 0 between; or a random value per strand; or its number, from 0."
    )
    radius: float = param(0.01, "The cable's radius, where it is looked up on the UV map.", unit="m", above=0, high=1e3)
    space: Space = param("object", "Where the axis is; on the UV map, v runs along in metres.", kind="place")
    around: Literal["turns", "metres"] = param(
        "turns", "What u of the UV map counts: once around; or metres around a cable of that radius, as on tubes."
    )
    axis: Literal["x", "y", "z"] = param("y", "The cable's axis.")
    seed: int = param(0, "Other random values per strand.", low=0, high=2**31 - 1)

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def _fill(self, points: Points, out: Array) -> None:
        position = points.position(space_key(self.space))
        footprint = points.footprint(space_key(self.space))
        if self.space == "uv":
            around, along = position[0], position[1]
            if self.around == "metres":
                around = around * np.float32(0.5 / np.pi / self.radius)
            radius = np.full(points.count, self.radius, np.float32)
        else:
            axis = AXES[self.axis]
            a, b = position[(axis + 1) % 3], position[(axis + 2) % 3]
            along = position[axis]
            around = np.arctan2(b, a) * np.float32(0.5 / np.pi)  # right-handed about the axis
            radius = np.sqrt(a * a + b * b)
        if "turns" in points.parameters:  # the strands move around by how the turns change within a sample
            moved = np.float32(2 * np.pi) * radius * np.abs(along) * points.parameters[change_of("turns")][0]
            footprint = np.hypot(footprint, moved * np.float32(3**-0.5))
        strands(
            around,
            along,
            radius,
            footprint,
            self.count,
            row_of(self.turns, points.parameters, "turns", points.count),
            row_of(self.thickness, points.parameters, "thickness", points.count),
            np.float32(2 / self.roundness),
            np.uint32(self.seed),
            RESULTS[self.result],
            mean_heights(2 / self.roundness),
            out[0],
        )


def mean_heights(power: float) -> Array:
    """The mean of a superellipse's height from its middle out to 0, 1/64 … 1 of its half width.

    Parameters
    ----------
    power : float
        Of the superellipse.
    """
    steps = 2048
    x = (np.arange(steps) + 0.5) / steps
    summed = np.concatenate([[0], np.cumsum((1 - x**power) ** (1 / power)) / steps])
    at = np.arange(1, 65) / 64
    return np.concatenate([[1.0], np.interp(at, np.arange(steps + 1) / steps, summed) / at]).astype(np.float32)


@kernel
def strands(
    around: Array,
    along: Array,
    radius: Array,
    footprint: Array,
    count: Int,
    turns: Array,
    thickness: Array,
    power: Float,
    seed: Int,
    result: Int,
    means: Array,
    out: Array,
) -> None:
    """`around (n,)` in turns, `along (n,)` and `radius (n,)` in metres; a superellipse of `power` across a strand.

    Parameters
    ----------
    around : Array
        `(n,)` turns about the axis.
    along : Array
        `(n,)` along the axis.
    radius : Array
        `(n,)` from the axis.
    footprint : Array
        `(n,)` width of a sample, in the pattern's units.
    count : int
        Number of strands.
    turns : Array
        `(n,)` for a unit along the axis.
    thickness : Array
        `(n,)` of a strand, metres.
    power : float
        Of the superellipse.
    seed : int
        Of the random numbers.
    result : int
        Which of the op's results, by its number.
    means : Array
        Mean heights by width.
    out : Array
        `(width, n)`, filled.
    """
    zero, one, half = np.float32(0), np.float32(1), np.float32(0.5)
    number = np.float32(count)
    for i in range(out.shape[0]):
        known = abs(around[i]) < np.float32(1e9) and abs(along[i]) < np.float32(1e9)
        if not (known and turns[i] == turns[i] and thickness[i] == thickness[i]):
            out[i] = np.float32(np.nan)
            continue
        x = (around[i] - turns[i] * along[i]) * number
        strand = np.floor(x)
        which = np.int64(strand) % np.int64(count)
        if result == 2:
            out[i] = np.float32(which)
            continue
        if result == 1:
            own = mixed(np.uint32(np.uint32(which) ^ mixed(np.uint32(seed + np.uint32(7)))))
            out[i] = np.float32(mixed(own) >> np.uint32(8)) * np.float32(2.0**-24)
            continue
        ring = np.float32(6.2831853) * radius[i]
        # A helix leans: across the strand, the way around the ring counts by the cosine of its lean.
        lean = ring * turns[i]
        pitch = ring / number / np.sqrt(one + lean * lean)
        across = abs(x - strand - half) * pitch / (thickness[i] * half)
        value = (one - min(across, one) ** power) ** (one / power)
        kept = min(max(np.float32(2) - np.float32(2) * footprint[i] / max(pitch, np.float32(1e-9)), zero), one)
        # The mean over all that a strand's share of the ring shows of it, and of the gap beside it.
        shown = pitch / thickness[i]
        at = min(shown, one) * np.float32(64)
        k = min(int(at), 63)
        mean = (means[k] + (at - np.float32(k)) * (means[k + 1] - means[k])) * min(
            one / max(shown, np.float32(1e-9)), one
        )
        out[i] = mean + kept * (value - mean)
