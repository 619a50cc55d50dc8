"""Light that a scattered ray finds by itself: the sky where it missed everything, and lamps that it met."""

from texallon.core.kernel import Array, Integers, Real, Whole, inlined, kernel
from texallon.core.render.ask import Sources
from texallon.core.render.lamps import SUN, cone_density, met_lamp
from texallon.core.render.lights import environment_density, environment_place, environment_radiance
from texallon.core.render.parts import deposit, turned
from texallon.core.render.paths import BENT, COVERED, FROM_CAMERA, LAST_THROUGH, WANDERING, Paths
from texallon.core.shade.base import SPREAD


@inlined
def power_weight(a: Real, b: Real) -> Real:
    """The power heuristic: the weight of a strategy of density `a` against one of density `b` (Veach 1997, chapter 9)."""
    return a * a / (a * a + b * b) if a > 0.0 else 0.0


@kernel
def arrive(
    paths: Paths,
    instance: Integers,
    distance: Array,
    objects: Whole,
    sources: Sources,
    groups: Whole,
    clamp: Real,
    layers: Array,
) -> None:
    """Add the light of the environment (missed everything) and of lamps (met one) to `layers`; see `parts`."""
    for i in range(instance.shape[0]):
        hit = instance[i]
        if 0 <= hit < objects:
            continue
        flag = paths.flags[i]
        covered = (flag & LAST_THROUGH) != 0 and (flag & COVERED) != 0
        bent = covered and (flag & BENT) != 0 and hit < 0
        if (covered and not bent) or (flag & WANDERING) != 0:
            continue
        spread = (flag & 3) == SPREAD and (flag & LAST_THROUGH) == 0
        from_camera = (flag & FROM_CAMERA) != 0
        further = turned(paths.turns[i]) > 1
        s = paths.slot[i]
        tr, tg, tb = paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i]
        dx, dy, dz = paths.direction[0, i], paths.direction[1, i], paths.direction[2, i]
        if hit < 0:
            for k in range(sources.lamps.shape[0]):  # suns with a disc, which lies at infinity
                lamp = sources.lamps[k]
                if int(lamp[16]) != SUN or lamp[17] >= 1.0 or dx * lamp[0] + dy * lamp[1] + dz * lamp[2] < lamp[17]:
                    continue
                if bent or (from_camera and lamp[15] <= 0.0):
                    continue
                weight = 1.0
                if spread:
                    weight = power_weight(paths.density[i], sources.chance[k + 1] * cone_density(lamp[17]))
                r, g, b = tr * lamp[12] * weight, tg * lamp[13] * weight, tb * lamp[14] * weight
                deposit(
                    layers, groups, sources.group[k + 1], s, r, g, b, flag, 1, further, paths.share, i, clamp
                )  # fmt: skip
            if from_camera and not sources.background:
                continue
            u, v = environment_place(dx, dy, dz, sources.rotation)
            r, g, b = environment_radiance(sources.picture, u, v)
            other = sources.chance[0] * environment_density(sources.density, u, v)
            group, seen = sources.group[0], 0
            if bent:  # what is brighter came by straight shadow rays
                most = max(r, g, b)
                rest = min(sources.peak / most, 1.0) if most > 0.0 else 1.0
                r, g, b = r * rest, g * rest, b * rest
        else:
            k = sources.areas[hit - objects]
            before = paths.behind[i]
            shines, other = met_lamp(
                sources.lamps, k, paths.origin[0, i] - before * dx, paths.origin[1, i] - before * dy,
                paths.origin[2, i] - before * dz, dx, dy, dz, distance[i] + before,
            )  # fmt: skip
            if shines <= 0.0:
                continue
            r, g, b = sources.lamps[k, 12], sources.lamps[k, 13], sources.lamps[k, 14]
            other *= sources.chance[k + 1]
            group, seen = sources.group[k + 1], 1
        weight = power_weight(paths.density[i], other) if spread else 1.0
        deposit(
            layers, groups, group, s, tr * r * weight, tg * g * weight, tb * b * weight, flag, seen, further,
            paths.share, i, clamp,
        )  # fmt: skip
