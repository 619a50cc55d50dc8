"""Where a path goes on from a surface point: by which layer, in which direction, and whether at all."""

from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Float, Int, Integers, inlined
from texallon.core.random_numbers import uniform4
from texallon.core.render.transport.interface import Interface
from texallon.core.render.transport.light_aovs import total_bounces
from texallon.core.render.transport.paths import (
    AFTER_DIFFUSE,
    EMITTERS_ONLY,
    FIRST_REFLECTED,
    FIRST_TRANSMITTED,
    FROM_CAMERA,
    IN_SUBSURFACE,
    LAST_TRANSMITTED,
    NEE_DONE,
    REFRACTED,
    Paths,
)
from texallon.core.render.transport.shading_frame import ShadingFrame
from texallon.core.render.transport.surface_interactions import (
    BOUNCE_DIFFUSE,
    BOUNCE_GLOSSY,
    BOUNCE_TRANSMISSION,
    BOUNCE_TRANSPARENCY,
    ENTERS,
    LEAVES,
    Onward,
    Settings,
    SurfaceInteractions,
    terminate,
)
from texallon.core.shade.base import ABSORBED, MATCHED, NON_SPECULAR, SPECULAR, SUBSURFACE, TRANSMISSION
from texallon.core.shade.media.subsurface import begin_random_walk
from texallon.core.shade.rows import SPECULAR_IOR
from texallon.core.shade.stack import Stack
from texallon.core.shade.surface import sample_surface


class Turn(NamedTuple):
    """How a path turns at a point. `kind`: as `sample_surface` gives it; `turned_aside`: mirrored at the face, since the smoothed normal
    led it through; `unbent`: a boundary of equal indices, which is no turn; `goes_through`, `enters`: to the other side, into a body;
    `pdf` and `wide`: density and spread of its direction."""

    kind: Int
    turned_aside: bool
    unbent: bool
    goes_through: bool
    enters: bool
    pdf: Float
    wide: Float


@inlined
def count_bounce(bounce_counts: Integers, i: Int, turn: Turn, settings: Settings) -> bool:
    """Count a turn with those of its kind; returns whether it is beyond their limit.

    Beyond the limit of its kind a ray still finds lamps and sky: light that comes straight is always whole.

    Parameters
    ----------
    bounce_counts : Array
        `(n,)` four counts of a byte each, changed in place.
    i : int
        Column of the path.
    turn : Turn
        How it turns.
    settings : Settings
        What holds for the whole sample.
    """
    if turn.kind == SUBSURFACE:
        return False
    if turn.unbent:  # passed as what is cut out is
        over = ((bounce_counts[i] >> 24) & 127) >= settings.limits[BOUNCE_TRANSPARENCY]
        bounce_counts[i] += 1 << 24
        return bool(over)
    which = BOUNCE_GLOSSY
    if turn.goes_through:
        which = BOUNCE_TRANSMISSION
    elif turn.kind == NON_SPECULAR and turn.wide >= 1.0:
        which = BOUNCE_DIFFUSE
    over = ((bounce_counts[i] >> (8 * which)) & 255) >= settings.limits[which]
    bounce_counts[i] += 1 << (8 * which)
    return bool(over)


@inlined
def mark_turn(paths: Paths, i: Int, turn: Turn, over: bool, since: Float, thin: bool) -> None:
    """Put down what a path has been through, for whoever asks it about light later.

    Parameters
    ----------
    paths : Paths
        Flags, density, spread and distance are changed in place.
    i : int
        Column of the path.
    turn : Turn
        How it turns.
    over : bool
        Whether that is beyond a limit.
    since : float
        Metres since its last turn.
    thin : bool
        Whether the surface is a thin wall.
    """
    flags = paths.flags
    begun: Int = flags[i] & (FIRST_REFLECTED | FIRST_TRANSMITTED)
    if begun == 0:
        begun = FIRST_TRANSMITTED if turn.goes_through else FIRST_REFLECTED
    if over:
        begun |= EMITTERS_ONLY
    kept_flags = flags[i] & (NEE_DONE | REFRACTED)
    if turn.kind == NON_SPECULAR:
        flags[i] = NON_SPECULAR | NEE_DONE | begun
        paths.pdf[i] = turn.pdf
        spread: Float = AFTER_DIFFUSE if turn.wide >= AFTER_DIFFUSE else np.float32(0.5 * turn.wide)
        paths.cone_spread[i] = max(paths.cone_spread[i], spread)
    elif turn.kind == SPECULAR:
        flags[i] = SPECULAR | begun
        if turn.turned_aside:
            flags[i] |= LAST_TRANSMITTED | NEE_DONE | REFRACTED
    elif turn.kind == SUBSURFACE:
        flags[i] = SPECULAR | IN_SUBSURFACE | begun
    elif turn.unbent:
        # Nothing was bent: the path is as it was before, and so are the lights that it asked.
        flags[i] = (flags[i] & ~FROM_CAMERA) | begun
        paths.distance_since_vertex[i] = since
    else:
        flags[i] = (flags[i] & 3) | LAST_TRANSMITTED | kept_flags | begun
        if not thin:
            flags[i] |= REFRACTED


@inlined
def continue_path(
    surfaces: SurfaceInteractions,
    paths: Paths,
    i: Int,
    frame: ShadingFrame,
    interface: Interface,
    stack: Stack,
    since: Float,
    bounce: Int,
    settings: Settings,
    onward: Onward,
    write_aovs: bool,
) -> None:
    """Choose where a path goes on; one that ends gets throughput 0.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points that the paths met.
    paths : Paths
        Updated in place but for origin and direction.
    i : int
        Column of the path.
    frame : ShadingFrame
        Of the point.
    interface : Interface
        How the path meets the surface.
    stack : Stack
        Layers at the point.
    since : float
        Metres since its last turn.
    bounce : int
        Number of the round.
    settings : Settings
        What holds for the whole sample.
    onward : Onward
        Filled.
    write_aovs : bool
        Whether the share that is diffuse is wanted.
    """
    m, throughput, offset = surfaces.material, paths.throughput, surfaces.offset[i]
    choose, u, v, survive = uniform4(paths.pixel[i], settings.sample, bounce * 2 + 2, settings.seed)
    kind, ix, iy, iz, r, g, b, q, wide, dr, dg, db = sample_surface(
        m, i, stack, frame.ox, frame.oy, frame.oz, choose, u, v, settings.table
    )
    wx = ix * frame.ax + iy * frame.bx + iz * frame.nx
    wy = ix * frame.ay + iy * frame.by + iz * frame.ny
    wz = ix * frame.az + iy * frame.bz + iz * frame.nz
    along = wx * frame.fx + wy * frame.fy + wz * frame.fz
    if kind == ABSORBED:
        terminate(throughput, i)
        return
    turned_aside = False
    if (along <= 0.0) != (iz < 0.0):
        # A direction that the smoothed normal allows but the face does not is mirrored at the face: it would leak through the surface.
        # No light is asked for in such directions; what is small and bright would be found so seldom there that it is left out.
        wx, wy, wz = wx - 2.0 * along * frame.fx, wy - 2.0 * along * frame.fy, wz - 2.0 * along * frame.fz
        if kind == NON_SPECULAR:
            kind = SPECULAR
            turned_aside = True
    tr, tg, tb = throughput[0, i] * r, throughput[1, i] * g, throughput[2, i] * b
    through = kind != SUBSURFACE and iz < 0.0
    turn = Turn(
        kind,
        turned_aside,
        kind == TRANSMISSION and not interface.thin and abs(stack.bending - 1.0) < MATCHED,
        through and interface.clear and wide < 1.0,
        through and not interface.thin,
        q,
        wide,
    )
    depth = total_bounces(paths.bounce_counts[i])
    over = count_bounce(paths.bounce_counts, i, turn, settings)
    if depth >= 3 and not turn.unbent:  # Russian roulette by what the path still carries
        keep = min(max(tr, tg, tb), 1.0)
        if not survive < keep:
            keep = 0.0
        scale = 1.0 / keep if keep > 0.0 else 0.0
        tr, tg, tb = tr * scale, tg * scale, tb * scale
    if turn.enters and interface.fresh:
        tr, tg, tb = tr * interface.red, tg * interface.green, tb * interface.blue
        paths.wavelength[i] = interface.wavelength
    throughput[0, i], throughput[1, i], throughput[2, i] = tr, tg, tb
    if write_aovs and (paths.flags[i] & (FIRST_REFLECTED | FIRST_TRANSMITTED)) == 0:
        if kind == NON_SPECULAR:
            paths.diffuse_fraction[0, i] = min(dr / r, 1.0) if r > 0.0 else 1.0
            paths.diffuse_fraction[1, i] = min(dg / g, 1.0) if g > 0.0 else 1.0
            paths.diffuse_fraction[2, i] = min(db / b, 1.0) if b > 0.0 else 1.0
        else:
            for c in range(3):
                paths.diffuse_fraction[c, i] = np.float32(1 if kind == SUBSURFACE else 0)
    step = -offset if iz < 0.0 else offset
    onward.origin[0, i] = surfaces.position[0, i] + step * frame.fx
    onward.origin[1, i] = surfaces.position[1, i] + step * frame.fy
    onward.origin[2, i] = surfaces.position[2, i] + step * frame.fz
    onward.direction[0, i], onward.direction[1, i], onward.direction[2, i] = wx, wy, wz
    mark_turn(paths, i, turn, over, since, interface.thin)
    if kind == SUBSURFACE:
        begin_random_walk(paths.walk, paths.slot[i], m, i)
    if turn.enters and paths.media.shape[0] > 0:
        m[SPECULAR_IOR, i] = interface.ior
        onward.crossing[i] = ENTERS if interface.outside else LEAVES
