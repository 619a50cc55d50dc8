"""One ray through volumes: weakened, joined by their own light, and perhaps scattered.

Null-collision tracking brick by brick, with weights by colour: P. Kutz, R. Habel, Y. K. Li and J. Novák, "Spectral and Decomposition
Tracking for Rendering Heterogeneous Volumes", ACM TOG 36(4), 2017. What each brick absorbs at least is taken off exactly; the rest is weighted at
tentative collisions, and nothing ends by absorption. A volume's own light is looked for at one random place of each brick that is passed.
"""

from math import log
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Float, Int, Integers, inlined
from texallon.core.random_numbers import uniform4
from texallon.core.render.light.emitters import Emitters
from texallon.core.render.light.volume_lights import light_cell
from texallon.core.render.transport.emission_lookups import GOLDEN, spread_over
from texallon.core.render.transport.emitter_hits import power_weight
from texallon.core.render.transport.volume_passing import Cone, Passing, left_of, pass_bricks
from texallon.core.render.transport.volume_scattering import choose_volume, phase_at
from texallon.core.render.volume.lookup import (
    THICK,
    coefficients_at,
    enter_brick,
    header,
    level_for,
    stored_emission_at,
    thick_step,
)
from texallon.core.render.volume.points_in_view import PointsInView
from texallon.core.render.volume.quantities import (
    GLOW,
    LEAST_ABSORPTION,
    MOST_REST,
    SIDE,
)
from texallon.core.render.volume.tables import Scratch, VolumeTables, Wanted

COLLISION_BITS = 18
MOST_COLLISIONS = 1 << COLLISION_BITS
"""Tentative collisions of a path in a round: so many random numbers are set apart for each."""

ROUNDS_APART = 1 << 10
"""Rounds that have random numbers of their own; then the first come again."""


@inlined
def first_dimension(base: Int, bounce: Int) -> Int:
    """Where the random numbers of a round begin.

    Parameters
    ----------
    base : int
        Of what they are for.
    bounce : int
        Number of the round.
    """
    return base + ((bounce & (ROUNDS_APART - 1)) << COLLISION_BITS)


FOUND_ALONE, COVERED, WEIGHED = 0, 1, 2
"""How a volume's light counts that a ray finds: in full, not at all where it was asked for, or with a weight against asking."""

NUMBER, WHOLE, VIOLATIONS, UNTRACKED = 0, 1, 2, 3
"""Counters of a path: random numbers used, 1 while no brick was missing, how often a bound was exceeded, and how often
all its random numbers were used up, after which it goes on as if nothing more were met."""


class TrackedRay(NamedTuple):
    """A ray as tracking sees it: whose random numbers it takes; its cone's `width` at the origin and `spread`; the density per steradian with which
        its direction was drawn (`pdf`), how light that it finds counts (`found`), and metres since its last turn before the origin (`since`). Of a camera's ray the bright points
    of its pixel are `entry` to `last_entry`; all others see them on average (−1). What lies farther than `far` metres is hidden. At `sampled` metres (2e30 for no_equiangular_sample) a
    lamp is asked, whose light turns there by an angle of some `cosine`; `which` is random, 0…1."""

    pixel: int
    sample: int
    seed: int
    dimension: int
    width: float
    spread: float
    pdf: float
    found: int
    since: float
    entry: Int
    last_entry: Int
    far: float
    equiangular: float
    cosine: float
    pick: float


class Sight(NamedTuple):
    """What rays may see, beside what bricks hold: the chance that volumes are `asked` for light, and the camera's bright `points`."""

    asked: float
    points: PointsInView


class Carried(NamedTuple):
    """What a ray carries: `throughput (3,)`, the light found by group, `glow (groups, 3)`, `counters (COUNTERS,)`, and what it would scatter
    of a lamp's light at its equi-angular sample, `inscattered (4,)`: red, green, blue and the phase function's density; all are changed."""

    throughput: npt.NDArray[np.float64]
    glow: npt.NDArray[np.float64]
    inscattered: npt.NDArray[np.float64]
    counters: Integers


@inlined
def _drawn(ray: TrackedRay, carried: Carried) -> tuple[Float, Float, Float, Float]:
    """The next four random numbers of a path."""
    carried.counters[NUMBER] += 1
    return uniform4(ray.pixel, ray.sample, ray.dimension + (carried.counters[NUMBER] & (MOST_COLLISIONS - 1)), ray.seed)


@inlined
def bricks_passed(scratch: Scratch, count: Int, t: Float) -> Int:
    """A number that grows by one from each brick of a ray to the next, whatever was passed before.

    Parameters
    ----------
    scratch : Scratch
        The ray's segments.
    count : int
        How many there are.
    t : float
        Metres along the ray.
    """
    number: Int = np.int64(0)
    for s in range(count):
        if scratch.enter[s] > t or scratch.leave[s] <= t:
            continue
        for axis in range(3):
            at = np.int64(scratch.corner[axis, s] // SIDE)
            number += at if scratch.inverse[axis, s] > 0.0 else -at
    return number


@inlined
def track(
    tables: VolumeTables,
    scratch: Scratch,
    count: Int,
    ray: TrackedRay,
    carried: Carried,
    emitters: Emitters,
    sight: Sight,
    wanted: Wanted,
) -> tuple[Float, Int]:
    """Follow a ray through its segments.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        Its segments.
    count : int
        How many there are.
    ray : TrackedRay
        The ray.
    carried : Carried
        Changed.
    emitters : Emitters
        All light sources.
    sight : Sight
        What the ray may see, beside what bricks hold.
    wanted : Wanted
        Bricks that were missed, added to.

    Returns
    -------
    tuple
        Metres to where it is scattered, and the number of the segment that scatters it; −1 where it passes.
    """
    asked, points = sight.asked, sight.points
    entry = ray.entry
    tr, tg, tb = carried.throughput[0], carried.throughput[1], carried.throughput[2]
    t, end = 1e30, 0.0
    for s in range(count):
        t = min(t, scratch.enter[s])
        end = max(end, scratch.leave[s])
    shift, u, phase, steps = _drawn(ray, carried)
    if ray.entry >= 0:
        # The golden section spreads the lookups of a pixel's samples as it spreads those of one ray: each begins a step after the last.
        first, _, _, _ = uniform4(ray.pixel, 0, ray.dimension, ray.seed)
        phase = np.float32(spread_over(first, ray.sample & 0xFFFF))
    # The optical depth to the next tentative collision, used up brick by brick: bounds that hold brick by brick need no new one for each.
    budget = -log(max(1.0 - u, 1e-9))
    scattered = -1
    sampled = ray.equiangular
    worth = looked = 0.0
    carried.inscattered[:] = 0.0
    # Where a volume is dark, or rays are the camera's own, light that is found counts in full: such bricks are passed quickly.
    alone = count == 1 and ray.spread >= 0.0
    if alone and (ray.entry < 0 or ray.found != FOUND_ALONE):
        alone = emitters.volumes.first[scratch.volume[0]] < 0
    while scattered < 0 and t < end and tr + tg + tb > 0.0:
        if alone and scratch.exit[0] <= t and scratch.enter[0] <= t:
            stop: Float = sampled
            if 0 <= entry < ray.last_entry:
                stop = min(stop, points.depth[entry] - ray.since)
            passing = Passing(t, budget, tr, tg, tb, worth, looked)
            passing = pass_bricks(
                tables, scratch, passing, stop, Cone(ray.width, ray.spread, np.float64(shift)), phase, carried.glow
            )
            t, budget = passing.t, passing.budget
            tr, tg, tb, worth, looked = passing.r, passing.g, passing.b, passing.worth, passing.looked
            if t >= end:
                break
        # The bricks that the ray is in, and how far it stays in all of them.
        until = end
        bound = 0.0
        ar = ag = ab = 0.0
        shines = False
        for s in range(count):
            if scratch.leave[s] <= t:
                continue
            if scratch.enter[s] > t:
                until = min(until, scratch.enter[s])
                continue
            k = scratch.volume[s]
            if scratch.exit[s] <= t:
                wide = ray.width + ray.spread * (t + 4.0 * tables.cell_world[k])
                if not enter_brick(tables, scratch, s, t, level_for(tables, k, wide, shift), wanted):
                    carried.counters[WHOLE] = 0
            until = min(until, scratch.exit[s], scratch.leave[s])
            brick = scratch.brick[s]
            if brick >= 0:
                bound += header(tables, k, brick, MOST_REST)
                ar += header(tables, k, brick, LEAST_ABSORPTION)
                ag += header(tables, k, brick, LEAST_ABSORPTION + 1)
                ab += header(tables, k, brick, LEAST_ABSORPTION + 2)
                shines = shines or header(tables, k, brick, GLOW) > 0.0
            # On average bright points may shine where nothing else is.
            shines = shines or (ray.entry < 0 and emitters.volumes.first[k] >= 0)
        span = until - t
        fixed = bound * span > THICK
        even = t
        sr = sg = sb = lr = lg = lb = 0.0
        if fixed:
            span = min(span, thick_step(tables, scratch, count, t))
            until = t + span
            steps = (steps + GOLDEN) % 1.0
            even = t + steps * span
            sr, sg, sb, lr, lg, lb = coefficients_at(tables, scratch, count, even)
            bound = max(sr + lr - ar, sg + lg - ag, sb + lb - ab, 0.0)
        begun = t
        look = 2e30
        if shines:
            look = t + spread_over(phase, bricks_passed(scratch, count, t)) * span
        collision = t + budget / bound if bound * span > budget else 2e30
        while True:
            if 0 <= entry < ray.last_entry:
                point: Float = max(points.depth[entry] - ray.since, t)
                if point < min(collision, until, look, sampled):
                    step = point - t
                    tr, tg, tb = tr * left_of(ar * step), tg * left_of(ag * step), tb * left_of(ab * step)
                    t = point
                    group = points.group[entry]
                    carried.glow[group, 0] += tr * points.light[0, entry]
                    carried.glow[group, 1] += tg * points.light[1, entry]
                    carried.glow[group, 2] += tb * points.light[2, entry]
                    entry += 1
                    continue
            if sampled < min(collision, until, look):
                step = max(sampled - t, 0.0)
                tr, tg, tb = tr * left_of(ar * step), tg * left_of(ag * step), tb * left_of(ab * step)
                t += step
                sampled = 2e30
                s, hr, hg, hb = choose_volume(tables, scratch, count, t, ray.pick)
                if s >= 0:
                    ur, ug, ub, _, _, _ = coefficients_at(tables, scratch, count, t)
                    phase_density = phase_at(tables, scratch, s, t, ray.cosine)
                    carried.inscattered[0], carried.inscattered[1] = (
                        tr * ur * hr * phase_density,
                        tg * ug * hg * phase_density,
                    )
                    carried.inscattered[2], carried.inscattered[3] = tb * ub * hb * phase_density, phase_density
                continue
            if look < min(collision, until):
                step = look - t
                tr, tg, tb = tr * left_of(ar * step), tg * left_of(ag * step), tb * left_of(ab * step)
                t = look
                look = 2e30
                for s in range(count):
                    if scratch.enter[s] > t or scratch.leave[s] <= t:
                        continue
                    k = scratch.volume[s]
                    er, eg, eb = stored_emission_at(tables, scratch, s, t)
                    if ray.entry < 0:
                        cell = light_cell_at(tables, scratch, s, t, emitters)
                        if cell >= 0:
                            er += emitters.volumes.grains[cell, 0]
                            eg += emitters.volumes.grains[cell, 1]
                            eb += emitters.volumes.grains[cell, 2]
                    if er + eg + eb <= 0.0:
                        continue
                    weight = span * light_weight(tables, scratch, s, t, ray, emitters, asked)
                    group = tables.group[k]
                    carried.glow[group, 0] += tr * er * weight
                    carried.glow[group, 1] += tg * eg * weight
                    carried.glow[group, 2] += tb * eb * weight
                continue
            if collision >= until or carried.counters[NUMBER] >= MOST_COLLISIONS - 8:
                if collision < until:
                    carried.counters[UNTRACKED] += 1
                budget = max(budget - bound * (until - begun), 1e-12)
                step = until - t
                tr, tg, tb = tr * left_of(ar * step), tg * left_of(ag * step), tb * left_of(ab * step)
                t = until
                break
            step = collision - t
            tr, tg, tb = tr * left_of(ar * step), tg * left_of(ag * step), tb * left_of(ab * step)
            t = collision
            choose, pick, u, _ = _drawn(ray, carried)
            if not fixed:
                sr, sg, sb, lr, lg, lb = coefficients_at(tables, scratch, count, t)
            nr, ng, nb = bound - sr - (lr - ar), bound - sg - (lg - ag), bound - sb - (lb - ab)
            if min(nr, ng, nb) < -1e-4 * bound:
                carried.counters[VIOLATIONS] += 1
            nr, ng, nb = max(nr, 0.0), max(ng, 0.0), max(nb, 0.0)
            turned = tr * sr + tg * sg + tb * sb
            passed = tr * nr + tg * ng + tb * nb
            total = turned + passed
            if total <= 0.0:
                tr = tg = tb = 0.0
                break
            if choose * total < turned:
                scale = total / (turned * bound)
                scattered, hr, hg, hb = choose_volume(tables, scratch, count, even if fixed else t, pick)
                tr, tg, tb = tr * sr * hr * scale, tg * sg * hg * scale, tb * sb * hb * scale
                break
            scale = total / (passed * bound)
            tr, tg, tb = tr * nr * scale, tg * ng * scale, tb * nb * scale
            budget = -log(max(1.0 - u, 1e-9))
            begun = t
            collision = t + budget / bound
    # A point at a volume's edge may lie a little farther from the eye than where the pixel's ray leaves that.
    while scattered < 0 and 0 <= entry < ray.last_entry and points.depth[entry] - ray.since < ray.far:
        group = points.group[entry]
        carried.glow[group, 0] += tr * points.light[0, entry]
        carried.glow[group, 1] += tg * points.light[1, entry]
        carried.glow[group, 2] += tb * points.light[2, entry]
        entry += 1
    carried.throughput[0], carried.throughput[1], carried.throughput[2] = tr, tg, tb
    return t, scattered


@inlined
def light_weight(
    tables: VolumeTables, scratch: Scratch, s: Int, t: Float, ray: TrackedRay, emitters: Emitters, asked: Float
) -> Float:
    """How a volume's light counts that a ray has found.

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
    ray : TrackedRay
        The ray.
    emitters : Emitters
        All light sources.
    asked : float
        Chance that volumes are asked for light.
    """
    if asked <= 0.0 or ray.found == FOUND_ALONE:
        return 1.0
    cell = light_cell_at(tables, scratch, s, t, emitters)
    away = t + ray.since
    k = scratch.volume[s]
    other = asked * emitters.volumes.per_volume[cell] * away * away * emitters.volumes.along[k] if cell >= 0 else 0.0
    if ray.found == COVERED:
        return 0.0 if other > 0.0 else 1.0
    return power_weight(ray.pdf, other)


@inlined
def light_cell_at(tables: VolumeTables, scratch: Scratch, s: Int, t: Float, emitters: Emitters) -> Int:
    """The cell of a shining volume that a point of a segment lies in; −1 where it is dark.

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
    emitters : Emitters
        All light sources.
    """
    k = scratch.volume[s]
    return light_cell(
        emitters.volumes, k,
        tables.grid_low[k, 0] + (scratch.origin[0, s] + t * scratch.way[0, s]) * tables.cell[k, 0],
        tables.grid_low[k, 1] + (scratch.origin[1, s] + t * scratch.way[1, s]) * tables.cell[k, 1],
        tables.grid_low[k, 2] + (scratch.origin[2, s] + t * scratch.way[2, s]) * tables.cell[k, 2],
    )  # fmt: skip
