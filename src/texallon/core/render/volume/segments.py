"""Where a ray runs through volumes: found afresh for each ray, so that no path has to remember what it is in."""

from math import inf, sqrt

import numpy as np

from texallon.core.geometry.embree import NO_HIT, intersect_one
from texallon.core.geometry.rays import aim
from texallon.core.kernel import Float, Int, inlined
from texallon.core.render.volume.tables import BALL, BOX, CLOSED, Line, Scratch, VolumeTables
from texallon.core.render.volume.tracking_room import MOST_SEGMENTS, RayRecord

MOST_CROSSINGS = 256
"""Walls of closed bodies that a ray is followed through."""


@inlined
def to_local(tables: VolumeTables, k: Int, x: Float, y: Float, z: Float, w: Float) -> tuple[Float, Float, Float]:
    """A place (`w` 1) or a direction (0) in a volume's own space.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    k : int
        Number of the volume.
    x, y, z : float
        In the world.
    w : float
        1 or 0.
    """
    m = tables.inverse
    return (
        m[k, 0, 0] * x + m[k, 0, 1] * y + m[k, 0, 2] * z + m[k, 0, 3] * w,
        m[k, 1, 0] * x + m[k, 1, 1] * y + m[k, 1, 2] * z + m[k, 1, 3] * w,
        m[k, 2, 0] * x + m[k, 2, 1] * y + m[k, 2, 2] * z + m[k, 2, 3] * w,
    )


@inlined
def local_line(tables: VolumeTables, k: Int, line: Line) -> Line:
    """A ray in a volume's own space, its direction for each metre of the world.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    k : int
        Number of the volume.
    line : Line
        In the world.
    """
    ox, oy, oz = to_local(tables, k, line.ox, line.oy, line.oz, 1.0)
    dx, dy, dz = to_local(tables, k, line.dx, line.dy, line.dz, 0.0)
    return Line(ox, oy, oz, dx, dy, dz)


@inlined
def add_segment(
    tables: VolumeTables, scratch: Scratch, count: Int, k: Int, enter: Float, leave: Float, own: Line
) -> Int:
    """Take a segment down; gives how many there are then.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        Filled at `count`.
    count : int
        Of the segments so far.
    k : int
        Number of the volume.
    enter, leave : float
        Metres.
    own : Line
        The ray in the volume's own space.
    """
    if not leave > enter or count >= MOST_SEGMENTS:
        return count
    scratch.volume[count] = k
    scratch.enter[count], scratch.leave[count] = enter, leave
    low, cell = tables.grid_low, tables.cell
    scratch.origin[0, count] = (own.ox - low[k, 0]) / cell[k, 0]
    scratch.origin[1, count] = (own.oy - low[k, 1]) / cell[k, 1]
    scratch.origin[2, count] = (own.oz - low[k, 2]) / cell[k, 2]
    scratch.way[0, count] = own.dx / cell[k, 0]
    scratch.way[1, count] = own.dy / cell[k, 1]
    scratch.way[2, count] = own.dz / cell[k, 2]
    for axis in range(3):
        way = scratch.way[axis, count]
        scratch.inverse[axis, count] = 1.0 / way if abs(way) > 1e-200 else 1e200
    scratch.brick[count] = -1
    scratch.exit[count] = -1.0
    return count + 1


@inlined
def find_segments(
    tables: VolumeTables, scratch: Scratch, ray: RayRecord, inside_body: bool, line: Line, far: Float
) -> Int:
    """Where a ray runs through volumes, up to `far`; gives how many segments there are.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        Filled.
    ray : RayRecord
        Used up.
    inside_body : bool
        Whether the ray runs within a clear body, where there is no air.
    line : Line
        The ray in the world.
    far : float
        Metres.
    """
    count = 0
    closed = False
    for k in range(tables.kind.shape[0]):
        if tables.kind[k] == CLOSED:
            closed = True
            continue
        if inside_body and tables.open_air[k] != 0:
            continue
        own = local_line(tables, k, line)
        lx, ly, lz, wx, wy, wz = own.ox, own.oy, own.oz, own.dx, own.dy, own.dz
        enter, leave = 0.0, far
        if tables.kind[k] == BOX:
            for axis in range(3):
                o = lx if axis == 0 else (ly if axis == 1 else lz)
                w = wx if axis == 0 else (wy if axis == 1 else wz)
                low, high = tables.low[k, axis], tables.high[k, axis]
                if w == 0.0:
                    if o < low or o > high:
                        leave = -1.0
                    continue
                a, b = (low - o) / w, (high - o) / w
                enter, leave = max(enter, min(a, b)), min(leave, max(a, b))
        elif tables.kind[k] == BALL:
            # In a space where it is a ball of radius 1 about the origin.
            hx = 0.5 * (tables.high[k, 0] - tables.low[k, 0])
            hy = 0.5 * (tables.high[k, 1] - tables.low[k, 1])
            hz = 0.5 * (tables.high[k, 2] - tables.low[k, 2])
            ax = (lx - tables.low[k, 0]) / hx - 1.0
            ay = (ly - tables.low[k, 1]) / hy - 1.0
            az = (lz - tables.low[k, 2]) / hz - 1.0
            bx, by, bz = wx / hx, wy / hy, wz / hz
            bb = bx * bx + by * by + bz * bz
            middle = -(ax * bx + ay * by + az * bz) / bb
            cx, cy, cz = ax + middle * bx, ay + middle * by, az + middle * bz
            left = 1.0 - (cx * cx + cy * cy + cz * cz)
            if left <= 0.0:
                continue
            half = sqrt(left / bb)
            enter, leave = max(enter, middle - half), min(leave, middle + half)
        count = add_segment(tables, scratch, count, k, enter, leave, own)
    if closed:
        count = _through_closed(tables, scratch, count, ray, line, far)
    return count


@inlined
def _through_closed(
    tables: VolumeTables, scratch: Scratch, count: Int, record: RayRecord, line: Line, far: Float
) -> Int:
    """Segments within closed meshes: all walls along the ray are looked for, to infinity. What leaves a body more often than it enters it began inside."""
    ray, bits, at = record.words, record.bits, record.address
    begun = count
    near = np.float32(0)
    for _ in range(MOST_CROSSINGS):
        aim(
            ray, bits, 0, 0xFFFFFFFF, line.ox, line.oy, line.oz, line.dx, line.dy, line.dz, near, np.float32(inf)
        )  # fmt: skip
        intersect_one(tables.bodies, at, 0)
        if bits[18] == NO_HIT:
            break
        t = ray[8]
        geometry = np.int64(bits[19])
        instance = tables.body_first[geometry]
        if tables.body_copies[geometry] != 0:
            instance += np.int32(bits[20])
        k = tables.body_volume[instance]
        own = local_line(tables, k, line)
        leaves = own.dx * ray[12] + own.dy * ray[13] + own.dz * ray[14] > 0.0
        near = np.float32(t + max(1e-6 * t, 1e-7))
        # The last segment of this body that is still open is closed; one that leaves without having entered began at the origin.
        last = -1
        for s in range(begun, count):
            if scratch.volume[s] == k and scratch.leave[s] == inf:
                last = s
        if last >= 0 and leaves:
            scratch.leave[last] = min(t, far)
            continue
        if leaves:
            known = False
            for s in range(begun, count):
                known = known or scratch.volume[s] == k
            if not known:
                count = add_segment(tables, scratch, count, k, 0.0, min(t, far), own)
        elif last < 0:
            count = add_segment(tables, scratch, count, k, t, inf, own)
    kept = begun
    for s in range(begun, count):
        # What never ends belongs to an open body, and lies outside of it.
        if scratch.leave[s] == inf or scratch.enter[s] >= scratch.leave[s] or scratch.enter[s] >= far:
            continue
        if kept != s:
            scratch.volume[kept] = scratch.volume[s]
            scratch.enter[kept], scratch.leave[kept] = scratch.enter[s], scratch.leave[s]
            for axis in range(3):
                scratch.origin[axis, kept], scratch.way[axis, kept] = scratch.origin[axis, s], scratch.way[axis, s]
                scratch.inverse[axis, kept] = scratch.inverse[axis, s]
            scratch.brick[kept], scratch.exit[kept] = -1, -1.0
        kept += 1
    return kept
