"""Paths on their way through volumes, from one scattering to the next."""

from typing import NamedTuple

import numpy as np

from texallon.core.geometry.embree import intersect_one
from texallon.core.geometry.rays import Hits, RayScene, aim, keep_hit
from texallon.core.kernel import Array, Integers, kernel
from texallon.core.random_numbers import uniform4
from texallon.core.render.light.emitters import Emitters, ask_lamp, sample_light, volume_chance
from texallon.core.render.light.equiangular import (
    no_equiangular_sample,
    sample_equiangular,
    skip_lamps_in_reach,
    within_reach,
)
from texallon.core.render.transport.emitter_hits import power_weight
from texallon.core.render.transport.light_aovs import accumulate, total_bounces
from texallon.core.render.transport.paths import (
    AFTER_DIFFUSE,
    EMITTERS_ONLY,
    FIRST_REFLECTED,
    FIRST_SCATTERED,
    FIRST_TRANSMITTED,
    FROM_CAMERA,
    IN_SUBSURFACE,
    LAST_TRANSMITTED,
    NEE_DONE,
    REFRACTED,
    Paths,
    Round,
)
from texallon.core.render.transport.shadow_rays import ShadowRays, put_light
from texallon.core.render.transport.volume_tracking import (
    COVERED,
    FOUND_ALONE,
    MOST_COLLISIONS,
    NUMBER,
    UNTRACKED,
    VIOLATIONS,
    WEIGHED,
    WHOLE,
    Carried,
    Sight,
    TrackedRay,
    first_dimension,
    track,
)
from texallon.core.render.volume.lookup import place_in_brick, value_at
from texallon.core.render.volume.points_in_view import PointsInView
from texallon.core.render.volume.quantities import FORWARD, SECOND_FORWARD, SECOND_SHARE
from texallon.core.render.volume.segments import find_segments
from texallon.core.render.volume.tables import Line, VolumeTables, Wanted
from texallon.core.render.volume.tracking_room import TrackingRoom
from texallon.core.shade.base import NON_SPECULAR
from texallon.core.shade.media.nesting import innermost
from texallon.core.shade.media.two_lobes import sample_two_lobes, two_lobe_pdf

TRACKING = 0x20000000
"""Random dimensions of tracking, apart from those of scattering."""

CAREFUL, MOST_EVENTS = 3, 16
"""In the first rounds each scattering asks a light; later a path is followed through so many, of which one, drawn evenly, asks for all."""


INDIRECT = 4.0
"""Times as wide as the camera's own rays others are taken to be, where bricks are chosen: light that comes from all sides varies more slowly than what is
seen."""


NARROW = 0.25
"""Short of 1, mean cosines of phase functions from which on what was scattered is as wide as after a diffuse bounce."""


class Tracked(NamedTuple):
    """What tracking n paths says: `todo (n,)` 1 for those that are to be followed, and 0 when they have been; `unfinished (n,)` 1 for those that go on
    in the next round; `counts (2,)`, how often a bound was exceeded and how often random numbers were used up."""

    todo: Integers
    unfinished: Integers
    counts: Integers


class VolumeShadowRays(NamedTuple):
    """Shadow rays of n paths: from where they are scattered (`at_scattering`), and from equi-angular samples of their ways (`equiangular`), to which their cones have widened to `width (n,)`."""

    at_scattering: ShadowRays
    equiangular: ShadowRays
    width: Array


class Surroundings(NamedTuple):
    """What paths may meet: volumes, surfaces, lights, and bright points."""

    tables: VolumeTables
    scene: RayScene
    mask: int
    emitters: Emitters
    points: PointsInView


class Missed(NamedTuple):
    """Where bricks that were missed are taken down (`wanted`), and `room` for one call."""

    wanted: Wanted
    room: TrackingRoom


class Adding(NamedTuple):
    """Where light is added: the number of light `groups`, the most that is added after the first bounce (`clamp`; 0 for no limit), and
    `buffers (groups + AOVs, 3, slots)`."""

    groups: int
    clamp: float
    buffers: Array


@kernel
def traverse_volumes(
    around: Surroundings,
    paths: Paths,
    now: Round,
    hits: Hits,
    shadows: VolumeShadowRays,
    tracked: Tracked,
    adding: Adding,
    missed: Missed,
) -> None:
    """Take paths through volumes, up to where they meet something; or scatter them on the way.

    Parameters
    ----------
    around : Surroundings
        What they may meet.
    paths : Paths
        Updated in place.
    now : Round
        Of bounces.
    hits : Hits
        Where they meet surfaces; of those that were scattered, where they do then.
    shadows : VolumeShadowRays
        Filled.
    tracked : Tracked
        Who is followed; a path that met a brick which is not there stays to do, unchanged.
    adding : Adding
        Light added up.
    missed : Missed
        Bricks that were missed, added to; and room.
    """
    wanted, room = missed.wanted, missed.room
    sample, bounce, seed = now.sample, now.bounce, now.seed
    tables, emitters = around.tables, around.emitters
    scratch, ray, met, met_bits = room.scratch, room.ray, room.met.words, room.met.bits
    throughput, counters, before, after = room.throughput, room.counters, room.before, room.after
    shadow, lamp_rays, inscattered = shadows.at_scattering, shadows.equiangular, room.inscattered
    counters[VIOLATIONS], counters[UNTRACKED] = 0, 0
    sight = Sight(volume_chance(emitters), around.points)
    most_events = 1 if bounce < CAREFUL else MOST_EVENTS
    for i in range(tracked.todo.shape[0]):
        if tracked.todo[i] == 0:
            continue
        flags = paths.flags[i]
        if (flags & IN_SUBSURFACE) != 0:
            tracked.todo[i] = 0
            continue
        x, y, z = np.float64(paths.origin[0, i]), np.float64(paths.origin[1, i]), np.float64(paths.origin[2, i])
        dx, dy, dz = (
            np.float64(paths.direction[0, i]),
            np.float64(paths.direction[1, i]),
            np.float64(paths.direction[2, i]),
        )
        d = np.float64(hits.distance[i])
        inside = paths.media.shape[0] > 0 and innermost(paths.media, paths.slot[i]) >= 0
        pixel = paths.pixel[i]
        for c in range(3):
            throughput[c] = paths.throughput[c, i]
        before[:] = 0.0
        after[:] = 0.0
        counters[NUMBER], counters[WHOLE] = 0, 1
        width, spread, pdf = np.float64(paths.cone_width[i]), np.float64(paths.cone_spread[i]), np.float64(paths.pdf[i])
        since = np.float64(paths.distance_since_vertex[i])
        found = FOUND_ALONE
        if (flags & LAST_TRANSMITTED) != 0:
            found = COVERED if (flags & NEE_DONE) != 0 else FOUND_ALONE
        elif (flags & 3) == NON_SPECULAR:
            found = WEIGHED
        event, anything, asked = 0, False, 0
        far = far_to_lamp = 0.0
        while True:
            count = find_segments(tables, scratch, ray, inside, Line(x, y, z, dx, dy, dz), d)
            if count == 0 and not (event == 0 and around.points.first.shape[0] > 1):
                break
            anything = True
            light = before if event == 0 else after
            entry = last_entry = np.int64(-1)
            if event == 0 and (flags & FROM_CAMERA) != 0:
                entry = last_entry = np.int64(0)
                if around.points.first.shape[0] > 1:
                    entry, last_entry = np.int64(around.points.first[pixel]), np.int64(around.points.first[pixel + 1])
                while entry < last_entry and around.points.depth[entry] < since:
                    entry += 1
            point = no_equiangular_sample()
            lu = lv = which = swap = 0.0
            if count > 0 and (flags & EMITTERS_ONLY) == 0 and emitters.lamps.shape[0] > 0:
                begin, end = 1e30, 0.0
                for s in range(count):
                    begin, end = min(begin, scratch.enter[s]), max(end, scratch.leave[s])
                counters[NUMBER] += 2
                at = first_dimension(TRACKING, bounce) + (counters[NUMBER] & (MOST_COLLISIONS - 1))
                pick, u, lu, lv = uniform4(pixel, sample, at, seed)
                which, swap, _, _ = uniform4(pixel, sample, at - 1, seed)
                point = sample_equiangular(emitters, Line(x, y, z, dx, dy, dz), begin, min(end, d), pick, u)
            ax, ay, az = x + point.distance * dx, y + point.distance * dy, z + point.distance * dz
            lit = ask_lamp(emitters, point.lamp, ax, ay, az, lu, lv)
            coarse = np.float64(1) if event == 0 and (flags & FROM_CAMERA) != 0 else INDIRECT
            one = TrackedRay(
                pixel,
                sample,
                seed,
                first_dimension(TRACKING, bounce),
                coarse * width,
                coarse * spread,
                pdf,
                found,
                since,
                entry,
                last_entry,
                d,
                point.distance if lit.pdf > 0.0 else 2e30,
                dx * lit.wx + dy * lit.wy + dz * lit.wz,
                which,
            )
            carried = Carried(throughput, light, inscattered, counters)
            t, s = track(tables, scratch, count, one, carried, emitters, sight, wanted)
            if inscattered[3] > 0.0:
                asked += 1
                # Reservoir sampling: of a path's equi-angular samples each replaces the last with probability one in so many.
                if swap * asked < 1.0:
                    far_to_lamp = lit.far
                    lamp_rays.origin[0, i], lamp_rays.origin[1, i], lamp_rays.origin[2, i] = ax, ay, az
                    put_light(lamp_rays, i, lit, emitters.peak)
                    scale = 1.0 / (lit.pdf * point.pdf)
                    lamp_rays.light[0, i] = inscattered[0] * lit.r * scale
                    lamp_rays.light[1, i] = inscattered[1] * lit.g * scale
                    lamp_rays.light[2, i] = inscattered[2] * lit.b * scale
                    likely = lit.pdf * emitters.chance[point.lamp + 1]
                    lamp_rays.weight[i] = 1.0 if lit.bare else power_weight(likely, inscattered[3])
                    lamp_rays.indirect[i] = event
                    shadows.width[i] = one.width + one.spread * point.distance
            if s < 0 or counters[WHOLE] == 0:
                break
            event += 1
            width += spread * t
            x, y, z = x + t * dx, y + t * dy, z + t * dz
            tr, tg, tb = throughput[0], throughput[1], throughput[2]
            if (flags & EMITTERS_ONLY) != 0:
                throughput[:] = 0.0
                break
            k, brick = scratch.volume[s], scratch.brick[s]
            base, fx, fy, fz = place_in_brick(tables, scratch, s, t)
            g = value_at(tables, k, brick, FORWARD, base, fx, fy, fz)
            second = value_at(tables, k, brick, SECOND_FORWARD, base, fx, fy, fz)
            share = value_at(tables, k, brick, SECOND_SHARE, base, fx, fy, fz)
            counters[NUMBER] += 2
            at = first_dimension(TRACKING, bounce) + (counters[NUMBER] & (MOST_COLLISIONS - 1))
            choose, lu, lv, survive = uniform4(pixel, sample, at, seed)
            nu, nv, _, _ = uniform4(pixel, sample, at - 1, seed)
            # Each takes the place of the last with a chance of one in so many.
            if choose * event < 1.0:
                source, left = skip_lamps_in_reach(emitters, x, y, z, choose * event)
                light_sample = sample_light(emitters, x, y, z, source, lu, lv, 0.0)
                asks = light_sample.pdf > 0.0 and left > 1e-6
                if light_sample.lamp >= 0 and within_reach(emitters, light_sample.lamp, x, y, z):
                    asks = False
                far = light_sample.far if asks else 0.0
                if asks:
                    phase = two_lobe_pdf(
                        dx * light_sample.wx + dy * light_sample.wy + dz * light_sample.wz, g, second, share
                    )
                    shadow.origin[0, i], shadow.origin[1, i], shadow.origin[2, i] = x, y, z
                    put_light(shadow, i, light_sample, emitters.peak)
                    scale = phase * left / light_sample.pdf
                    shadow.light[0, i] = tr * scale * light_sample.r
                    shadow.light[1, i] = tg * scale * light_sample.g
                    shadow.light[2, i] = tb * scale * light_sample.b
                    shadow.weight[i] = 1.0 if light_sample.bare else power_weight(light_sample.pdf, phase)
            nx, ny, nz = sample_two_lobes(dx, dy, dz, g, second, share, nu, nv)
            pdf = two_lobe_pdf(dx * nx + dy * ny + dz * nz, g, second, share)
            dx, dy, dz = nx, ny, nz
            keep = min(max(tr, tg, tb), 1.0)
            if not survive < keep:
                throughput[:] = 0.0
                break
            throughput[0], throughput[1], throughput[2] = tr / keep, tg / keep, tb / keep
            spread = max(spread, AFTER_DIFFUSE * min((1.0 - abs(g)) / NARROW, 1.0))
            since, found = np.float64(0), WEIGHED
            if event >= most_events:
                break
            aim(met, met_bits, i, around.mask, x, y, z, dx, dy, dz, np.float32(0), np.float32(np.inf))
            intersect_one(around.scene.handle, room.met.address, 0)
            d = np.float64(met[8])
        if counters[WHOLE] == 0:  # it is followed again, and counted then
            counters[VIOLATIONS], counters[UNTRACKED] = 0, 0
            continue
        tracked.counts[0] += counters[VIOLATIONS]
        tracked.counts[1] += counters[UNTRACKED]
        counters[VIOLATIONS], counters[UNTRACKED] = 0, 0
        tracked.todo[i] = 0
        if not anything:
            continue
        bounces = total_bounces(paths.bounce_counts[i])
        first = 0
        if (flags & (FIRST_REFLECTED | FIRST_TRANSMITTED | FIRST_SCATTERED)) == 0:
            first = FIRST_SCATTERED
        for group in range(adding.groups):
            if before[group, 0] + before[group, 1] + before[group, 2] > 0.0:
                accumulate(
                    adding.buffers, adding.groups, group, paths.slot[i], before[group, 0], before[group, 1], before[group, 2],
                    flags, 1, bounces > 1, paths.diffuse_fraction, i, adding.clamp,
                )  # fmt: skip
            if after[group, 0] + after[group, 1] + after[group, 2] > 0.0:
                accumulate(
                    adding.buffers, adding.groups, group, paths.slot[i], after[group, 0], after[group, 1], after[group, 2],
                    flags | first, 1, True, paths.diffuse_fraction, i, adding.clamp,
                )  # fmt: skip
        paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i] = (
            throughput[0],
            throughput[1],
            throughput[2],
        )
        if asked > 0:
            lamp_rays.far[i] = far_to_lamp
            for c in range(3):
                lamp_rays.light[c, i] *= asked
            lamp_rays.flags[i] = flags | first
            lamp_rays.indirect[i] = 1 if bounces > 1 or lamp_rays.indirect[i] > 0 else 0
        if event == 0:
            continue
        shadow.far[i] = far
        for c in range(3):
            shadow.light[c, i] *= event
        shadow.flags[i] = flags | first
        shadow.indirect[i] = 1 if bounces > 1 or event > 1 else 0
        if event >= most_events or throughput[0] + throughput[1] + throughput[2] <= 0.0:
            tracked.unfinished[i] = 1
        else:
            keep_hit(around.scene, met, met_bits, hits, i)
        paths.origin[0, i], paths.origin[1, i], paths.origin[2, i] = x, y, z
        paths.direction[0, i], paths.direction[1, i], paths.direction[2, i] = dx, dy, dz
        paths.pdf[i], paths.cone_width[i], paths.cone_spread[i] = pdf, width, spread
        paths.distance_since_vertex[i] = np.float32(0)
        paths.flags[i] = NON_SPECULAR | (flags & ~(3 | LAST_TRANSMITTED | REFRACTED | FROM_CAMERA)) | NEE_DONE | first
        # Scattering in a volume is not counted against limits; the first two tell direct light from indirect.
        if bounces < 2:
            paths.bounce_counts[i] += 1 << 16
