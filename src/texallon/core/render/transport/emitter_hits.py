"""Light that a scattered ray finds by itself: the sky where it missed everything, and lamps that it met."""

from texallon.core.kernel import Array, Float, Int, Integers, inlined, kernel
from texallon.core.render.light.emitters import Emitters
from texallon.core.render.light.environment import environment_pdf, environment_radiance, environment_uv, turned_in
from texallon.core.render.light.lamps import AREA, CENTRE, COS_OUTER, KIND, RADIANCE, SUN, cone_pdf, lamp_hit_pdf
from texallon.core.render.transport.light_aovs import accumulate, total_bounces
from texallon.core.render.transport.paths import (
    FROM_CAMERA,
    IN_SUBSURFACE,
    LAST_TRANSMITTED,
    NEE_DONE,
    REFRACTED,
    Paths,
)
from texallon.core.shade.base import NON_SPECULAR


@inlined
def power_weight(a: Float, b: Float) -> Float:
    """The power heuristic: the weight of a strategy of density `a` against one of density `b` (Veach 1997, chapter 9).

    Parameters
    ----------
    a, b : float
        Density per steradian.
    """
    return a * a / (a * a + b * b) if a > 0.0 else 0.0


@kernel
def add_emitter_hits(
    paths: Paths,
    instance: Integers,
    distance: Array,
    objects: Int,
    emitters: Emitters,
    groups: Int,
    clamp: Float,
    buffers: Array,
) -> None:
    """Add the light of the environment (missed everything) and of lamps (met one) to `buffers`; see `parts`.

    Parameters
    ----------
    paths : Paths
        Updated in place.
    instance : Integers
        `(n,)` numbers of the instances hit.
    distance : Array
        `(n,)` metres.
    objects : int
        Number of instances that are objects.
    emitters : Emitters
        All light sources.
    groups : int
        Number of light groups.
    clamp : float
        Most light that is added after the first bounce; 0 for no limit.
    buffers : Array
        `(groups + AOVs, 3, slots)` light added up, changed in place.
    """
    for i in range(instance.shape[0]):
        hit = instance[i]
        if 0 <= hit < objects:
            continue
        flag = paths.flags[i]
        covered = (flag & LAST_TRANSMITTED) != 0 and (flag & NEE_DONE) != 0
        warped = covered and (flag & REFRACTED) != 0 and hit < 0
        if (covered and not warped) or (flag & IN_SUBSURFACE) != 0:
            continue
        cone_spread = (flag & 3) == NON_SPECULAR and (flag & LAST_TRANSMITTED) == 0
        from_camera = (flag & FROM_CAMERA) != 0
        indirect = total_bounces(paths.bounce_counts[i]) > 1
        s = paths.slot[i]
        tr, tg, tb = paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i]
        dx, dy, dz = paths.direction[0, i], paths.direction[1, i], paths.direction[2, i]
        if hit < 0:
            for k in range(emitters.lamps.shape[0]):  # suns with a disc, which lies at infinity
                lamp = emitters.lamps[k]
                if (
                    int(lamp[KIND]) != SUN
                    or lamp[COS_OUTER] >= 1.0
                    or dx * lamp[CENTRE] + dy * lamp[CENTRE + 1] + dz * lamp[CENTRE + 2] < lamp[COS_OUTER]
                ):
                    continue
                if warped or (from_camera and lamp[AREA] <= 0.0):
                    continue
                weight = 1.0
                if cone_spread:
                    weight = power_weight(paths.pdf[i], emitters.chance[k + 1] * cone_pdf(lamp[COS_OUTER]))
                r, g, b = (
                    tr * lamp[RADIANCE] * weight,
                    tg * lamp[RADIANCE + 1] * weight,
                    tb * lamp[RADIANCE + 2] * weight,
                )
                accumulate(
                    buffers, groups, emitters.group[k + 1], s, r, g, b, flag, 1, indirect, paths.diffuse_fraction, i, clamp
                )  # fmt: skip
            if from_camera and not emitters.background:
                continue
            ex, ey, ez = turned_in(emitters.tilt, dx, dy, dz)
            u, v = environment_uv(ex, ey, ez, emitters.rotation)
            r, g, b = environment_radiance(emitters.picture, u, v)
            other = emitters.chance[0] * environment_pdf(emitters.pdf, u, v)
            group, seen = emitters.group[0], 0
            if warped:  # what is brighter came by straight shadow rays
                most = max(r, g, b)
                rest = min(emitters.peak / most, 1.0) if most > 0.0 else 1.0
                r, g, b = r * rest, g * rest, b * rest
        else:
            k = emitters.areas[hit - objects]
            before = paths.distance_since_vertex[i]
            emits, other = lamp_hit_pdf(
                emitters.lamps, k, paths.origin[0, i] - before * dx, paths.origin[1, i] - before * dy,
                paths.origin[2, i] - before * dz, dx, dy, dz, distance[i] + before,
            )  # fmt: skip
            if emits <= 0.0:
                continue
            r, g, b = emitters.lamps[k, RADIANCE], emitters.lamps[k, RADIANCE + 1], emitters.lamps[k, RADIANCE + 2]
            other *= emitters.chance[k + 1]
            group, seen = emitters.group[k + 1], 1
        weight = power_weight(paths.pdf[i], other) if cone_spread else 1.0
        accumulate(
            buffers, groups, group, s, tr * r * weight, tg * g * weight, tb * b * weight, flag, seen, indirect,
            paths.diffuse_fraction, i, clamp,
        )  # fmt: skip
