"""Cellular noise: distances to scattered feature points, the stuff of cracks, scales, pebbles and foam.

One feature point in each cube of the lattice, placed by a hash and drawn to the cube's centre by `jitter` (S. Worley, "A
Cellular Texture Basis Function", SIGGRAPH 1996). The 27 cubes about a point are searched: exact for the nearest point
wherever it lies within one cube's edge, which holds for all but a vanishing share of places at full jitter. Evolution lets
each point wander to another place in its cube with every whole number. Cells finer than a sample fade to their mean.
"""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np
import numpy.typing as npt

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, Float, Int, allocating, inlined
from texallon.core.ops.filtered import Filtered
from texallon.core.ops.lattice import fade, mixed, noise_octave
from texallon.core.ops.op import Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points

RESULTS = {"nearest": 0, "second": 1, "edge": 2, "cell": 3}
METRICS = {"straight": 0, "blocks": 1, "cubes": 2}


class Cellular(Filtered):
    fades: ClassVar[bool] = False
    name: ClassVar[str] = "cellular"
    category: ClassVar[str] = "noise"
    purpose: ClassVar[str] = (
        "Distances to scattered points, in cell sizes: cells, cracks, scales; or a random value or colour per cell."
    )
    reference: ClassVar[str] = "S. Worley, A Cellular Texture Basis Function, SIGGRAPH 1996 (F1, F2, F2 − F1)"
    phrase: ClassVar[str] = "cells of {size}, {result}"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."
    can_vary: ClassVar[tuple[str, ...]] = ("size", "evolution")
    bends: ClassVar[frozenset[str]] = frozenset({"size", "evolution"})

    size: float = param(0.25, "Edge of the cube that holds one point.", unit="m", above=0, high=1e6)
    scale: tuple[Finite, Finite, Finite] = param(
        (1.0, 1.0, 1.0), "Stretches the cells along each axis; 2 makes them twice as long. 0 counts as 1."
    )
    result: Literal["nearest", "second", "edge", "cell", "cell colour"] = param(
        "nearest",
        "Distance to the nearest point, to the second, the difference (0 on edges), or a random value or colour per cell.",
    )
    metric: Literal["straight", "blocks", "cubes"] = param(
        "straight", "How distance is measured: |d|, Σ|dᵢ| or max|dᵢ|."
    )
    jitter: float = param(1.0, "How far points stray from their cubes' centres; 0 is a regular grid.", low=0, high=1)
    evolution: Finite = param(0.0, "Lets the points wander, each in its cube.")
    speed: Finite = param(0.0, "How much evolution a second of the shot adds.", unit="/s")
    distortion: float = param(0.0, "How far noise moves the lookup, in sizes.", low=0, high=16)
    distortion_size: float = param(1.0, "Size of that noise, in sizes.", above=0, high=1e3)
    seed: int = param(0, "Another seed, another pattern.", low=0, high=2**31 - 1)
    space: Space = param("world", "What the pattern sticks to.", kind="place")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def time_dependent(self) -> bool:
        return self.speed != 0

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.result == "cell colour" else 1

    def unit(self) -> float:
        return float(self.size * min(abs(axis or 1.0) for axis in self.scale))

    def _pattern(self, points: Points, out: Array) -> None:
        varies = "size" in points.parameters
        size = 1.0 if varies else self.size  # what varies is divided by beforehand
        frequency = np.array([1.0 / (size * (axis or 1.0)) for axis in self.scale], np.float32)
        position = points.position(space_key(self.space))
        if varies:
            position = position / points.parameters["size"]
        evolution = points.parameters["evolution"][0] if "evolution" in points.parameters else self.evolution
        moments = np.atleast_1d(np.asarray(evolution + self.speed * points.time, np.float64))
        if self.distortion:
            moved = np.empty_like(position)
            coarser = (frequency / np.float32(self.distortion_size)).astype(np.float32)
            for row in range(3):
                noise_octave(position, coarser, np.uint32(self.seed), 101 + row, 0.0, 0, moved[row])
                moved[row] *= np.float32(self.distortion) / frequency[row]
            position = position + moved
        kind = "cell" if self.result == "cell colour" else self.result
        for row in range(out.shape[0]):
            cellular(
                position,
                frequency,
                RESULTS[kind],
                METRICS[self.metric],
                np.float32(self.jitter),
                np.uint32(self.seed),
                moments,
                np.uint32(row),
                out[row],
            )


@inlined
def cube_number(x: Int, y: Int, z: Int, seed: Int, slab: Int) -> Int:
    """A cube's random number.

    Parameters
    ----------
    x, y, z : int
        Coordinate.
    seed : int
        Of the random numbers.
    slab : int
        Integer part of the evolution.
    """
    return mixed(
        np.uint32(
            np.uint32(x * np.uint32(0x8DA6B343))
            ^ np.uint32(y * np.uint32(0xD8163841))
            ^ np.uint32(z * np.uint32(0xCB1AB31F))
            ^ mixed(np.uint32(seed + np.uint32(slab * np.uint32(0x7FEB352D)) + np.uint32(1)))
        )
    )


@inlined
def place_in_cube(own: Int) -> tuple[Float, Float, Float]:
    """0…1 along each axis.

    Parameters
    ----------
    own : int
        Random bits of a cube.
    """
    to_unit = np.float32(1 / 1024)
    return (
        np.float32(own & np.uint32(1023)) * to_unit,
        np.float32((own >> np.uint32(10)) & np.uint32(1023)) * to_unit,
        np.float32((own >> np.uint32(20)) & np.uint32(1023)) * to_unit,
    )


@inlined
def feature_point(x: Int, y: Int, z: Int, seed: Int, jitter: Float) -> tuple[Float, Float, Float, Int]:
    """Where the point of a cube lies within it at evolution 0, and the cube's random number.

    Parameters
    ----------
    x, y, z : int
        Coordinate.
    seed : int
        Of the random numbers.
    jitter : float
        How far feature points stray, 0…1.
    """
    own = cube_number(x, y, z, seed, np.uint32(0))
    px, py, pz = place_in_cube(own)
    half = np.float32(0.5)
    return half + jitter * (px - half), half + jitter * (py - half), half + jitter * (pz - half), own


@inlined
def distance(metric: Int, ax: Float, ay: Float, az: Float) -> Float:
    """How far away something is, by a metric.

    Parameters
    ----------
    metric : int
        Which distance, by its number.
    ax : float
        Distance along x.
    ay : float
        Distance along y.
    az : float
        Distance along z.
    """
    straight = np.sqrt(ax * ax + ay * ay + az * az)
    return straight if metric == 0 else (ax + ay + az if metric == 1 else max(ax, ay, az))


@allocating
def cellular(
    position: Array,
    frequency: Array,
    result: Int,
    metric: Int,
    jitter: Float,
    seed: Int,
    evolution: npt.NDArray[np.float64],
    salt: Int,
    out: Array,
) -> None:
    """Neighbouring cubes outside, points inside, so that the search becomes vector code.

    Parameters
    ----------
    position : Array
        `(3, n)` positions in `space`, in its units.
    frequency : Array
        `(3,)` cells to a unit.
    result : int
        Which of the op's results, by its number.
    metric : int
        Which distance, by its number.
    jitter : float
        How far feature points stray, 0…1.
    seed : int
        Of the random numbers.
    evolution : Array
        `(1,)` or `(n,)` position along the fourth axis, float64.
    salt : int
        Tells one source's random numbers from another's.
    out : Array
        `(width, n)`, filled.
    """
    count = out.shape[0]
    first, second = np.empty(count, np.float32), np.empty(count, np.float32)
    winner = np.empty(count, np.int32)
    each = evolution.shape[0] > 1
    still = not each and evolution[0] == np.floor(evolution[0])
    slab = np.uint32(np.int64(np.floor(evolution[0])))
    later = fade(np.float32(evolution[0] - np.floor(evolution[0])))
    half = np.float32(0.5)
    ax, ay, az = frequency[0], frequency[1], frequency[2]
    for i in range(count):
        first[i] = second[i] = np.float32(1e30)
        winner[i] = np.int32(0)
    for k in range(27):
        sx, sy, sz = k % 3 - 1, (k // 3) % 3 - 1, k // 9 - 1
        gx, gy, gz = np.float32(sx), np.float32(sy), np.float32(sz)
        number = np.int32(k)
        if still:
            for i in range(count):
                x, y, z = position[0, i] * ax, position[1, i] * ay, position[2, i] * az
                fx, fy, fz = np.floor(x) + gx, np.floor(y) + gy, np.floor(z) + gz
                cx, cy, cz = np.uint32(np.int32(fx)), np.uint32(np.int32(fy)), np.uint32(np.int32(fz))
                px, py, pz = place_in_cube(cube_number(cx, cy, cz, seed, slab))
                px, py, pz = half + jitter * (px - half), half + jitter * (py - half), half + jitter * (pz - half)
                d = distance(metric, abs(fx + px - x), abs(fy + py - y), abs(fz + pz - z))
                nearer = d < first[i]
                second[i] = first[i] if nearer else (d if d < second[i] else second[i])
                winner[i] = number if nearer else winner[i]
                first[i] = d if nearer else first[i]
        elif each:
            for i in range(count):
                x, y, z = position[0, i] * ax, position[1, i] * ay, position[2, i] * az
                fx, fy, fz = np.floor(x) + gx, np.floor(y) + gy, np.floor(z) + gz
                cx, cy, cz = np.uint32(np.int32(fx)), np.uint32(np.int32(fy)), np.uint32(np.int32(fz))
                own_slab = np.uint32(np.int64(np.floor(evolution[i])))
                own_later = fade(np.float32(evolution[i] - np.floor(evolution[i])))
                px, py, pz = place_in_cube(cube_number(cx, cy, cz, seed, own_slab))
                qx, qy, qz = place_in_cube(cube_number(cx, cy, cz, seed, np.uint32(own_slab + np.uint32(1))))
                px, py, pz = px + own_later * (qx - px), py + own_later * (qy - py), pz + own_later * (qz - pz)
                px, py, pz = half + jitter * (px - half), half + jitter * (py - half), half + jitter * (pz - half)
                d = distance(metric, abs(fx + px - x), abs(fy + py - y), abs(fz + pz - z))
                nearer = d < first[i]
                second[i] = first[i] if nearer else (d if d < second[i] else second[i])
                winner[i] = number if nearer else winner[i]
                first[i] = d if nearer else first[i]
        else:
            for i in range(count):
                x, y, z = position[0, i] * ax, position[1, i] * ay, position[2, i] * az
                fx, fy, fz = np.floor(x) + gx, np.floor(y) + gy, np.floor(z) + gz
                cx, cy, cz = np.uint32(np.int32(fx)), np.uint32(np.int32(fy)), np.uint32(np.int32(fz))
                px, py, pz = place_in_cube(cube_number(cx, cy, cz, seed, slab))
                qx, qy, qz = place_in_cube(cube_number(cx, cy, cz, seed, np.uint32(slab + np.uint32(1))))
                px, py, pz = px + later * (qx - px), py + later * (qy - py), pz + later * (qz - pz)
                px, py, pz = half + jitter * (px - half), half + jitter * (py - half), half + jitter * (pz - half)
                d = distance(metric, abs(fx + px - x), abs(fy + py - y), abs(fz + pz - z))
                nearer = d < first[i]
                second[i] = first[i] if nearer else (d if d < second[i] else second[i])
                winner[i] = number if nearer else winner[i]
                first[i] = d if nearer else first[i]
    for i in range(count):
        value = first[i]
        if result == 1:
            value = second[i]
        elif result == 2:
            value = second[i] - first[i]
        elif result == 3:
            # A cell keeps its value while its point wanders.
            k = winner[i]
            fx = np.floor(position[0, i] * ax) + np.float32(k % 3 - 1)
            fy = np.floor(position[1, i] * ay) + np.float32((k // 3) % 3 - 1)
            fz = np.floor(position[2, i] * az) + np.float32(k // 9 - 1)
            cx, cy, cz = np.uint32(np.int32(fx)), np.uint32(np.int32(fy)), np.uint32(np.int32(fz))
            own = cube_number(cx, cy, cz, seed, np.uint32(0))
            value = np.float32(mixed(np.uint32(own + salt)) >> np.uint32(8)) * np.float32(2.0**-24)
        # No comparison held where the position is not a number.
        known = first[i] < np.float32(1e29) and not (each and not abs(evolution[i]) < 1e9)
        out[i] = value if known else np.float32(np.nan)
