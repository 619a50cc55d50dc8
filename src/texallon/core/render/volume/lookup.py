"""Looking up what a volume is like at a point: the brick, and the value between its corners."""

import numpy as np

from texallon.core.geometry.peek import float_at, half_word_at, put_word, word_at
from texallon.core.kernel import Float, Int, inlined
from texallon.core.render.volume.between_corners import three_between
from texallon.core.render.volume.quantities import (
    ABSORPTION,
    CORNERS,
    DENSITY,
    EMISSION,
    EMPTY,
    HEADER,
    MOST_LEVELS,
    RECENT,
    SCATTERING,
    SIDE,
    VALUES,
)
from texallon.core.render.volume.tables import (
    HEADERS,
    NOTED_BITS,
    SCALES,
    STAMPS,
    TABLE,
    VALUES_AT,
    Scratch,
    VolumeTables,
    Wanted,
)

NUDGE = 1e-5
"""Of a cell: how far a ray is taken to have gone into the brick that it enters."""

THICK = 64.0
"""Tentative collisions in a brick from which on it is followed in small steps instead, each taken to be even: where nearly all of them would come to nothing they
would take for ever."""

BLEND = 0.15
"""Where one level goes over into the next both are met, over so much of a level, so that no edge is seen."""


SHRINK = np.array([0.5**level for level in range(MOST_LEVELS)])
"""Cells of each level for one of the finest, along a side."""


@inlined
def level_for(tables: VolumeTables, k: Int, footprint: Float, shift: Float) -> Int:
    """The level whose cells are about as wide as some samples.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    k : int
        Number of the volume.
    footprint : float
        Metres that a sample stands for.
    shift : float
        0…1, random: see `BLEND`.
    """
    # Compared rather than taken the logarithm of: this is asked for each brick.
    wide = footprint * tables.samples_across / tables.cell_world[k] * (1.0 + BLEND * shift)
    level: Int = 0
    last = tables.levels[k] - 1
    while wide >= 2.0 and level < last:
        level += 1
        wide *= 0.5
    return level


@inlined
def note_wanted(wanted: Wanted, k: Int, level: Int, number: Int) -> None:
    """Take down a brick that is not there.

    Parameters
    ----------
    wanted : Wanted
        Added to.
    k : int
        Number of the volume.
    level : int
        Of the brick.
    number : int
        Of the brick within the level.
    """
    code = (np.int64(k * MOST_LEVELS + level) << 32) | np.int64(number)
    slot = (np.uint64(code) * np.uint64(0x9E3779B97F4A7C15)) >> np.uint64(64 - NOTED_BITS)
    if wanted.noted[slot] == code:  # most are missed by many rays one after the other
        return
    wanted.noted[slot] = code
    at = wanted.total[0]
    if at < wanted.code.shape[0]:
        wanted.code[at] = code
    wanted.total[0] = at + 1


@inlined
def enter_brick(tables: VolumeTables, scratch: Scratch, s: Int, t: Float, level: Int, wanted: Wanted) -> bool:
    """Find the brick that a segment's ray is in just after `t`; whether it was there at the level.

    Where it was not, a coarser one stands in for it.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        Its brick, level, corner and exit are set.
    s : int
        Number of the segment.
    t : float
        Metres along the ray.
    level : int
        Of the brick.
    wanted : Wanted
        Added to.
    """
    k = scratch.volume[s]
    # On a wall between two bricks the ray is in the one that it goes into.
    after = t + NUDGE * tables.cell_world[k] * (1 << level)
    px = scratch.origin[0, s] + after * scratch.way[0, s]
    py = scratch.origin[1, s] + after * scratch.way[1, s]
    pz = scratch.origin[2, s] + after * scratch.way[2, s]
    found = level
    there = True
    entry: Int = 0
    while True:
        scale = SHRINK[found] / SIDE
        nx, ny, nz = tables.dims[k, found, 0], tables.dims[k, found, 1], tables.dims[k, found, 2]
        bx = min(max(int(px * scale), 0), nx - 1)
        by = min(max(int(py * scale), 0), ny - 1)
        bz = min(max(int(pz * scale), 0), nz - 1)
        if found == level:
            # The ray leaves the brick that was looked for, also where another stands in for it: so a missing one hides no other.
            size = float(SIDE << level)
            wx, wy, wz = scratch.inverse[0, s], scratch.inverse[1, s], scratch.inverse[2, s]
            leave = ((bx + (1.0 if wx > 0.0 else 0.0)) * size - scratch.origin[0, s]) * wx
            leave = min(leave, ((by + (1.0 if wy > 0.0 else 0.0)) * size - scratch.origin[1, s]) * wy)
            leave = min(leave, ((bz + (1.0 if wz > 0.0 else 0.0)) * size - scratch.origin[2, s]) * wz)
            scratch.exit[s] = max(leave, after)
        number = (bz * ny + by) * nx + bx
        entry = np.int32(word_at(tables.addresses[k, TABLE] + 4 * np.int64(tables.first[k, found] + number)))
        if entry > tables.room[k]:
            entry = 0
        if entry != 0:
            scratch.corner[0, s], scratch.corner[1, s], scratch.corner[2, s] = SIDE * bx, SIDE * by, SIDE * bz
            break
        if there:
            note_wanted(wanted, k, found, number)
        there = False
        if found >= tables.levels[k] - 1:
            entry = EMPTY
            break
        found += 1
    scratch.level[s] = found
    scratch.brick[s] = entry - 1 if entry > 0 else -1
    if entry > 0:
        # Seldom written: threads would take the line from each other.
        stamp = tables.addresses[k, STAMPS] + 4 * np.int64(entry - 1)
        if np.int32(word_at(stamp)) <= tables.tick - RECENT:
            put_word(stamp, np.int32(tables.tick))
    return there or tables.accept != 0


@inlined
def header(tables: VolumeTables, k: Int, brick: Int, which: Int) -> Float:
    """What a brick is bounded by.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    k : int
        Number of the volume.
    brick : int
        Its number.
    which : int
        Row of a header.
    """
    return float_at(tables.addresses[k, HEADERS] + 4 * (np.int64(brick) * HEADER + which))


@inlined
def value_at(
    tables: VolumeTables, k: Int, brick: Int, quantity: Int,
    base: Int, fx: Float, fy: Float, fz: Float,
) -> Float:  # fmt: skip
    """A quantity between the corners of a brick's cell.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    k : int
        Number of the volume.
    brick : int
        Its number.
    quantity : int
        One of the quantities.
    base : int
        Number of the cell's first corner within the brick.
    fx, fy, fz : float
        Where between the corners, 0…1.
    """
    row = tables.row_of[k, quantity]
    if row < 0:
        return tables.constant[k, quantity]
    rows = tables.rows[k]
    at = tables.addresses[k, VALUES_AT] + 2 * ((np.int64(brick) * VALUES + base) * rows + row)
    one = 2 * rows
    line, layer = CORNERS * one, CORNERS * CORNERS * one
    gx = 1.0 - fx
    a = half_word_at(at) * gx + half_word_at(at + one) * fx
    b = half_word_at(at + line) * gx + half_word_at(at + line + one) * fx
    c = half_word_at(at + layer) * gx + half_word_at(at + layer + one) * fx
    d = half_word_at(at + layer + line) * gx + half_word_at(at + layer + line + one) * fx
    between = (a * (1.0 - fy) + b * fy) * (1.0 - fz) + (c * (1.0 - fy) + d * fy) * fz
    scale = tables.addresses[k, SCALES] + 8 * (np.int64(brick) * rows + row)
    return float_at(scale) + float_at(scale + 4) * between


@inlined
def three_at(
    tables: VolumeTables, k: Int, brick: Int, quantity: Int,
    base: Int, fx: Float, fy: Float, fz: Float,
) -> tuple[Float, Float, Float]:  # fmt: skip
    """Red, green and blue of a quantity between the corners of a brick's cell: as `value_at` of three, with what they share done once.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    k : int
        Number of the volume.
    brick : int
        Its number.
    quantity : int
        The first of the three.
    base : int
        Number of the cell's first corner within the brick.
    fx, fy, fz : float
        Where between the corners, 0…1.
    """
    row = tables.row_of[k, quantity]
    # A colour is stored whole or not at all, in rows that follow each other.
    if row < 0:
        return tables.constant[k, quantity], tables.constant[k, quantity + 1], tables.constant[k, quantity + 2]
    rows = np.int64(tables.rows[k])
    at = tables.addresses[k, VALUES_AT] + 2 * ((np.int64(brick) * VALUES + base) * rows + row)
    line, layer = 2 * CORNERS * rows, 2 * CORNERS * CORNERS * rows
    r, g, b = three_between(at, 2 * rows, line, layer, np.float32(fx), np.float32(fy), np.float32(fz))
    scale = tables.addresses[k, SCALES] + 8 * (np.int64(brick) * rows + row)
    return (
        np.float64(float_at(scale) + float_at(scale + 4) * r),
        np.float64(float_at(scale + 8) + float_at(scale + 12) * g),
        np.float64(float_at(scale + 16) + float_at(scale + 20) * b),
    )


@inlined
def place_in_brick(tables: VolumeTables, scratch: Scratch, s: Int, t: Float) -> tuple[Int, Float, Float, Float]:
    """Where a point of a segment lies in its brick: the number of its cell's first corner, and where between the corners.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        Of the ray.
    s : int
        Number of the segment.
    t : float
        Metres along the ray.
    """
    scale = SHRINK[scratch.level[s]]
    px = (scratch.origin[0, s] + t * scratch.way[0, s]) * scale - scratch.corner[0, s]
    py = (scratch.origin[1, s] + t * scratch.way[1, s]) * scale - scratch.corner[1, s]
    pz = (scratch.origin[2, s] + t * scratch.way[2, s]) * scale - scratch.corner[2, s]
    px, py, pz = min(max(px, 0.0), float(SIDE)), min(max(py, 0.0), float(SIDE)), min(max(pz, 0.0), float(SIDE))
    cx, cy, cz = min(int(px), SIDE - 1), min(int(py), SIDE - 1), min(int(pz), SIDE - 1)
    return (cz * CORNERS + cy) * CORNERS + cx, px - cx, py - cy, pz - cz


@inlined
def coefficients_at(
    tables: VolumeTables, scratch: Scratch, count: Int, t: Float
) -> tuple[Float, Float, Float, Float, Float, Float]:
    """What all volumes at a point of a ray scatter and absorb together, per metre: red, green and blue of each.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        The ray's segments, with the bricks that it is in.
    count : int
        How many segments there are.
    t : float
        Metres along the ray.
    """
    sr = sg = sb = ar = ag = ab = 0.0
    for s in range(count):
        if scratch.enter[s] > t or scratch.leave[s] <= t or scratch.brick[s] < 0:
            continue
        k, brick = scratch.volume[s], scratch.brick[s]
        base, fx, fy, fz = place_in_brick(tables, scratch, s, t)
        density = value_at(tables, k, brick, DENSITY, base, fx, fy, fz)
        if density <= 0.0:
            continue
        r, g, b = three_at(tables, k, brick, SCATTERING, base, fx, fy, fz)
        sr, sg, sb = sr + density * r, sg + density * g, sb + density * b
        r, g, b = three_at(tables, k, brick, ABSORPTION, base, fx, fy, fz)
        ar, ag, ab = ar + density * r, ag + density * g, ab + density * b
    return sr, sg, sb, ar, ag, ab


@inlined
def thick_step(tables: VolumeTables, scratch: Scratch, count: Int, t: Float) -> Float:
    """How long a step is in which a medium that is very thick is taken to be even: a sixteenth of the smallest cell that a ray is in.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        The ray's segments, with the bricks that it is in.
    count : int
        How many segments there are.
    t : float
        Metres along the ray.
    """
    least = 1e30
    for s in range(count):
        if scratch.enter[s] > t or scratch.leave[s] <= t or scratch.brick[s] < 0:
            continue
        least = min(least, tables.cell_world[scratch.volume[s]] * (1 << scratch.level[s]))
    return least / 16.0


@inlined
def stored_emission_at(tables: VolumeTables, scratch: Scratch, s: Int, t: Float) -> tuple[Float, Float, Float]:
    """The radiance per metre that a volume's brick holds at a point of a segment.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        The ray's segments.
    s : int
        Number of the segment.
    t : float
        Metres along the ray.
    """
    er = eg = eb = 0.0
    k, brick = scratch.volume[s], scratch.brick[s]
    if brick >= 0:
        base, fx, fy, fz = place_in_brick(tables, scratch, s, t)
        er, eg, eb = three_at(tables, k, brick, EMISSION, base, fx, fy, fz)
    return er, eg, eb
