"""Volumes that shine as lights to be asked: in which part of which, by how much light it sends out.

A volume's light is looked at on a coarse lattice. Scattered rays find whatever that misses, so no light is lost (multiple importance
sampling): a place y at t metres is found by asking with the density `p t²` for each steradian and metre, `p` per cubic metre, and by a scattered ray with
its density per steradian, over a length that stands for how closely rays look along their way.
"""

from math import sqrt
from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Float, Int, Integers, inlined
from texallon.core.render.light.environment import find_interval

ALONG = 16.0
"""Of a volume's widest side, the part of it that stands for how closely scattered rays look."""


class VolumeLights(NamedTuple):
    """Of k volumes, those that shine, in cells.

    Attributes
    ----------
    cumulative : Array
        `(c + 1,)` chances of cells.
    volume : Integers
        `(c,)` which volume each lies in.
    per_volume : Array
        `(c,)` chance per cubic metre.
    grains : Array
        `(c, 3)` radiance per metre of bright points, on average, as all but the camera's own rays see them.
    first : Integers
        `(k,)` where a volume's cells begin; −1 where it is dark.
    low, cell : Array
        `(k, 3)` corner of its lattice and size of a cell, in its own space.
    dims : Integers
        `(k, 3)` cells along each axis.
    matrix : Array
        `(k, 3, 4)` from its space into the world.
    along : Array
        `(k,)` metres that stand for how closely scattered rays look.
    group : Integers
        `(k,)` light groups.
    power : float
        That all send out, about.
    """

    cumulative: Array
    volume: Integers
    per_volume: Array
    grains: Array
    first: Integers
    low: Array
    cell: Array
    dims: Integers
    matrix: Array
    along: Array
    group: Integers
    power: float


class ShiningVolume(NamedTuple):
    """One volume as `make_volume_lights` takes it: `power (nz, ny, nx)` of its cells, about; the radiance per metre of its bright points, `grains
    (3, nz, ny, nx)`, on average; its corner `low (3,)` and `cell (3,)` in its own space, its `matrix (3, 4)` into the world, and its light group."""

    power: Array
    grains: Array
    low: Array
    cell: Array
    matrix: Array
    group: int


EVEN = 0.05
"""Share of asking that goes to a shining volume's cells by their size alone."""


def make_volume_lights(volumes: tuple[ShiningVolume, ...]) -> VolumeLights:
    """The volumes of a shot as lights.

    Parameters
    ----------
    volumes : tuple of ShiningVolume
        All, in order; what is dark has no power.
    """
    count = len(volumes)
    chances, of_volume, sizes, grains = [], [], [], []
    first = np.full(max(count, 1), -1, np.int32)
    low, cell = np.zeros((max(count, 1), 3), np.float32), np.ones((max(count, 1), 3), np.float32)
    dims, along = np.ones((max(count, 1), 3), np.int32), np.ones(max(count, 1), np.float32)
    matrix = np.zeros((max(count, 1), 3, 4), np.float32)
    group = np.zeros(max(count, 1), np.int32)
    number, total = 0, 0.0
    for k, each in enumerate(volumes):
        matrix[k], low[k], cell[k] = each.matrix, each.low, each.cell
        dims[k] = each.power.shape[::-1]
        scale = np.linalg.norm(each.matrix[:, :3].astype(np.float64), axis=0)
        along[k] = float((each.cell * dims[k] * scale).max()) / ALONG
        group[k] = each.group
        power = each.power.astype(np.float64).ravel()
        if power.sum() <= 0:
            continue
        first[k] = number
        number += len(power)
        size = abs(float(np.linalg.det(each.matrix[:, :3].astype(np.float64)))) * float(np.prod(each.cell))
        total += float(power.sum())
        chances.append((1 - EVEN) * power + EVEN * power.sum() / len(power))
        of_volume.append(np.full(len(power), k, np.int32))
        sizes.append(np.full(len(power), size))
        grains.append(each.grains.reshape(3, -1).T)
    if not chances:
        return VolumeLights(
            np.zeros(1, np.float32), np.zeros(0, np.int32), np.zeros(0, np.float32), np.zeros((0, 3), np.float32), first, low, cell, dims, matrix, along,
            group, 0.0,
        )  # fmt: skip
    chance = np.concatenate(chances)
    cumulative = (np.concatenate([[0], np.cumsum(chance)]) / chance.sum()).astype(np.float32)
    drawn = np.diff(cumulative.astype(np.float64))  # as it is drawn, after rounding
    per_volume = drawn / np.concatenate(sizes)
    return VolumeLights(
        cumulative, np.concatenate(of_volume), per_volume.astype(np.float32),
        np.ascontiguousarray(np.concatenate(grains), np.float32), first, low, cell, dims, matrix, along, group,
        total * 4 * np.pi,
    )  # fmt: skip


@inlined
def sample_volume(
    lights: VolumeLights, px: Float, py: Float, pz: Float, pick: Float, u: Float, v: Float
) -> tuple[Int, Float, Float, Float, Float, Float]:
    """Choose a place in a shining volume, seen from a point.

    Parameters
    ----------
    lights : VolumeLights
        All volumes.
    px, py, pz : float
        Of the point, metres.
    pick, u, v : float
        Random numbers in [0, 1).

    Returns
    -------
    tuple
        The volume, unit direction, metres, and density per steradian, `along` metres taken together.
    """
    at = find_interval(lights.cumulative, pick)
    span = lights.cumulative[at + 1] - lights.cumulative[at]
    w = min(max((pick - lights.cumulative[at]) / span if span > 0.0 else 0.5, 0.0), 1.0)
    k = lights.volume[at]
    number = at - lights.first[k]
    nx, ny = lights.dims[k, 0], lights.dims[k, 1]
    x = lights.low[k, 0] + (number % nx + u) * lights.cell[k, 0]
    y = lights.low[k, 1] + (number // nx % ny + v) * lights.cell[k, 1]
    z = lights.low[k, 2] + (number // (nx * ny) + w) * lights.cell[k, 2]
    m = lights.matrix
    wx = m[k, 0, 0] * x + m[k, 0, 1] * y + m[k, 0, 2] * z + m[k, 0, 3] - px
    wy = m[k, 1, 0] * x + m[k, 1, 1] * y + m[k, 1, 2] * z + m[k, 1, 3] - py
    wz = m[k, 2, 0] * x + m[k, 2, 1] * y + m[k, 2, 2] * z + m[k, 2, 3] - pz
    away2 = max(wx * wx + wy * wy + wz * wz, 1e-12)
    far = sqrt(away2)
    return k, wx / far, wy / far, wz / far, far, lights.per_volume[at] * away2 * lights.along[k]


@inlined
def light_cell(lights: VolumeLights, k: Int, x: Float, y: Float, z: Float) -> Int:
    """The cell that a place lies in; −1 in a volume that is dark.

    Parameters
    ----------
    lights : VolumeLights
        All volumes.
    k : int
        Number of the volume.
    x, y, z : float
        The place in the volume's own space.
    """
    if lights.first[k] < 0:
        return -1
    nx, ny, nz = lights.dims[k, 0], lights.dims[k, 1], lights.dims[k, 2]
    a = min(max(int((x - lights.low[k, 0]) / lights.cell[k, 0]), 0), nx - 1)
    b = min(max(int((y - lights.low[k, 1]) / lights.cell[k, 1]), 0), ny - 1)
    c = min(max(int((z - lights.low[k, 2]) / lights.cell[k, 2]), 0), nz - 1)
    return lights.first[k] + (c * ny + b) * nx + a
