"""One bounce of many paths at once: the light of the surfaces they met, and where each path goes next.

The estimator is next-event estimation joined with scattered rays by multiple importance sampling with the power
heuristic (E. Veach, "Robust Monte Carlo Methods for Light Transport Simulation", 1997, chapter 9).

Clear boundaries (water, glass) bend light, so a straight shadow ray can't connect through them. As is usual in
production, shadow rays pass them straight with the Fresnel loss, and the light found that way *covers* the path: a path
that then passes the boundary by scattering and meets a light adds nothing. `COVERED` marks such paths.
"""

from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Integers, Real, Whole, inlined, kernel
from texallon.core.render.arrive import power_weight
from texallon.core.render.ask import Asked, Sources, ask_light
from texallon.core.render.parts import deposit, turned
from texallon.core.render.paths import (
    AFTER_DIFFUSE,
    COVERED,
    FIRST_REFLECTED,
    FIRST_THROUGH,
    LAST_THROUGH,
    LIGHTS_ONLY,
    WANDERING,
    Paths,
)
from texallon.core.shade.base import INTO, MIRRORED, NOTHING, SPREAD, THROUGH, is_thin
from texallon.core.shade.medium import boundary, enter, leave, wander
from texallon.core.shade.random import uniform4
from texallon.core.shade.rows import (
    ABBE,
    BASE_COLOR,
    BASE_WEIGHT,
    COAT_ROUGHNESS,
    DISPERSION,
    EMISSION_COLOR,
    EMISSION_LUMINANCE,
    METALNESS,
    OPACITY,
    SPECULAR_IOR,
    SPECULAR_ROUGHNESS,
    TANGENT,
    TRANSMISSION_WEIGHT,
)
from texallon.core.shade.spectrum import dispersed_ior, draw_wavelength
from texallon.core.shade.surface import ground_alone, reflected, sample_surface

SOFTEST = np.float32(0.3)
"""Least roughness of reflections seen by way of a diffuse bounce.

A small light mirrored by water onto a wall is found by chance so seldom that it blinds the pixels where it is.
Mollified reflections (A. Kaplanyan and C. Dachsbacher, "Path Space Regularization", Eurographics 2013) find it always, at
the price of softer caustics. What the camera sees directly, or in a mirror, is not touched.
"""

CUT_OUT, WAVE = 0x7FFF0000, 0x7FFC0000
"""Random dimensions of going through what is cut out, and of wavelengths, apart from those of scattering."""

GOLDEN = 0.6180339887498949
"""Steps by the golden ratio spread the wavelengths of a pixel's samples evenly."""

DIFFUSE, GLOSSY, TRANSMISSION, TRANSPARENCY, ALL = range(5)
"""Places of `Limits.array`, and of the counts in `Paths.turns`."""


class Settings(NamedTuple):
    """What holds for a whole sample: `limits (5,)` as `Limits.array`, `priority (i,)` of each instance, tables of `albedo`."""

    sample: int
    seed: int
    offset: Real
    limits: Integers
    groups: int
    clamp: float
    priority: Integers
    table: Array
    mean: Array


class Met(NamedTuple):
    """Surface points that paths met, `n` each: see `Surface`, `Hits` and `rows`."""

    position: Array
    normal: Array
    flat: Array
    instance: Integers
    face: Integers
    distance: Array
    material: Array


@inlined
def basis(nx: Real, ny: Real, nz: Real) -> tuple[Real, Real, Real, Real, Real, Real]:
    """Two unit vectors across a normal (T. Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017)."""
    sign = 1.0 if nz >= 0.0 else -1.0
    a = -1.0 / (sign + nz)
    b = nx * ny * a
    return 1.0 + sign * nx * nx * a, sign * b, -sign * nx, b, sign + ny * ny * a, -ny


@inlined
def frame(nx: Real, ny: Real, nz: Real, gx: Real, gy: Real, gz: Real) -> tuple[Real, Real, Real, Real, Real, Real]:
    """Two unit vectors across a normal, the first along the grain `g` where there is one."""
    along = gx * nx + gy * ny + gz * nz
    gx, gy, gz = gx - along * nx, gy - along * ny, gz - along * nz
    length = np.sqrt(gx * gx + gy * gy + gz * gz)
    if length < 1e-4:
        return basis(nx, ny, nz)
    ax, ay, az = gx / length, gy / length, gz / length
    return ax, ay, az, ny * az - nz * ay, nz * ax - nx * az, nx * ay - ny * ax


@inlined
def end(paths: Paths, i: Whole) -> None:
    """A path carries nothing on."""
    paths.throughput[0, i] = paths.throughput[1, i] = paths.throughput[2, i] = np.float32(0)


@inlined
def bare_ground(m: Array, k: Whole) -> None:
    """Make a material the white, dull inner side of a surface, by which wandering light comes out."""
    for row in range(m.shape[0]):
        m[row, k] = np.float32(0)
    for row in (BASE_WEIGHT, BASE_COLOR, BASE_COLOR + 1, BASE_COLOR + 2, SPECULAR_IOR, OPACITY, SPECULAR_ROUGHNESS):
        m[row, k] = np.float32(1)


@inlined
def shine(met: Met, i: Whole, paths: Paths, sources: Sources, settings: Settings, layers: Array) -> None:
    """Add the surface's own light, weighted against asking for it."""
    m = met.material
    glow = m[EMISSION_LUMINANCE, i]
    if not glow > 0.0:
        return
    flag = paths.flags[i]
    weight = 1.0
    at = sources.first[met.instance[i]]
    if at >= 0:
        facing = abs(
            paths.direction[0, i] * met.flat[0, i]
            + paths.direction[1, i] * met.flat[1, i]
            + paths.direction[2, i] * met.flat[2, i]
        )
        away = met.distance[i] + paths.behind[i]
        other = sources.chance[sources.chance.shape[0] - 1] * sources.per_area[at + met.face[i]] * away * away
        other = other / max(facing, 1e-6)
        if other > 0.0 and (flag & LAST_THROUGH) != 0 and (flag & COVERED) != 0:
            return
        if (flag & 3) == SPREAD and (flag & LAST_THROUGH) == 0:
            weight = power_weight(paths.density[i], other)
    r = paths.throughput[0, i] * glow * m[EMISSION_COLOR, i] * weight
    g = paths.throughput[1, i] * glow * m[EMISSION_COLOR + 1, i] * weight
    b = paths.throughput[2, i] * glow * m[EMISSION_COLOR + 2, i] * weight
    deposit(
        layers, settings.groups, sources.group_of[met.instance[i]], paths.slot[i], r, g, b, flag, 1,
        turned(paths.turns[i]) > 1, paths.share, i, settings.clamp,
    )  # fmt: skip


@inlined
def go_straight(met: Met, i: Whole, paths: Paths, settings: Settings, after: Array, facing: Real) -> None:
    """Let a path pass what is cut out, or a boundary that does not count."""
    paths.behind[i] += met.distance[i]
    if ((paths.turns[i] >> 24) & 127) >= settings.limits[TRANSPARENCY]:
        end(paths, i)
        return
    paths.turns[i] += 1 << 24
    step = settings.offset if facing > 0.0 else -settings.offset
    for c in range(3):
        after[c, i] = met.position[c, i] + step * met.flat[c, i]


@kernel
def scatter(
    met: Met,
    paths: Paths,
    bounce: Whole,
    sources: Sources,
    settings: Settings,
    layers: Array,
    asked: Asked,
    after: Array,
    turned_to: Array,
    passed: Integers,
) -> None:
    """At each surface point: add its own light, propose a shadow ray, and choose where the path goes on.

    `paths` are updated in place but for origin and direction, which go to `after` and `turned_to (3, n)`; a path that ends gets
    throughput 0. Where the surface is cut out the path goes straight on and `passed` is 1.
    """
    m = met.material
    offset, limits, sample, seed = settings.offset, settings.limits, settings.sample, settings.seed
    table, mean = settings.table, settings.mean
    apart = layers.shape[0] > settings.groups
    nested = paths.media.shape[0] > 0
    for i in range(paths.slot.shape[0]):
        passed[i] = 0
        facing = (
            paths.direction[0, i] * met.flat[0, i]
            + paths.direction[1, i] * met.flat[1, i]
            + paths.direction[2, i] * met.flat[2, i]
        )
        for c in range(3):
            turned_to[c, i] = paths.direction[c, i]
        coming_out = (paths.flags[i] & WANDERING) != 0
        if coming_out:
            bare_ground(m, i)
        opacity = m[OPACITY, i]
        if opacity < np.float32(1):
            through, _, _, _ = uniform4(paths.pixel[i], sample, CUT_OUT + bounce, seed)
            if through >= opacity:
                passed[i] = 1
                go_straight(met, i, paths, settings, after, facing)
                continue
        outside = facing <= 0.0
        thin = is_thin(m, i)
        clear = m[TRANSMISSION_WEIGHT, i] > 0.0 and m[METALNESS, i] < 1.0
        body = met.instance[i] + 1
        wave = paths.wave[i]
        red = green = blue = 1.0
        fresh = clear and not thin and m[DISPERSION, i] > 0.0 and wave <= 0.0
        if fresh:
            start, _, _, _ = uniform4(paths.pixel[i], 0, WAVE, seed)
            x = start + sample * GOLDEN
            wave, red, green, blue = draw_wavelength(x - np.floor(x))
        ior = m[SPECULAR_IOR, i]
        if wave > 0.0:
            ior = dispersed_ior(ior, m[ABBE, i], m[DISPERSION, i], wave)
        relative = ior
        if nested:
            counts, relative = boundary(
                paths.media, i, body, settings.priority[met.instance[i]], ior, outside or thin or not clear
            )
            if clear and not thin and not counts:
                passed[i] = 1
                if outside:
                    m[SPECULAR_IOR, i] = ior
                    enter(paths.media, i, body, settings.priority[met.instance[i]], m, i)
                else:
                    leave(paths.media, i, body)
                go_straight(met, i, paths, settings, after, facing)
                continue
        elif clear and not outside and not thin:
            relative = 1.0 / ior
        # From here on the index is that of the denser side over the other's, and `upper` says that the viewer is on the thinner.
        upper = relative >= 1.0 if clear and not thin else outside or thin or not clear
        m[SPECULAR_IOR, i] = relative if relative >= 1.0 else 1.0 / relative
        shine(met, i, paths, sources, settings, layers)
        paths.behind[i] = np.float32(0)
        depth = turned(paths.turns[i])
        if depth >= limits[ALL] or (paths.flags[i] & LIGHTS_ONLY) != 0:
            end(paths, i)
            continue
        vx, vy, vz = -paths.direction[0, i], -paths.direction[1, i], -paths.direction[2, i]
        side = 1.0 if outside else -1.0
        fx, fy, fz = met.flat[0, i] * side, met.flat[1, i] * side, met.flat[2, i] * side
        nx, ny, nz = met.normal[0, i] * side, met.normal[1, i] * side, met.normal[2, i] * side
        if coming_out:  # seen from outside, as the light that it scatters is
            fx, fy, fz, nx, ny, nz = -fx, -fy, -fz, -nx, -ny, -nz
            vx, vy, vz = nx, ny, nz
        if nx * vx + ny * vy + nz * vz < 1e-3:  # a smoothed normal may turn away where the face itself does not
            nx, ny, nz = fx, fy, fz
        ax, ay, az, bx, by, bz = frame(nx, ny, nz, m[TANGENT, i], m[TANGENT + 1, i], m[TANGENT + 2, i])
        ox = vx * ax + vy * ay + vz * az
        oy = vx * bx + vy * by + vz * bz
        oz = max(vx * nx + vy * ny + vz * nz, 1e-4)
        if paths.spread[i] >= AFTER_DIFFUSE:
            m[SPECULAR_ROUGHNESS, i] = max(m[SPECULAR_ROUGHNESS, i], SOFTEST)
            m[COAT_ROUGHNESS, i] = max(m[COAT_ROUGHNESS, i], SOFTEST)
        px, py, pz = met.position[0, i], met.position[1, i], met.position[2, i]
        first = (paths.flags[i] & (FIRST_REFLECTED | FIRST_THROUGH)) == 0
        pick, lu, lv, _ = uniform4(paths.pixel[i], sample, bounce * 2 + 1, seed)

        # A shadow ray to one light.
        wx, wy, wz, far, p, lr, lg, lb, bare, group, glow, gs, gt = ask_light(sources, px, py, pz, pick, lu, lv, offset)
        above = wx * fx + wy * fy + wz * fz
        if p > 0.0 and (above > 0.0 or thin):
            ix = wx * ax + wy * ay + wz * az
            iy = wx * bx + wy * by + wz * bz
            iz = wx * nx + wy * ny + wz * nz
            r = g = b = q = 0.0
            if (above > 0.0) == (iz > 0.0):
                r, g, b, q = reflected(m, i, ox, oy, oz, ix, iy, iz, upper, table, mean)
            if r + g + b > 0.0:
                step = offset if above > 0.0 else -offset
                asked.origin[0, i], asked.origin[1, i], asked.origin[2, i] = (
                    px + step * fx,
                    py + step * fy,
                    pz + step * fz,
                )
                asked.direction[0, i], asked.direction[1, i], asked.direction[2, i] = wx, wy, wz
                asked.far[i] = far
                asked.light[0, i] = paths.throughput[0, i] * r * lr / p
                asked.light[1, i] = paths.throughput[1, i] * g * lg / p
                asked.light[2, i] = paths.throughput[2, i] * b * lb / p
                asked.weight[i] = 1.0 if bare else power_weight(p, q)
                asked.flags[i] = paths.flags[i] | (FIRST_REFLECTED if first else 0)
                asked.further[i] = 1 if depth > 0 else 0
                asked.group[i], asked.glow[i], asked.place[0, i], asked.place[1, i] = group, glow, gs, gt
                if apart and first:
                    dr, dg, db = ground_alone(m, i, ox, oy, oz, ix, iy, iz, upper, table, mean)
                    asked.share[0, i] = min(dr / r, 1.0) if r > 0.0 else 1.0
                    asked.share[1, i] = min(dg / g, 1.0) if g > 0.0 else 1.0
                    asked.share[2, i] = min(db / b, 1.0) if b > 0.0 else 1.0
                elif apart:
                    for c in range(3):
                        asked.share[c, i] = paths.share[c, i]

        # Where the path goes on.
        choose, u, v, survive = uniform4(paths.pixel[i], sample, bounce * 2 + 2, seed)
        kind, ix, iy, iz, r, g, b, q, wide = sample_surface(m, i, ox, oy, oz, upper, choose, u, v, table, mean)
        wx = ix * ax + iy * bx + iz * nx
        wy = ix * ay + iy * by + iz * ny
        wz = ix * az + iy * bz + iz * nz
        along = wx * fx + wy * fy + wz * fz
        # A direction that the smoothed normal allows but the face does not would leak through the surface.
        if kind == NOTHING or (along <= 0.0) != (iz < 0.0):
            end(paths, i)
            continue
        tr, tg, tb = paths.throughput[0, i] * r, paths.throughput[1, i] * g, paths.throughput[2, i] * b
        which_turn = TRANSMISSION if kind == THROUGH else (DIFFUSE if kind == SPREAD and wide >= 1.0 else GLOSSY)
        over = False
        if kind != INTO:
            # Beyond the limit of its kind a ray still finds lamps and sky: light that comes straight is always whole.
            over = ((paths.turns[i] >> (8 * which_turn)) & 255) >= limits[which_turn]
            paths.turns[i] += 1 << (8 * which_turn)
        if depth >= 3:  # Russian roulette by what the path still carries
            keep = min(max(tr, tg, tb), 0.95)
            if not survive < keep:
                keep = 0.0
            scale = 1.0 / keep if keep > 0.0 else 0.0
            tr, tg, tb = tr * scale, tg * scale, tb * scale
        if kind == THROUGH and fresh:
            tr, tg, tb = tr * red, tg * green, tb * blue
            paths.wave[i] = wave
        paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i] = tr, tg, tb
        if first:
            if apart and kind == SPREAD:
                dr, dg, db = ground_alone(m, i, ox, oy, oz, ix, iy, iz, upper, table, mean)
                paths.share[0, i] = min(dr / (r * q), 1.0) if r > 0.0 else 1.0
                paths.share[1, i] = min(dg / (g * q), 1.0) if g > 0.0 else 1.0
                paths.share[2, i] = min(db / (b * q), 1.0) if b > 0.0 else 1.0
            elif apart:
                for c in range(3):
                    paths.share[c, i] = np.float32(1 if kind == INTO else 0)
        begun = (
            (paths.flags[i] & (FIRST_REFLECTED | FIRST_THROUGH))
            if not first
            else (FIRST_THROUGH if kind == THROUGH else FIRST_REFLECTED)
        )
        if over:
            begun |= LIGHTS_ONLY
        step = -offset if iz < 0.0 else offset
        after[0, i], after[1, i], after[2, i] = px + step * fx, py + step * fy, pz + step * fz
        turned_to[0, i], turned_to[1, i], turned_to[2, i] = wx, wy, wz
        covered = paths.flags[i] & COVERED
        if kind == SPREAD:
            paths.flags[i] = SPREAD | COVERED | begun
            paths.density[i] = q
            paths.spread[i] = max(paths.spread[i], AFTER_DIFFUSE if wide >= AFTER_DIFFUSE else np.float32(0.5 * wide))
        elif kind == MIRRORED:
            paths.flags[i] = MIRRORED | begun
        elif kind == INTO:
            paths.flags[i] = MIRRORED | WANDERING | begun
            wander(paths.walk, i, m, i)
        else:
            paths.flags[i] = (paths.flags[i] & 3) | LAST_THROUGH | covered | begun
            if nested and not thin:
                if outside:
                    m[SPECULAR_IOR, i] = ior
                    enter(paths.media, i, body, settings.priority[met.instance[i]], m, i)
                else:
                    leave(paths.media, i, body)
