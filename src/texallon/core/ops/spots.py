"""Scattered spots with uneven outlines: puddles, lichen, drops, rust. Perfectly round ones read as computer graphics."""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array, Real, Whole, kernel
from texallon.core.ops.cellular import cube_number, place_in_cube
from texallon.core.ops.height import AXES
from texallon.core.ops.lattice import mixed, noise_octave
from texallon.core.ops.op import Place, Source, footprint_in, param, place_key, position_in
from texallon.core.ops.points import Points

RESULTS = {"coverage": 0, "depth": 1, "spot": 2}


class Spots(Source):
    name: ClassVar[str] = "spots"
    group: ClassVar[str] = "patterns"
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
    space: Place = param("world", "What the pattern sticks to.", kind="place")

    def needs(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def places(self) -> tuple[Place, ...]:
        return (self.space,)

    def fill(self, points: Points, out: Array) -> None:
        position = points.position(place_key(self.space))
        cells = position / np.float32(self.size)
        bend = np.zeros((2, points.count), np.float32)
        if self.flat:
            cells = cells.copy()
            cells[AXES[self.axis]] = np.where(np.isfinite(cells[AXES[self.axis]]), np.float32(0.5), np.float32(np.nan))
        if self.irregular > 0:
            for number, frequency in enumerate((1.9, 4.3)):
                scale = np.full(3, frequency, np.float32)
                noise_octave(cells, scale, np.uint32(self.seed), 201 + number, 0.0, 0, bend[number])
        uneven = np.float32(self.irregular) * (np.float32(0.8) * bend[0] + np.float32(0.4) * bend[1])
        spots(
            cells,
            uneven,
            points.footprint(place_key(self.space)) / np.float32(self.size),
            np.float32(self.density),
            np.float32(self.variation),
            np.float32(self.soft),
            -1 if not self.flat else AXES[self.axis],
            np.uint32(self.seed),
            RESULTS[self.result],
            out[0],
        )


@kernel
def spots(
    cells: Array,
    uneven: Array,
    footprint: Array,
    density: Real,
    variation: Real,
    soft: Real,
    flat: Whole,
    seed: Whole,
    result: Whole,
    out: Array,
) -> None:
    """The strongest of the spots in the neighbouring cells; none reaches beyond its neighbours' cells."""
    zero, one, half = np.float32(0), np.float32(1), np.float32(0.5)
    for i in range(out.shape[0]):
        x, y, z = cells[0, i], cells[1, i], cells[2, i]
        if not (abs(x) < np.float32(1e9) and abs(y) < np.float32(1e9) and abs(z) < np.float32(1e9)):
            out[i] = np.float32(np.nan)
            continue
        fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
        best = zero
        owner = zero
        for k in range(27):
            sx, sy, sz = k % 3 - 1, (k // 3) % 3 - 1, k // 9 - 1
            if (flat == 0 and sx != 0) or (flat == 1 and sy != 0) or (flat == 2 and sz != 0):
                continue
            gx, gy, gz = fx + np.float32(sx), fy + np.float32(sy), fz + np.float32(sz)
            cx, cy, cz = np.uint32(np.int32(gx)), np.uint32(np.int32(gy)), np.uint32(np.int32(gz))
            own = cube_number(cx, cy, cz, seed, np.uint32(0))
            there = np.float32(mixed(np.uint32(own + np.uint32(1))) >> np.uint32(8)) * np.float32(2.0**-24)
            if there >= density:
                continue
            px, py, pz = place_in_cube(own)
            dx = zero if flat == 0 else gx + px - x
            dy = zero if flat == 1 else gy + py - y
            dz = zero if flat == 2 else gz + pz - z
            smaller = np.float32(mixed(np.uint32(own + np.uint32(2))) >> np.uint32(8)) * np.float32(2.0**-24)
            radius = half * (one - variation * smaller)
            away = np.sqrt(dx * dx + dy * dy + dz * dz) / max(radius, np.float32(1e-6)) + uneven[i]
            inside = one - away
            if result == 1:
                value = min(max(inside, zero), one)
            else:
                # The edge is never narrower than a sample.
                edge = max(soft, footprint[i] / max(radius, np.float32(1e-6)))
                value = inside / edge + half if edge > zero else (one if inside >= zero else zero)
                value = min(max(value, zero), one)
                value = value * value * (np.float32(3) - np.float32(2) * value)
            if value > best:
                best = value
                owner = np.float32(mixed(np.uint32(own + np.uint32(3))) >> np.uint32(8)) * np.float32(2.0**-24)
        out[i] = owner if result == 2 else best
