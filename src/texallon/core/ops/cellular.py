"""Cellular noise: distances to scattered feature points, the stuff of cracks, scales, pebbles and foam.

One feature point in each cube of the lattice, placed by a hash and drawn to the cube's centre by `jitter` (S. Worley, "A
Cellular Texture Basis Function", SIGGRAPH 1996). The 27 cubes about a point are searched: exact for the nearest point
wherever it lies within one cube's edge, which holds for all but a vanishing share of places at full jitter.
"""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array, Real, Whole, inlined, kernel
from texallon.core.ops.noise import mixed
from texallon.core.ops.op import Place, Source, param, place_key, position_in
from texallon.core.ops.points import Points

RESULTS = {"nearest": 0, "second": 1, "edge": 2, "cell": 3}
METRICS = {"straight": 0, "blocks": 1, "cubes": 2}


class Cellular(Source):
    name: ClassVar[str] = "cellular"
    purpose: ClassVar[str] = (
        "Distances to scattered points, in cell sizes: cells, cracks, scales; or a random value per cell."
    )
    reference: ClassVar[str] = "S. Worley, A Cellular Texture Basis Function, SIGGRAPH 1996 (F1, F2, F2 − F1)"
    phrase: ClassVar[str] = "cells of {size}, {result}"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    size: float = param(0.25, "Edge of the cube that holds one point.", unit="m", above=0, high=1e6)
    result: Literal["nearest", "second", "edge", "cell"] = param(
        "nearest",
        "Distance to the nearest point, to the second, the difference (0 on edges), or a random value per cell.",
    )
    metric: Literal["straight", "blocks", "cubes"] = param(
        "straight", "How distance is measured: |d|, Σ|dᵢ| or max|dᵢ|."
    )
    jitter: float = param(1.0, "How far points stray from their cubes' centres; 0 is a regular grid.", low=0, high=1)
    seed: int = param(0, "Another seed, another pattern.", low=0, high=2**31 - 1)
    space: Place = param("world", "What the pattern sticks to.", kind="place")

    def needs(self) -> frozenset[str]:
        return frozenset({position_in(self.space)})

    def places(self) -> tuple[Place, ...]:
        return (self.space,)

    def fill(self, points: Points, out: Array) -> None:
        cellular(
            points.position(place_key(self.space)),
            np.float32(1 / self.size),
            RESULTS[self.result],
            METRICS[self.metric],
            np.float32(self.jitter),
            np.uint32(self.seed),
            out[0],
        )


@inlined
def feature_point(x: Whole, y: Whole, z: Whole, seed: Whole, jitter: Real) -> tuple[Real, Real, Real, Whole]:
    """Where the point of a cube lies within it, 0…1 along each axis, and the cube's random number."""
    own = mixed(
        np.uint32(
            np.uint32(x * np.uint32(0x8DA6B343))
            ^ np.uint32(y * np.uint32(0xD8163841))
            ^ np.uint32(z * np.uint32(0xCB1AB31F))
            ^ mixed(np.uint32(seed + np.uint32(1)))
        )
    )
    to_unit = np.float32(1 / 1024)
    half = np.float32(0.5)
    px = half + jitter * (np.float32(own & np.uint32(1023)) * to_unit - half)
    py = half + jitter * (np.float32((own >> np.uint32(10)) & np.uint32(1023)) * to_unit - half)
    pz = half + jitter * (np.float32((own >> np.uint32(20)) & np.uint32(1023)) * to_unit - half)
    return px, py, pz, own


@kernel
def cellular(
    position: Array, frequency: Real, result: Whole, metric: Whole, jitter: Real, seed: Whole, out: Array
) -> None:
    """Neighbouring cubes outside, points inside, so that the search becomes vector code."""
    count = out.shape[0]
    first, second = np.empty(count, np.float32), np.empty(count, np.float32)
    cell = np.empty(count, np.uint32)
    for i in range(count):
        first[i] = second[i] = np.float32(1e30)
        cell[i] = np.uint32(0)
    for k in range(27):
        sx, sy, sz = k % 3 - 1, (k // 3) % 3 - 1, k // 9 - 1
        gx, gy, gz = np.float32(sx), np.float32(sy), np.float32(sz)
        for i in range(count):
            x, y, z = position[0, i] * frequency, position[1, i] * frequency, position[2, i] * frequency
            fx, fy, fz = np.floor(x) + gx, np.floor(y) + gy, np.floor(z) + gz
            px, py, pz, own = feature_point(
                np.uint32(np.int32(fx)), np.uint32(np.int32(fy)), np.uint32(np.int32(fz)), seed, jitter
            )
            ax, ay, az = abs(fx + px - x), abs(fy + py - y), abs(fz + pz - z)
            straight = np.sqrt(ax * ax + ay * ay + az * az)
            d = straight if metric == 0 else (ax + ay + az if metric == 1 else max(ax, ay, az))
            nearer = d < first[i]
            second[i] = first[i] if nearer else (d if d < second[i] else second[i])
            cell[i] = own if nearer else cell[i]
            first[i] = d if nearer else first[i]
    for i in range(count):
        if result == 0:
            value = first[i]
        elif result == 1:
            value = second[i]
        elif result == 2:
            value = second[i] - first[i]
        else:
            value = np.float32(mixed(cell[i]) >> np.uint32(8)) * np.float32(2.0**-24)
        # No comparison held where the position is not a number.
        out[i] = value if first[i] < np.float32(1e29) else np.float32(np.nan)
