"""One bounce of many paths at once: light that arrives where a ray ended, and where each path goes next.

The estimator is next-event estimation joined with scattered rays by multiple importance sampling with the power
heuristic (E. Veach, "Robust Monte Carlo Methods for Light Transport Simulation", 1997, chapter 9).

Clear boundaries (water, glass) bend light, so a straight shadow ray can't connect through them. As is usual in
production, shadow rays pass them straight with the Fresnel loss, and the light found that way *covers* the path: a path
that then passes the boundary by scattering and meets a light adds nothing. `COVERED` marks such paths.
"""

import numpy as np

from texallon.core.kernel import Array, Integers, Real, Whole, inlined, kernel
from texallon.core.render.lamps import SUN, ask_lamp, cone_density, met_lamp
from texallon.core.render.lights import (
    environment_density,
    environment_place,
    environment_radiance,
    sample_environment,
)
from texallon.core.shade.fresnel import fresnel_dielectric, weighted_ior
from texallon.core.shade.random import uniform4
from texallon.core.shade.rows import (
    COAT_ROUGHNESS,
    EMISSION_COLOR,
    EMISSION_LUMINANCE,
    METALNESS,
    OPACITY,
    SPECULAR_IOR,
    SPECULAR_ROUGHNESS,
    SPECULAR_WEIGHT,
    TRANSMISSION_COLOR,
    TRANSMISSION_WEIGHT,
)
from texallon.core.shade.surface import MIRRORED, NOTHING, SPREAD, THROUGH, reflected, sample_surface

AFTER_DIFFUSE = np.float32(0.2)
"""Spread of a ray after a diffuse bounce, radians; rays at least this wide count as such."""

SOFTEST = np.float32(0.3)
"""Least roughness of reflections seen by way of a diffuse bounce.

A small light mirrored by water onto a wall is found by chance so seldom that it blinds the pixels where it is.
Mollified reflections (A. Kaplanyan and C. Dachsbacher, "Path Space Regularization", Eurographics 2013) find it always, at
the price of softer caustics. What the camera sees directly, or in a mirror, is not touched.
"""

CUT_OUT = 0x7FFF0000
"""The random dimension of going through what is cut out, apart from those of scattering."""

LAST_THROUGH, COVERED, FROM_CAMERA = 4, 8, 16
"""Flags of a path, beside the kind of its last turn in the low two bits."""


@inlined
def power_weight(a: Real, b: Real) -> Real:
    """The power heuristic: the weight of a strategy of density `a` against one of density `b`."""
    return a * a / (a * a + b * b) if a > 0.0 else 0.0


@kernel
def arrive(
    instance: Integers,
    distance: Array,
    behind: Array,
    origin: Array,
    direction: Array,
    throughput: Array,
    density: Array,
    flags: Integers,
    slot: Integers,
    objects: Whole,
    picture: Array,
    picture_density: Array,
    rotation: Real,
    background: bool,
    lamps: Array,
    areas: Integers,
    chance: Array,
    radiance: Array,
) -> None:
    """Add the light of the environment (missed everything) and of lamps (met one) to `radiance (3, slots)`.

    `behind (n,)` is how far a path has come since its last turn, through what is cut out, before this ray.
    """
    for i in range(instance.shape[0]):
        hit = instance[i]
        if 0 <= hit < objects:
            continue
        flag = flags[i]
        covered = (flag & LAST_THROUGH) != 0 and (flag & COVERED) != 0
        if covered:
            continue
        dx, dy, dz = direction[0, i], direction[1, i], direction[2, i]
        r = g = b = 0.0
        other = 0.0
        if hit < 0:
            s = slot[i]
            for k in range(lamps.shape[0]):  # suns with a disc, which lies at infinity
                lamp = lamps[k]
                if int(lamp[16]) != SUN or lamp[17] >= 1.0 or dx * lamp[0] + dy * lamp[1] + dz * lamp[2] < lamp[17]:
                    continue
                if (flag & FROM_CAMERA) != 0 and lamp[15] <= 0.0:
                    continue
                weight = 1.0
                if (flag & 3) == SPREAD and (flag & LAST_THROUGH) == 0:
                    weight = power_weight(density[i], chance[k + 1] * cone_density(lamp[17]))
                for c in range(3):
                    radiance[c, s] += throughput[c, i] * lamp[12 + c] * weight
            if (flag & FROM_CAMERA) != 0 and not background:
                continue
            u, v = environment_place(dx, dy, dz, rotation)
            r, g, b = environment_radiance(picture, u, v)
            other = chance[0] * environment_density(picture_density, u, v)
        else:
            k = areas[hit - objects]
            before = behind[i]
            shines, other = met_lamp(
                lamps, k, origin[0, i] - before * dx, origin[1, i] - before * dy, origin[2, i] - before * dz,
                dx, dy, dz, distance[i] + before,
            )  # fmt: skip
            if shines <= 0.0:
                continue
            r, g, b = lamps[k, 12], lamps[k, 13], lamps[k, 14]
            other *= chance[k + 1]
        weight = 1.0
        if (flag & 3) == SPREAD and (flag & LAST_THROUGH) == 0:
            weight = power_weight(density[i], other)
        s = slot[i]
        radiance[0, s] += throughput[0, i] * r * weight
        radiance[1, s] += throughput[1, i] * g * weight
        radiance[2, s] += throughput[2, i] * b * weight


@inlined
def basis(nx: Real, ny: Real, nz: Real) -> tuple[Real, Real, Real, Real, Real, Real]:
    """Two unit vectors across a normal (T. Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017)."""
    sign = 1.0 if nz >= 0.0 else -1.0
    a = -1.0 / (sign + nz)
    b = nx * ny * a
    return 1.0 + sign * nx * nx * a, sign * b, -sign * nx, b, sign + ny * ny * a, -ny


@kernel
def scatter(
    position: Array,
    normal: Array,
    flat: Array,
    direction: Array,
    material: Array,
    throughput: Array,
    density: Array,
    flags: Integers,
    slot: Integers,
    pixel: Integers,
    distance: Array,
    behind: Array,
    turns: Integers,
    passed: Integers,
    spread: Array,
    sample: Whole,
    bounce: Whole,
    limits: Integers,
    seed: Whole,
    offset: Real,
    table: Array,
    mean: Array,
    rows: Array,
    columns: Array,
    picture: Array,
    picture_density: Array,
    rotation: Real,
    lamps: Array,
    chance: Array,
    radiance: Array,
    next_origin: Array,
    next_direction: Array,
    shadow_origin: Array,
    shadow_direction: Array,
    shadow_far: Array,
    shadow_light: Array,
    shadow_weight: Array,
) -> None:
    """At each surface point: add its own light, propose a shadow ray, and choose where the path goes on.

    `throughput`, `density`, `flags`, `behind`, `turns` and `spread` are updated in place; a path that ends gets throughput 0.
    A point without a useful shadow ray gets `shadow_far` 0. Where the surface is cut out the path goes straight on and
    `passed` is 1. `turns (n,)` counts four kinds of turns in a byte each, against `limits (5,)` (see `Limits`), the last of
    which holds for diffuse, glossy and transmission together.
    """
    for i in range(slot.shape[0]):
        s = slot[i]
        passed[i] = 0
        opacity = material[OPACITY, i]
        if opacity < np.float32(1):
            through, _, _, _ = uniform4(pixel[i], sample, CUT_OUT + bounce, seed)
            if through >= opacity:
                passed[i] = 1
                shadow_far[i] = np.float32(0)
                behind[i] += distance[i]
                count = (turns[i] >> 24) & 127
                if count >= limits[3]:
                    throughput[0, i] = throughput[1, i] = throughput[2, i] = np.float32(0)
                    continue
                turns[i] += 1 << 24
                facing = direction[0, i] * flat[0, i] + direction[1, i] * flat[1, i] + direction[2, i] * flat[2, i]
                step = offset if facing > 0.0 else -offset
                for c in range(3):
                    next_origin[c, i] = position[c, i] + step * flat[c, i]
                    next_direction[c, i] = direction[c, i]
                continue
        behind[i] = np.float32(0)
        depth = (turns[i] & 255) + ((turns[i] >> 8) & 255) + ((turns[i] >> 16) & 255)
        last = depth >= limits[4]
        glow = material[EMISSION_LUMINANCE, i]
        if glow > 0.0:
            for c in range(3):
                radiance[c, s] += throughput[c, i] * glow * material[EMISSION_COLOR + c, i]
        shadow_far[i] = np.float32(0)
        if last:
            throughput[0, i] = throughput[1, i] = throughput[2, i] = np.float32(0)
            continue
        vx, vy, vz = -direction[0, i], -direction[1, i], -direction[2, i]
        outside = vx * flat[0, i] + vy * flat[1, i] + vz * flat[2, i] >= 0.0
        side = 1.0 if outside else -1.0
        fx, fy, fz = flat[0, i] * side, flat[1, i] * side, flat[2, i] * side
        nx, ny, nz = normal[0, i] * side, normal[1, i] * side, normal[2, i] * side
        if nx * vx + ny * vy + nz * vz < 1e-3:  # a smoothed normal may turn away where the face itself does not
            nx, ny, nz = fx, fy, fz
        ax, ay, az, bx, by, bz = basis(nx, ny, nz)
        ox = vx * ax + vy * ay + vz * az
        oy = vx * bx + vy * by + vz * bz
        oz = max(vx * nx + vy * ny + vz * nz, 1e-4)
        if spread[i] >= AFTER_DIFFUSE:
            material[SPECULAR_ROUGHNESS, i] = max(material[SPECULAR_ROUGHNESS, i], SOFTEST)
            material[COAT_ROUGHNESS, i] = max(material[COAT_ROUGHNESS, i], SOFTEST)
        px, py, pz = position[0, i], position[1, i], position[2, i]
        pick, lu, lv, _ = uniform4(pixel[i], sample, bounce * 2 + 1, seed)

        # A shadow ray to one light.
        which = 0
        left = pick
        while which < chance.shape[0] - 1 and left >= chance[which]:
            left -= chance[which]
            which += 1
        if chance[which] > 0.0:
            far = 1e30
            without_extent = False
            if which == 0:
                wx, wy, wz, u, v, p = sample_environment(rows, columns, picture_density, rotation, lu, lv)
                lr, lg, lb = environment_radiance(picture, u, v)
            else:
                wx, wy, wz, far, p, lr, lg, lb, without_extent = ask_lamp(lamps, which - 1, px, py, pz, lu, lv)
                # The ray starts an offset above the surface, and must end before the light it asks for.
                far = max(far * 0.9999 - 2.0 * offset, 0.0)
            p *= chance[which]
            if p > 0.0 and wx * fx + wy * fy + wz * fz > 0.0:
                ix = wx * ax + wy * ay + wz * az
                iy = wx * bx + wy * by + wz * bz
                iz = wx * nx + wy * ny + wz * nz
                r, g, b, q = reflected(material, i, ox, oy, oz, ix, iy, iz, outside, table, mean)
                if r + g + b > 0.0:
                    shadow_origin[0, i] = px + offset * fx
                    shadow_origin[1, i] = py + offset * fy
                    shadow_origin[2, i] = pz + offset * fz
                    shadow_direction[0, i], shadow_direction[1, i], shadow_direction[2, i] = wx, wy, wz
                    shadow_far[i] = far
                    shadow_light[0, i] = throughput[0, i] * r * lr / p
                    shadow_light[1, i] = throughput[1, i] * g * lg / p
                    shadow_light[2, i] = throughput[2, i] * b * lb / p
                    shadow_weight[i] = 1.0 if without_extent else power_weight(p, q)

        # Where the path goes on.
        choose, u, v, survive = uniform4(pixel[i], sample, bounce * 2 + 2, seed)
        kind, ix, iy, iz, r, g, b, q, wide = sample_surface(material, i, ox, oy, oz, outside, choose, u, v, table, mean)
        wx = ix * ax + iy * bx + iz * nx
        wy = ix * ay + iy * by + iz * ny
        wz = ix * az + iy * bz + iz * nz
        along = wx * fx + wy * fy + wz * fz
        # A direction that the smoothed normal allows but the face does not would leak through the surface.
        if kind == NOTHING or (along <= 0.0) != (kind == THROUGH):
            throughput[0, i] = throughput[1, i] = throughput[2, i] = np.float32(0)
            continue
        tr, tg, tb = throughput[0, i] * r, throughput[1, i] * g, throughput[2, i] * b
        # Turns of a kind beyond its limit end the path.
        which_turn = 2 if kind == THROUGH else (0 if kind == SPREAD and wide >= 1.0 else 1)
        if ((turns[i] >> (8 * which_turn)) & 255) >= limits[which_turn]:
            throughput[0, i] = throughput[1, i] = throughput[2, i] = np.float32(0)
            continue
        turns[i] += 1 << (8 * which_turn)
        if depth >= 3:  # Russian roulette by what the path still carries
            keep = min(max(tr, tg, tb), 0.95)
            if not survive < keep:
                keep = 0.0
            scale = 1.0 / keep if keep > 0.0 else 0.0
            tr, tg, tb = tr * scale, tg * scale, tb * scale
        throughput[0, i], throughput[1, i], throughput[2, i] = tr, tg, tb
        step = -offset if kind == THROUGH else offset
        next_origin[0, i], next_origin[1, i], next_origin[2, i] = (
            px + step * fx,
            py + step * fy,
            pz + step * fz,
        )
        next_direction[0, i], next_direction[1, i], next_direction[2, i] = wx, wy, wz
        covered = flags[i] & COVERED
        if kind == SPREAD:
            flags[i] = SPREAD | COVERED
            density[i] = q
            spread[i] = max(spread[i], AFTER_DIFFUSE if wide >= AFTER_DIFFUSE else np.float32(0.5 * wide))
        elif kind == MIRRORED:
            flags[i] = MIRRORED
        else:
            flags[i] = (flags[i] & 3) | LAST_THROUGH | covered


@kernel
def pass_clear(material: Array, direction: Array, flat: Array, straight: Array, covered: Array) -> None:
    """Weaken light on a straight way through boundaries, in place `(3, n)` each, to 0 where they are opaque.

    `straight` has only passed what is cut out, as a scattered ray could; `covered` has passed a clear boundary.
    """
    for i in range(straight.shape[1]):
        cosine = direction[0, i] * flat[0, i] + direction[1, i] * flat[1, i] + direction[2, i] * flat[2, i]
        ior = weighted_ior(material[SPECULAR_IOR, i], material[SPECULAR_WEIGHT, i])
        # Always counted from outside: a straight ray has no critical angle.
        kept = (1.0 - fresnel_dielectric(min(abs(cosine), 1.0), ior)) * material[TRANSMISSION_WEIGHT, i]
        kept *= 1.0 - material[METALNESS, i]
        opacity = material[OPACITY, i]
        for c in range(3):
            clear = opacity * kept * material[TRANSMISSION_COLOR + c, i]
            covered[c, i] = covered[c, i] * ((np.float32(1) - opacity) + clear) + straight[c, i] * clear
            straight[c, i] *= np.float32(1) - opacity
