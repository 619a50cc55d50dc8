"""What volumes leave of shadow rays, and the light of volumes that were asked.

Residual ratio tracking: what each brick takes at least is taken off exactly, the rest by weights at tentative collisions (J. Novák, A. Selle
and W. Jarosz, "Residual Ratio Tracking for Estimating Attenuation in Participating Media", ACM TOG 33(6), 2014).
"""

from math import exp, log
from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Float, Integers, kernel
from texallon.core.random_numbers import uniform4
from texallon.core.render.light.emitters import VOLUME, Emitters
from texallon.core.render.transport.paths import Round
from texallon.core.render.transport.shadow_rays import ShadowRays
from texallon.core.render.transport.volume_tracking import MOST_COLLISIONS, first_dimension, light_cell_at
from texallon.core.render.volume.lookup import (
    THICK,
    coefficients_at,
    enter_brick,
    header,
    level_for,
    stored_emission_at,
    thick_step,
)
from texallon.core.render.volume.quantities import (
    LEAST_EXTINCTION,
    MOST_RESIDUAL,
)
from texallon.core.render.volume.segments import find_segments
from texallon.core.render.volume.tables import Line, VolumeTables, Wanted
from texallon.core.render.volume.tracking_room import TrackingRoom

SHADOWS = 0x30000000
"""Random dimensions of shadow rays through volumes, apart from those of scattering."""

SHADOW_WIDTH, SHADOW_SPREAD = 4.0, 0.04
"""Times as wide as its path a shadow ray begins, and radians by which it is taken to widen, where bricks are chosen: shadows vary more slowly than what is
seen, the more so the farther off what throws them."""

FAINT = 1e-4
"""Of what is left less than this, a random part is followed."""


class ShadowsThrough(NamedTuple):
    """n shadow rays: the `pixel (n,)` of each, the `width (n,)` of its path's cone, `left (3, n)`, the share that is left, filled; and
    `todo (n,)` 1 for those that are to be followed, and 0 when they have been."""

    pixel: Integers
    width: Array
    left: Array
    todo: Integers


@kernel
def attenuate_by_volumes(
    tables: VolumeTables,
    emitters: Emitters,
    shadow: ShadowRays,
    through: ShadowsThrough,
    now: Round,
    counts: Integers,
    wanted: Wanted,
    room: TrackingRoom,
) -> None:
    """What volumes leave of shadow rays; where a volume was asked, times its light.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    emitters : Emitters
        All light sources.
    shadow : ShadowRays
        n; left as they are.
    through : ShadowsThrough
        Filled for those that are to do.
    now : Round
        Of bounces.
    counts : Integers
        `(2,)` how often a bound was exceeded and random numbers were used up, added to.
    wanted : Wanted
        Bricks that were missed, added to.
    room : TrackingRoom
        For this call.
    """
    sample, bounce, seed = now.sample, now.bounce, now.seed
    scratch, ray = room.scratch, room.ray
    for i in range(through.todo.shape[0]):
        if through.todo[i] == 0:
            continue
        d = np.float64(shadow.far[i])
        asks = shadow.emissive_face[i] == VOLUME
        reach = d * 1.00001 + 1e-6 if asks else d
        ox, oy, oz = np.float64(shadow.origin[0, i]), np.float64(shadow.origin[1, i]), np.float64(shadow.origin[2, i])
        dx, dy, dz = (
            np.float64(shadow.direction[0, i]),
            np.float64(shadow.direction[1, i]),
            np.float64(shadow.direction[2, i]),
        )
        count = find_segments(tables, scratch, ray, False, Line(ox, oy, oz, dx, dy, dz), reach)
        pixel = through.pixel[i]
        whole = True
        exceeded, untracked = 0, 0
        # What is left is the weights times exp of minus the depths.
        tr = tg = tb = 1.0
        depth_r = depth_g = depth_b = 0.0
        end = 0.0
        t: Float = d
        for s in range(count):
            t = min(t, scratch.enter[s])
            end = max(end, min(scratch.leave[s], d))
        number = 0
        dimension = first_dimension(SHADOWS, bounce)
        shift, survive, u, steps = uniform4(pixel, sample, dimension, seed)
        budget = -log(max(1.0 - u, 1e-9))
        chance = 1.0
        while t < end:
            until = end
            bound = 0.0
            ar = ag = ab = 0.0
            for s in range(count):
                if scratch.leave[s] <= t:
                    continue
                if scratch.enter[s] > t:
                    until = min(until, scratch.enter[s])
                    continue
                k = scratch.volume[s]
                if scratch.exit[s] <= t:
                    wide = SHADOW_WIDTH * through.width[i] + SHADOW_SPREAD * t
                    if not enter_brick(tables, scratch, s, t, level_for(tables, k, wide, shift), wanted):
                        whole = False
                until = min(until, scratch.exit[s], scratch.leave[s])
                brick = scratch.brick[s]
                if brick >= 0:
                    bound += header(tables, k, brick, MOST_RESIDUAL)
                    ar += header(tables, k, brick, LEAST_EXTINCTION)
                    ag += header(tables, k, brick, LEAST_EXTINCTION + 1)
                    ab += header(tables, k, brick, LEAST_EXTINCTION + 2)
            span = until - t
            if bound * span > THICK:
                span = min(span, thick_step(tables, scratch, count, t))
                until = t + span
                steps = (steps + 0.6180339887498949) % 1.0
                sr, sg, sb, lr, lg, lb = coefficients_at(tables, scratch, count, t + steps * span)
                ar, ag, ab, bound = sr + lr, sg + lg, sb + lb, 0.0
            depth_r, depth_g, depth_b = depth_r + ar * span, depth_g + ag * span, depth_b + ab * span
            while bound * (until - t) > budget:
                if number >= MOST_COLLISIONS - 2:
                    untracked = 1
                    break
                t += budget / bound
                number += 1
                u, _, _, _ = uniform4(pixel, sample, dimension + number, seed)
                budget = -log(max(1.0 - u, 1e-9))
                sr, sg, sb, lr, lg, lb = coefficients_at(tables, scratch, count, t)
                er, eg, eb = sr + lr, sg + lg, sb + lb
                nr, ng, nb = 1.0 - (er - ar) / bound, 1.0 - (eg - ag) / bound, 1.0 - (eb - ab) / bound
                if min(nr, ng, nb) < -1e-4:
                    exceeded += 1
                tr, tg, tb = tr * max(nr, 0.0), tg * max(ng, 0.0), tb * max(nb, 0.0)
            budget = max(budget - bound * (until - t), 1e-12)
            t = until
            if min(depth_r, depth_g, depth_b) > 1.0:
                tr, tg, tb = tr * exp(-depth_r), tg * exp(-depth_g), tb * exp(-depth_b)
                depth_r = depth_g = depth_b = 0.0
            if max(tr, tg, tb) < FAINT * chance:
                # Russian roulette: one of ten goes on, ten times as strong.
                if survive < 0.9:
                    tr = tg = tb = 0.0
                    break
                survive = (survive - 0.9) * 10.0
                tr, tg, tb = tr * 10.0, tg * 10.0, tb * 10.0
                chance *= 0.1
        tr, tg, tb = tr * exp(-depth_r), tg * exp(-depth_g), tb * exp(-depth_b)
        if asks and tr + tg + tb > 0.0:
            k = int(shadow.barycentric[0, i])
            er = eg = eb = 0.0
            for s in range(count):
                if scratch.volume[s] != k or scratch.enter[s] > d or scratch.leave[s] < d:
                    continue
                at = min(d, scratch.leave[s] - 1e-7 * d)
                wide = SHADOW_WIDTH * through.width[i] + SHADOW_SPREAD * d
                if not enter_brick(tables, scratch, s, at, level_for(tables, k, wide, shift), wanted):
                    whole = False
                hr, hg, hb = stored_emission_at(tables, scratch, s, at)
                er, eg, eb = er + hr, eg + hg, eb + hb
                cell = light_cell_at(tables, scratch, s, at, emitters)
                if cell >= 0:
                    er += emitters.volumes.grains[cell, 0]
                    eg += emitters.volumes.grains[cell, 1]
                    eb += emitters.volumes.grains[cell, 2]
            tr, tg, tb = tr * er, tg * eg, tb * eb
        elif asks:
            tr = tg = tb = 0.0
        if whole:
            counts[0] += exceeded
            counts[1] += untracked
            through.todo[i] = 0
            through.left[0, i], through.left[1, i], through.left[2, i] = tr, tg, tb
