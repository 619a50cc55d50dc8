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
from texallon.core.render.transport.emission_lookups import (
    FARTHEST,
    FIRST_LOOKUPS,
    LOOKUPS,
    NEAREST,
    Steps,
    defer_lookup,
    gather_emission,
    spread_over,
)
from texallon.core.render.volume.lookup import BLEND, NUDGE, SHRINK, THICK
from texallon.core.render.volume.quantities import (
    CORNERS,
    EMISSION,
    EMPTY,
    GLOW,
    HEADER,
    LEAST_ABSORPTION,
    MISSING,
    MOST_REST,
    RECENT,
    SIDE,
    VALUES,
)
from texallon.core.render.volume.tables import HEADERS, SCALES, STAMPS, TABLE, VALUES_AT, Scratch, VolumeTables
from texallon.core.render.volume.tracking_room import MOST_LOOKUPS


class Passing(NamedTuple):
    """How a ray is under way: `t` metres from its origin; the optical depth to its next tentative collision (`budget`); what is left of it, `r`, `g` and
    `b`; and of the bricks that shine, so far, what they were `worth` and how many could be `looked` into."""

    t: Float
    budget: Float
    r: Float
    g: Float
    b: Float
    worth: Float
    looked: Float


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
def left_on_average(depth: Float) -> Float:
    """What is left on the way through an optical depth, on average: (1 − exp(−depth)) / depth.

    Parameters
    ----------
    depth : float
        0 or more.
    """
    if depth < 0.02:
        return 1.0 - depth * (0.5 - depth * (1.0 / 6.0 - depth * (1.0 / 24.0 - depth / 120.0)))
    return (1.0 - exp(-depth)) / depth


@inlined
def pass_bricks(
    tables: VolumeTables,
    scratch: Scratch,
    now: Passing,
    stop: Float,
    cone: Cone,
    phase: Float,
    glow: npt.NDArray[np.float64],
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
    phase : float
        0…1, random: of where it looks light up.
    glow : Array
        `(groups, 3)` the light found, added to.
    """
    k: Int = scratch.volume[0]
    end = min(scratch.leave[0], stop)
    ox, oy, oz = scratch.origin[0, 0], scratch.origin[1, 0], scratch.origin[2, 0]
    wx, wy, wz = scratch.way[0, 0], scratch.way[1, 0], scratch.way[2, 0]
    ix, iy, iz = scratch.inverse[0, 0], scratch.inverse[1, 0], scratch.inverse[2, 0]
    ax, ay, az = (1.0 if ix > 0.0 else 0.0), (1.0 if iy > 0.0 else 0.0), (1.0 if iz > 0.0 else 0.0)
    sx, sy, sz = np.int64(2.0 * ax - 1.0), np.int64(2.0 * ay - 1.0), np.int64(2.0 * az - 1.0)
    table, headers, stamps = tables.addresses[k, TABLE], tables.addresses[k, HEADERS], tables.addresses[k, STAMPS]
    values, scales = tables.addresses[k, VALUES_AT], tables.addresses[k, SCALES]
    rows, row = np.int64(tables.rows[k]), np.int64(tables.row_of[k, EMISSION])
    steps = Steps(2 * rows, 2 * CORNERS * rows, 2 * CORNERS * CORNERS * rows)
    er: Float = np.float64(tables.constant[k, EMISSION])
    eg: Float = np.float64(tables.constant[k, EMISSION + 1])
    eb: Float = np.float64(tables.constant[k, EMISSION + 2])
    # As `level_for`: how many of the finest cells a sample stands for, here and for each metre further.
    finest = tables.samples_across / tables.cell_world[k] * (1.0 + BLEND * cone.shift)
    wide, widens = (cone.width + cone.spread * 4.0 * tables.cell_world[k]) * finest, cone.spread * finest
    t, budget, tr, tg, tb = now.t, now.budget, now.r, now.g, now.b
    worth: Float = now.worth
    looked: Float = now.looked
    lookups = scratch.lookups
    held: Int = np.int64(0)
    last = np.int64(tables.levels[k] - 1)
    level: Int = np.int64(0)
    coarser = 2.0
    while wide + widens * t >= coarser and level < last:
        level += 1
        coarser *= 2.0
    level, coarser = level - 1, coarser * 0.5
    next_level = t
    cells: Float = 0.0
    gr = gg = gb = lx = ly = lz = across_x = across_y = across_z = cells
    none: Int = np.int64(0)
    bx: Int = none
    by: Int = none
    bz: Int = none
    nx = ny = nz = entry_at = to_x = to_y = to_z = none
    while t < end:
        if t >= next_level:
            level, coarser = level + 1, coarser * 2.0
            next_level = (coarser - wide) / widens if level < last and widens > 0.0 else 1e300
            cells = SHRINK[level]
            scale, size, nudge = cells / SIDE, SIDE / cells, NUDGE * tables.cell_world[k] / cells
            nx, ny = np.int64(tables.dims[k, level, 0]), np.int64(tables.dims[k, level, 1])
            nz, first = np.int64(tables.dims[k, level, 2]), np.int64(tables.first[k, level])
            # Afresh at each level; from one brick to the next only what the ray crosses changes.
            after = t + nudge
            bx = min(max(np.int64((ox + after * wx) * scale), 0), nx - 1)
            by = min(max(np.int64((oy + after * wy) * scale), 0), ny - 1)
            bz = min(max(np.int64((oz + after * wz) * scale), 0), nz - 1)
            lx, ly, lz = ((bx + ax) * size - ox) * ix, ((by + ay) * size - oy) * iy, ((bz + az) * size - oz) * iz
            across_x, across_y, across_z = size * abs(ix), size * abs(iy), size * abs(iz)
            entry_at = table + 4 * (first + (bz * ny + by) * nx + bx)
            to_x, to_y, to_z = 4 * sx, 4 * sy * nx, 4 * sz * nx * ny
        entry = np.int64(np.int32(word_at(entry_at)))
        if entry == MISSING or entry > tables.room[k]:
            break
        leave: Float = min(max(min(lx, ly, lz), t), end)
        if entry != EMPTY:
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
            glows = np.float64(float_at(head + 4 * GLOW))
            if glows > 0.0 and row < 0:
                gr += tr * er * span * left_on_average(ar * span)
                gg += tg * eg * span * left_on_average(ag * span)
                gb += tb * eb * span * left_on_average(ab * span)
            elif glows > 0.0:
                here = max(glows * span * (tr + tg + tb), 1e-300)
                looked += 1.0
                worth += here
                place = spread_over(phase, sx * bx + sy * by + sz * bz)
                wish = tables.lookups * (LOOKUPS * looked + FIRST_LOOKUPS) * here
                # Most bricks are skipped: decide that without a division.
                if place * worth < wish or place * FARTHEST < 1.0:
                    apart = min(max(worth / wish, NEAREST), FARTHEST)
                    place *= apart
                    while place < 1.0:
                        step = place * span
                        weight = apart * span
                        place += apart
                        wr, wg, wb = (
                            weight * tr * left_of(ar * step),
                            weight * tg * left_of(ag * step),
                            weight * tb * left_of(ab * step),
                        )
                        px: Float = min(max((ox + (t + step) * wx) * cells - SIDE * bx, 0.0), float(SIDE))
                        py: Float = min(max((oy + (t + step) * wy) * cells - SIDE * by, 0.0), float(SIDE))
                        pz: Float = min(max((oz + (t + step) * wz) * cells - SIDE * bz, 0.0), float(SIDE))
                        cx: Int = min(np.int64(px), SIDE - 1)
                        cy: Int = min(np.int64(py), SIDE - 1)
                        cz: Int = min(np.int64(pz), SIDE - 1)
                        value = values + 2 * ((brick * VALUES + (cz * CORNERS + cy) * CORNERS + cx) * rows + row)
                        between = np.float32(px - cx), np.float32(py - cy), np.float32(pz - cz)
                        held = defer_lookup(
                            lookups, held, value, scales + 8 * (brick * rows + row), between, (wr, wg, wb), steps
                        )
                        if held == MOST_LOOKUPS:
                            fr, fg, fb = gather_emission(lookups, held, steps)
                            gr, gg, gb = gr + fr, gg + fg, gb + fb
                            held = 0
            if ar + ag + ab > np.float32(0):
                tr, tg, tb = tr * left_of(ar * span), tg * left_of(ag * span), tb * left_of(ab * span)
        t = leave
        over_x, over_y, over_z = lx <= leave, ly <= leave, lz <= leave
        bx, lx, at_x = (bx + sx, lx + across_x, to_x) if over_x else (bx, lx, none)
        by, ly, at_y = (by + sy, ly + across_y, to_y) if over_y else (by, ly, none)
        bz, lz, at_z = (bz + sz, lz + across_z, to_z) if over_z else (bz, lz, none)
        entry_at += at_x + at_y + at_z
        if (bx | (nx - 1 - bx) | by | (ny - 1 - by) | bz | (nz - 1 - bz)) < 0:
            # Rounding: a volume ends where its grid does, or before.
            t = max(t, end)
    fr, fg, fb = gather_emission(lookups, held, steps)
    gr, gg, gb = gr + fr, gg + fg, gb + fb
    group = tables.group[k]
    glow[group, 0] += gr
    glow[group, 1] += gg
    glow[group, 2] += gb
    return Passing(t, budget, tr, tg, tb, worth, looked)
