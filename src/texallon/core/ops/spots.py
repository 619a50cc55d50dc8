"""Scattered spots with uneven outlines: puddles, lichen, drops, rust. Perfectly round ones read as computer graphics."""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array, Float, Int, allocating
from texallon.core.ops.cellular import cube_number, place_in_cube
from texallon.core.ops.filtered import Filtered
from texallon.core.ops.height import AXES
from texallon.core.ops.lattice import mixed, noise_octave
from texallon.core.ops.op import Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points

RESULTS = {"coverage": 0, "depth": 1, "spot": 2}


class Spots(Filtered):
    fades: ClassVar[bool] = False
    gone: ClassVar[float] = 0.6
    name: ClassVar[str] = "spots"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "Spots strewn about: 1 inside, 0 outside, with soft and irregular outlines."
    reference: ClassVar[str] = (
        "one possible spot per cell of a lattice (Worley 1996), its radius bent by gradient noise (Perlin 2002)"
    )
    phrase: ClassVar[str] = "spots of {size}, {density} of the places taken"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    size: float = param(0.1, "Width of the largest spots.", unit="m", above=0, high=1e6)
    density: float = param(0.5, "Share of places that hold a spot.", low=0, high=1)
    variation: float = param(0.6, "How much smaller than the largest a spot may be.", low=0, high=1)
    irregular: float = param(0.5, "How uneven the outlines are; 0 is perfectly round.", low=0, high=1)
    soft: float = param(0.15, "Width of the edge, as a share of the spot.", low=0, high=1)
    result: Literal["coverage", "depth", "spot"] = param(
        "coverage", "1 inside; or 1 at the middle falling to 0 at the edge; or a random value per spot, 0 outside."
    )
    flat: bool = param(True, "Spots lie in a plane and go right through along the axis; else they are balls.")
    axis: Literal["x", "y", "z"] = param("y", "Across the plane they lie in.")
    seed: int = param(0, "Another seed, another scatter.", low=0, high=2**31 - 1)
    space: Space = param("world", "What the pattern sticks to.", kind="place")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def _pattern(self, points: Points, out: Array) -> None:
        position = points.position(space_key(self.space))
        cells = position / np.float32(self.size)
        warp = np.zeros((2, points.count), np.float32)
        if self.flat:
            cells = cells.copy()
            cells[AXES[self.axis]] = np.where(np.isfinite(cells[AXES[self.axis]]), np.float32(0.5), np.float32(np.nan))
        if self.irregular > 0:
            for number, frequency in enumerate((1.9, 4.3)):
                scale = np.full(3, frequency, np.float32)
                noise_octave(cells, scale, np.uint32(self.seed), 201 + number, 0.0, 0, warp[number])
        uneven = np.float32(self.irregular) * (np.float32(0.8) * warp[0] + np.float32(0.4) * warp[1])
        spots(
            cells,
            uneven,
            points.footprint(space_key(self.space)) / np.float32(self.size),
            np.float32(self.density),
            np.float32(self.variation),
            np.float32(self.soft),
            -1 if not self.flat else AXES[self.axis],
            np.uint32(self.seed),
            RESULTS[self.result],
            out[0],
        )


@allocating
def spots(
    cells: Array,
    uneven: Array,
    footprint: Array,
    density: Float,
    variation: Float,
    soft: Float,
    flat: Int,
    seed: Int,
    result: Int,
    out: Array,
) -> None:
    """The strongest of the spots in the neighbouring cells; none reaches beyond its neighbours' cells.

    Cells outside, points inside, so that the inner loop becomes vector code.

    Parameters
    ----------
    cells : Array
        `(3, n)` coordinates in cells.
    uneven : Array
        `(n,)` what makes outlines irregular.
    footprint : Array
        `(n,)` width of a sample, in the pattern's units.
    density : float
        Share of cells that hold one, 0…1.
    variation : float
        Of sizes, 0…1.
    soft : float
        Width of an edge, as a share of the radius.
    flat : int
        Along which axis spots lie flat, by its number.
    seed : int
        Of the random numbers.
    result : int
        Which of the op's results, by its number.
    out : Array
        `(width, n)`, filled.
    """
    zero, one, half, unit = np.float32(0), np.float32(1), np.float32(0.5), np.float32(2.0**-24)
    count = out.shape[0]
    best, owner = np.zeros(count, np.float32), np.zeros(count, np.float32)
    for k in range(27):
        sx, sy, sz = k % 3 - 1, (k // 3) % 3 - 1, k // 9 - 1
        if (flat == 0 and sx != 0) or (flat == 1 and sy != 0) or (flat == 2 and sz != 0):
            continue
        wx, wy, wz = one if flat != 0 else zero, one if flat != 1 else zero, one if flat != 2 else zero
        mx, my, mz = np.float32(sx), np.float32(sy), np.float32(sz)
        for i in range(count):
            gx, gy, gz = np.floor(cells[0, i]) + mx, np.floor(cells[1, i]) + my, np.floor(cells[2, i]) + mz
            cx, cy, cz = np.uint32(np.int32(gx)), np.uint32(np.int32(gy)), np.uint32(np.int32(gz))
            own = cube_number(cx, cy, cz, seed, np.uint32(0))
            there = np.float32(mixed(np.uint32(own + np.uint32(1))) >> np.uint32(8)) * unit
            smaller = np.float32(mixed(np.uint32(own + np.uint32(2))) >> np.uint32(8)) * unit
            px, py, pz = place_in_cube(own)
            dx, dy, dz = wx * (gx + px - cells[0, i]), wy * (gy + py - cells[1, i]), wz * (gz + pz - cells[2, i])
            radius = max(half * (one - variation * smaller), np.float32(1e-6))
            inside = one - np.sqrt(dx * dx + dy * dy + dz * dz) / radius - uneven[i]
            # The edge is never narrower than a sample.
            edge = max(max(soft, footprint[i] / radius), np.float32(1e-6))
            soft_value = min(max(inside / edge + half, zero), one)
            soft_value = soft_value * soft_value * (np.float32(3) - np.float32(2) * soft_value)
            value = min(max(inside, zero), one) if result == 1 else soft_value
            value = value if there < density else zero
            mine = np.float32(mixed(np.uint32(own + np.uint32(3))) >> np.uint32(8)) * unit
            owner[i] = mine if value > best[i] else owner[i]
            best[i] = max(best[i], value)
    far = np.float32(1e9)
    for i in range(count):
        known = abs(cells[0, i]) < far and abs(cells[1, i]) < far and abs(cells[2, i]) < far
        out[i] = (owner[i] if result == 2 else best[i]) if known else np.float32(np.nan)
