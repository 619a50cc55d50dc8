"""Bricks of one volume that a ray passes without being scattered: the greater part of what is seen of volumes.

What `track` does for volumes that overlap, for one that is alone, in few numbers that stay in registers: half the time. It ends where anything else may
happen, and leaves that to `track`.
"""

from math import exp
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.peek import float_at, put_word, word_at
from texallon.core.kernel import Float, Int, inlined
from texallon.core.render.volume.between_corners import three_between
from texallon.core.render.volume.lookup import BLEND, NUDGE, SHRINK, THICK
from texallon.core.render.volume.quantities import (
    CORNERS,
    EMISSION,
    EMPTY,
    GLOWS,
    HEADER,
    LEAST_ABSORPTION,
    MISSING,
    MOST_REST,
    RECENT,
    SIDE,
    VALUES,
)
from texallon.core.render.volume.tables import HEADERS, SCALES, STAMPS, TABLE, VALUES_AT, Scratch, VolumeTables

GOLDEN = 0.6180339887498949


class Passing(NamedTuple):
    """How a ray is under way: `t` metres from its origin; the optical depth to its next tentative collision (`budget`); the `phase` of its looks for light;
    what is left of it, `r`, `g` and `b`."""

    t: Float
    budget: Float
    phase: Float
    r: Float
    g: Float
    b: Float


class Cone(NamedTuple):
    """How widely a ray looks: its `width` at the origin and the `spread` for each metre, 0 or more; and the random `shift` of where levels change."""

    width: float
    spread: float
    shift: float


@inlined
def left_of(depth: Float) -> Float:
    """What is left after an optical depth: exp(−depth), by its series where that is as good.

    Parameters
    ----------
    depth : float
        0 or more.
    """
    if depth < 0.02:
        return 1.0 - depth * (1.0 - depth * (0.5 - depth * (1.0 / 6.0 - depth / 24.0)))
    return exp(-depth)


@inlined
def pass_bricks(
    tables: VolumeTables, scratch: Scratch, now: Passing, stop: Float, cone: Cone, glow: npt.NDArray[np.float64]
) -> Passing:
    """Follow a ray through the bricks of its only segment; gives how it is under way where it ends.

    It ends at `stop`, at the segment's end, and before a brick that is missing, so thick that it is followed in small steps, or in which the next
    tentative collision lies.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        The ray's segment, the first.
    now : Passing
        How it is under way; within the segment.
    stop : float
        Metres.
    cone : Cone
        How widely it looks.
    glow : Array
        `(groups, 3)` the light found, added to.
    """
    k: Int = scratch.volume[0]
    end = min(scratch.leave[0], stop)
    ox, oy, oz = scratch.origin[0, 0], scratch.origin[1, 0], scratch.origin[2, 0]
    wx, wy, wz = scratch.way[0, 0], scratch.way[1, 0], scratch.way[2, 0]
    ix, iy, iz = scratch.inverse[0, 0], scratch.inverse[1, 0], scratch.inverse[2, 0]
    ax, ay, az = (1.0 if ix > 0.0 else 0.0), (1.0 if iy > 0.0 else 0.0), (1.0 if iz > 0.0 else 0.0)
    table, headers, stamps = tables.addresses[k, TABLE], tables.addresses[k, HEADERS], tables.addresses[k, STAMPS]
    values, scales = tables.addresses[k, VALUES_AT], tables.addresses[k, SCALES]
    rows, row = np.int64(tables.rows[k]), np.int64(tables.row_of[k, EMISSION])
    one, line, layer = 2 * rows, 2 * CORNERS * rows, 2 * CORNERS * CORNERS * rows
    er: Float = np.float64(tables.constant[k, EMISSION])
    eg: Float = np.float64(tables.constant[k, EMISSION + 1])
    eb: Float = np.float64(tables.constant[k, EMISSION + 2])
    # As `level_for`: how many of the finest cells a sample stands for, here and for each metre further.
    finest = tables.samples_across / tables.cell_world[k] * (1.0 + BLEND * cone.shift)
    wide, widens = (cone.width + cone.spread * 4.0 * tables.cell_world[k]) * finest, cone.spread * finest
    t, budget, phase, tr, tg, tb = now.t, now.budget, now.phase, now.r, now.g, now.b
    last = np.int64(tables.levels[k] - 1)
    level: Int = np.int64(0)
    coarser = 2.0
    while wide + widens * t >= coarser and level < last:
        level += 1
        coarser *= 2.0
    level, coarser = level - 1, coarser * 0.5
    next_level = t
    cells: Float = 0.0
    scale = size = nudge = gr = gg = gb = cells
    first: Int = np.int64(0)
    nx = ny = nz = first
    while t < end:
        if t >= next_level:
            level, coarser = level + 1, coarser * 2.0
            next_level = (coarser - wide) / widens if level < last and widens > 0.0 else 1e300
            cells = SHRINK[level]
            scale, size, nudge = cells / SIDE, SIDE / cells, NUDGE * tables.cell_world[k] / cells
            nx, ny = np.int64(tables.dims[k, level, 0]), np.int64(tables.dims[k, level, 1])
            nz, first = np.int64(tables.dims[k, level, 2]), np.int64(tables.first[k, level])
        after = t + nudge
        bx: Int = min(max(np.int64((ox + after * wx) * scale), 0), nx - 1)
        by: Int = min(max(np.int64((oy + after * wy) * scale), 0), ny - 1)
        bz: Int = min(max(np.int64((oz + after * wz) * scale), 0), nz - 1)
        entry = np.int64(np.int32(word_at(table + 4 * (first + (bz * ny + by) * nx + bx))))
        if entry == MISSING or entry > tables.room[k]:
            break
        leave: Float = ((bx + ax) * size - ox) * ix
        leave = min(leave, ((by + ay) * size - oy) * iy)
        leave = min(leave, ((bz + az) * size - oz) * iz)
        leave = min(max(leave, after), end)
        if entry == EMPTY:
            t = leave
            continue
        brick = entry - 1
        head = headers + 4 * HEADER * brick
        span = leave - t
        depth = float_at(head + 4 * MOST_REST) * span
        if depth >= budget or depth > THICK:
            break
        stamp = stamps + 4 * brick
        if np.int32(word_at(stamp)) <= tables.tick - RECENT:
            put_word(stamp, np.int32(tables.tick))
        budget -= depth
        ar = float_at(head + 4 * LEAST_ABSORPTION)
        ag, ab = float_at(head + 4 * LEAST_ABSORPTION + 4), float_at(head + 4 * LEAST_ABSORPTION + 8)
        absorbs = ar + ag + ab > np.float32(0)
        if float_at(head + 4 * GLOWS) > np.float32(0):
            phase += GOLDEN
            phase -= 1.0 if phase >= 1.0 else 0.0
            step = phase * span
            if row >= 0:
                look = t + step
                px: Float = min(max((ox + look * wx) * cells - SIDE * bx, 0.0), float(SIDE))
                py: Float = min(max((oy + look * wy) * cells - SIDE * by, 0.0), float(SIDE))
                pz: Float = min(max((oz + look * wz) * cells - SIDE * bz, 0.0), float(SIDE))
                cx: Int = min(np.int64(px), SIDE - 1)
                cy: Int = min(np.int64(py), SIDE - 1)
                cz: Int = min(np.int64(pz), SIDE - 1)
                value = values + 2 * ((brick * VALUES + (cz * CORNERS + cy) * CORNERS + cx) * rows + row)
                vr, vg, vb = three_between(
                    value, one, line, layer, np.float32(px - cx), np.float32(py - cy), np.float32(pz - cz)
                )
                least = scales + 8 * (brick * rows + row)
                er = np.float64(float_at(least) + float_at(least + 4) * vr)
                eg = np.float64(float_at(least + 8) + float_at(least + 12) * vg)
                eb = np.float64(float_at(least + 16) + float_at(least + 20) * vb)
            if absorbs:
                gr += tr * left_of(ar * step) * er * span
                gg += tg * left_of(ag * step) * eg * span
                gb += tb * left_of(ab * step) * eb * span
            else:
                gr, gg, gb = gr + tr * er * span, gg + tg * eg * span, gb + tb * eb * span
        if absorbs:
            tr, tg, tb = tr * left_of(ar * span), tg * left_of(ag * span), tb * left_of(ab * span)
        t = leave
    group = tables.group[k]
    glow[group, 0] += gr
    glow[group, 1] += gg
    glow[group, 2] += gb
    return Passing(t, budget, phase, tr, tg, tb)
