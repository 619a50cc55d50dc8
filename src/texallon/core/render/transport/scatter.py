"""One bounce of many paths at once: the light of the surfaces they met, and where each path goes next.

The estimator is next-event estimation joined with scattered rays by multiple importance sampling with the power
heuristic (E. Veach, "Robust Monte Carlo Methods for Light Transport Simulation", 1997, chapter 9).

Clear boundaries (water, glass) that are smooth bend light in one direction, so a straight shadow ray can't connect through them. Shadow
rays pass them all the same, in place of what a path finds there by bending (see `shadows` for how much of it). `NEE_DONE` marks paths
whose light has been asked for so. Rough boundaries scatter by a density and ask lights themselves: they stop shadow rays.
"""

from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Float, Int, Integers, inlined, kernel
from texallon.core.render.light.emitters import ENVIRONMENT, Emitters, sample_light
from texallon.core.render.transport.emitter_hits import power_weight
from texallon.core.render.transport.light_aovs import accumulate, total_bounces
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
from texallon.core.render.transport.shadow_rays import ShadowRays
from texallon.core.shade.base import (
    ABSORBED,
    MATCHED,
    NON_SPECULAR,
    SMOOTH,
    SPECULAR,
    SUBSURFACE,
    TRANSMISSION,
    is_thin,
)
from texallon.core.shade.coat import coat_emission_transmittance, is_coated_side
from texallon.core.shade.media.nesting import boundary, enter, leave
from texallon.core.shade.media.subsurface import begin_random_walk
from texallon.core.shade.random import uniform4
from texallon.core.shade.rows import (
    ABBE,
    BASE_COLOR,
    BASE_WEIGHT,
    BENDING,
    BRUSHING,
    COAT_BRUSHING,
    COAT_NORMAL,
    COAT_ROUGHNESS,
    COAT_TANGENT,
    COAT_WEIGHT,
    DISPERSION,
    EMISSION_COLOR,
    EMISSION_LUMINANCE,
    METALNESS,
    NEAR_INDEX,
    OPACITY,
    SPECULAR_IOR,
    SPECULAR_ROUGHNESS,
    TANGENT,
    THIN_FILM_WEIGHT,
    TRANSMISSION_WEIGHT,
)
from texallon.core.shade.spectrum import dispersed_ior, draw_wavelength
from texallon.core.shade.stack import make_stack
from texallon.core.shade.surface import evaluate, sample_surface

SOFTEST = np.float32(0.3)
"""Least roughness of reflections seen by way of a diffuse bounce.

A small light mirrored by water onto a wall is found by chance so seldom that it blinds the pixels where it is.
Mollified reflections (A. Kaplanyan and C. Dachsbacher, "Path Space Regularization", Eurographics 2013) find it always, at
the price of softer caustics. What the camera sees directly, or in a mirror, is not touched.
"""

CUT_OUT, WAVE, FACET = 0x7FFF0000, 0x7FFC0000, 0x7FFB0000
"""Random dimensions of going through what is cut out, of wavelengths, and of facets that stand for all, apart from those of scattering."""

GOLDEN = 0.6180339887498949
"""Steps by the golden ratio spread the wavelengths of a pixel's samples evenly."""

BOUNCE_DIFFUSE, BOUNCE_GLOSSY, BOUNCE_TRANSMISSION, BOUNCE_TRANSPARENCY, BOUNCE_ANY = range(5)
"""Places of `Limits.array`, and of the counts in `Paths.bounce_counts`."""


ENTERS, LEAVES = 1, 2
"""How a path crosses the boundary of a body."""


class Settings(NamedTuple):
    """What holds for a whole sample: `limits (5,)` as `Limits.array`, `priority (i,)` of each instance, the table of `albedo`."""

    sample: int
    seed: int
    limits: Integers
    groups: int
    clamp: float
    priority: Integers
    table: Array


class SurfaceInteractions(NamedTuple):
    """Surface points that paths met, `n` each: see `Surface`, `Hits` and `rows`."""

    position: Array
    normal: Array
    flat: Array
    offset: Array
    instance: Integers
    face: Integers
    distance: Array
    material: Array


class Onward(NamedTuple):
    """Where n paths go: `origin` and `direction (3, n)`; `passed (n,)` 1 where the surface is cut out and the path goes straight on; and
    `crossing (n,)`, who enters and who leaves a body."""

    origin: Array
    direction: Array
    passed: Integers
    crossing: Integers


@inlined
def orthonormal_basis(nx: Float, ny: Float, nz: Float) -> tuple[Float, Float, Float, Float, Float, Float]:
    """Two unit vectors across a normal (T. Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017).

    Parameters
    ----------
    nx, ny, nz : float
        Unit normal.
    """
    sign = 1.0 if nz >= 0.0 else -1.0
    a = -1.0 / (sign + nz)
    b = nx * ny * a
    return 1.0 + sign * nx * nx * a, sign * b, -sign * nx, b, sign + ny * ny * a, -ny


@inlined
def shading_basis(
    nx: Float, ny: Float, nz: Float, gx: Float, gy: Float, gz: Float
) -> tuple[Float, Float, Float, Float, Float, Float]:
    """Two unit vectors across a normal, the first along the grain `g` where there is one.

    Parameters
    ----------
    nx, ny, nz : float
        Unit normal.
    gx, gy, gz : float
        Grain's direction.
    """
    along = gx * nx + gy * ny + gz * nz
    gx, gy, gz = gx - along * nx, gy - along * ny, gz - along * nz
    length = np.sqrt(gx * gx + gy * gy + gz * gz)
    if length < 1e-4:
        return orthonormal_basis(nx, ny, nz)
    ax, ay, az = gx / length, gy / length, gz / length
    return ax, ay, az, ny * az - nz * ay, nz * ax - nx * az, nx * ay - ny * ax


@inlined
def terminate(throughput: Array, i: Int) -> None:
    """A path carries nothing on.

    Parameters
    ----------
    throughput : Array
        `(3, n)`.
    i : int
        Column of the path.
    """
    throughput[0, i] = throughput[1, i] = throughput[2, i] = np.float32(0)


@inlined
def set_subsurface_exit(m: Array, k: Int) -> None:
    """Make a material the white, dull inner side of a surface, by which wandering light comes out.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    """
    for row in range(m.shape[0]):
        m[row, k] = np.float32(0)
    for row in (BASE_WEIGHT, BASE_COLOR, BASE_COLOR + 1, BASE_COLOR + 2, SPECULAR_IOR, OPACITY, SPECULAR_ROUGHNESS):
        m[row, k] = np.float32(1)


@inlined
def to_basis(
    m: Array, k: Int, row: Int, ax: Float, ay: Float, az: Float, bx: Float, by: Float, bz: Float, nx: Float, ny: Float, nz: Float,
    side: Float,
) -> None:  # fmt: skip
    """Turn a world direction in three rows into a local frame, seen from the side of the viewer.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    row : int
        First of three rows.
    ax, ay, az : float
        First tangent.
    bx, by, bz : float
        Second tangent.
    nx, ny, nz : float
        Unit normal.
    side : float
        1 outside, −1 inside.
    """
    x, y, z = m[row, k] * side, m[row + 1, k] * side, m[row + 2, k] * side
    m[row, k] = x * ax + y * ay + z * az
    m[row + 1, k] = x * bx + y * by + z * bz
    m[row + 2, k] = x * nx + y * ny + z * nz


@inlined
def mesh_light_pdf(per_area: Float, away: Float, facing: Float, chance: Float) -> Float:
    """Chance per steradian with which a shining face would have been asked from where a ray came.

    Parameters
    ----------
    per_area : float
        Chance per square metre.
    away : float
        Metres.
    facing : float
        Cosine to the face.
    chance : float
        Of asking shining surfaces.
    """
    return chance * per_area * away * away / max(facing, 1e-6)


@inlined
def continue_straight(
    bounce_counts: Integers,
    throughput: Array,
    distance_since_vertex: Array,
    distance: Array,
    position: Array,
    flat: Array,
    next_origin: Array,
    i: Int,
    limit: Int,
    step: Float,
) -> None:
    """Let a path pass what is cut out, or a boundary that does not count.

    Parameters
    ----------
    bounce_counts : Integers
        Four counts of a byte each.
    throughput : Array
        `(3, n)`.
    distance_since_vertex : Array
        `(n,)` metres, changed in place.
    distance : Array
        `(n,)` metres.
    position : Array
        `(3, n)` metres.
    flat : Array
        `(3, n)` unit normals of the faces.
    next_origin : Array
        `(3, n)`, filled.
    i : int
        Column of the path.
    limit : int
        Of surfaces that are passed so.
    step : float
        Metres that the path goes on beyond the surface.
    """
    distance_since_vertex[i] += distance[i]
    if ((bounce_counts[i] >> 24) & 127) >= limit:
        terminate(throughput, i)
        return
    bounce_counts[i] += 1 << 24
    for c in range(3):
        next_origin[c, i] = position[c, i] + step * flat[c, i]


@kernel
def scatter(
    surfaces: SurfaceInteractions,
    paths: Paths,
    bounce: Int,
    emitters: Emitters,
    settings: Settings,
    buffers: Array,
    shadow: ShadowRays,
    onward: Onward,
) -> None:
    """At each surface point: add its own light, propose a shadow ray, and choose where the path goes on.

    A path that ends gets throughput 0.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points that the paths met.
    paths : Paths
        Updated in place but for origin and direction.
    bounce : int
        Number of the round.
    emitters : Emitters
        All light sources.
    settings : Settings
        What holds for the whole sample.
    buffers : Array
        `(groups + AOVs, 3, slots)` light added up, changed in place.
    shadow : ShadowRays
        Filled with what the points ask of light; the rays still begin on the near side.
    onward : Onward
        Filled.
    """
    next_origin, next_direction, passed, crossing = onward.origin, onward.direction, onward.passed, onward.crossing
    # Arrays are taken out of their tuples once: each access would count references, atomically.
    m, position, normal, flat = surfaces.material, surfaces.position, surfaces.normal, surfaces.flat
    instance, face, distance, offsets = surfaces.instance, surfaces.face, surfaces.distance, surfaces.offset
    pixel, slot, flags, bounce_counts, media, walk = (
        paths.pixel,
        paths.slot,
        paths.flags,
        paths.bounce_counts,
        paths.media,
        paths.walk,
    )
    direction, throughput, diffuse_fraction, distance_since_vertex = (
        paths.direction,
        paths.throughput,
        paths.diffuse_fraction,
        paths.distance_since_vertex,
    )
    pdf, cone_spread, waves = paths.pdf, paths.cone_spread, paths.wavelength
    shadow_origin, shadow_way, shadow_far, light = shadow.origin, shadow.direction, shadow.far, shadow.light
    shadow_weight, shadow_share, shadow_flags, indirect = (
        shadow.weight,
        shadow.diffuse_fraction,
        shadow.flags,
        shadow.indirect,
    )
    shadow_group, shadow_glow, barycentric = shadow.group, shadow.emissive_face, shadow.barycentric
    shadow_excess, shadow_crossing = shadow.refracted_fraction, shadow.crossing
    picture, rows, columns, chances = emitters.picture, emitters.rows, emitters.columns, emitters.pdf
    rotation, lamps, chance, groups_of = emitters.rotation, emitters.lamps, emitters.chance, emitters.group
    group_of, cumulative, corners = emitters.group_of, emitters.cumulative, emitters.corners
    per_area, shining = emitters.per_area, emitters.instance
    first_face, peak = emitters.first, emitters.peak
    priority = settings.priority
    glow_chance = chance[chance.shape[0] - 1]
    limits, sample, seed, table = settings.limits, settings.sample, settings.seed, settings.table
    write_aovs = buffers.shape[0] > settings.groups
    groups = settings.groups
    nested = media.shape[0] > 0
    for i in range(slot.shape[0]):
        passed[i] = crossing[i] = 0
        offset = offsets[i]
        facing = direction[0, i] * flat[0, i] + direction[1, i] * flat[1, i] + direction[2, i] * flat[2, i]
        for c in range(3):
            next_direction[c, i] = direction[c, i]
        coming_out = (flags[i] & IN_SUBSURFACE) != 0
        if coming_out:
            set_subsurface_exit(m, i)
        opacity = m[OPACITY, i]
        if opacity < np.float32(1):
            through, _, _, _ = uniform4(pixel[i], sample, CUT_OUT + bounce, seed)
            if through >= opacity:
                passed[i] = 1
                continue_straight(
                    bounce_counts, throughput, distance_since_vertex, distance, position, flat, next_origin, i, limits[BOUNCE_TRANSPARENCY],
                    offset if facing > 0.0 else -offset,
                )  # fmt: skip
                continue
        outside = facing <= 0.0
        thin = is_thin(m, i)
        clear = m[TRANSMISSION_WEIGHT, i] > 0.0 and m[METALNESS, i] < 1.0
        body = instance[i] + 1
        wavelength = waves[i]
        red = green = blue = 1.0
        fresh = clear and not thin and m[DISPERSION, i] > 0.0 and wavelength <= 0.0
        if fresh:
            start, _, _, _ = uniform4(pixel[i], 0, WAVE, seed)
            x = start + sample * GOLDEN
            wavelength, red, green, blue = draw_wavelength(x - np.floor(x))
        ior = m[SPECULAR_IOR, i]
        if wavelength > 0.0:
            ior = dispersed_ior(ior, m[ABBE, i], m[DISPERSION, i], wavelength)
        near = 1.0
        bending = ior
        if nested:
            entering = outside or thin or not clear
            counts, near, far_index = boundary(media, slot[i], body, priority[instance[i]], ior, entering)
            bending = far_index / near
            if clear and not thin and not counts:
                passed[i] = 1
                m[SPECULAR_IOR, i] = ior
                crossing[i] = ENTERS if outside else LEAVES
                continue_straight(
                    bounce_counts, throughput, distance_since_vertex, distance, position, flat, next_origin, i, limits[BOUNCE_TRANSPARENCY],
                    offset if facing > 0.0 else -offset,
                )  # fmt: skip
                continue
        elif clear and not outside and not thin:
            near, bending = ior, 1.0 / ior
        m[SPECULAR_IOR, i], m[NEAR_INDEX, i], m[BENDING, i] = ior, near, bending
        emissive_face = m[EMISSION_LUMINANCE, i]
        if emissive_face > 0.0:  # its own light, weighted against asking for it
            weight = 1.0
            at = first_face[instance[i]]
            if at >= 0:
                other = mesh_light_pdf(
                    per_area[at + face[i]], distance[i] + distance_since_vertex[i], abs(facing), glow_chance
                )
                if other > 0.0 and (flags[i] & LAST_TRANSMITTED) != 0 and (flags[i] & NEE_DONE) != 0:
                    weight = 0.0
                elif (flags[i] & 3) == NON_SPECULAR and (flags[i] & LAST_TRANSMITTED) == 0:
                    weight = power_weight(pdf[i], other)
            emissive_face *= weight
            gr, gg, gb = (
                emissive_face * m[EMISSION_COLOR, i],
                emissive_face * m[EMISSION_COLOR + 1, i],
                emissive_face * m[EMISSION_COLOR + 2, i],
            )
            if m[COAT_WEIGHT, i] > 0.0 and is_coated_side(m, i, outside):
                cosine = (
                    normal[0, i] * direction[0, i] + normal[1, i] * direction[1, i] + normal[2, i] * direction[2, i]
                )
                gr *= coat_emission_transmittance(m, i, 0, abs(cosine))
                gg *= coat_emission_transmittance(m, i, 1, abs(cosine))
                gb *= coat_emission_transmittance(m, i, 2, abs(cosine))
            accumulate(
                buffers, groups, group_of[instance[i]], slot[i], throughput[0, i] * gr, throughput[1, i] * gg, throughput[2, i] * gb,
                flags[i], 1, total_bounces(bounce_counts[i]) > 1, diffuse_fraction, i, settings.clamp,
            )  # fmt: skip
        since = distance[i] + distance_since_vertex[i]
        distance_since_vertex[i] = np.float32(0)
        depth = total_bounces(bounce_counts[i])
        if depth >= limits[BOUNCE_ANY] or (flags[i] & EMITTERS_ONLY) != 0:
            terminate(throughput, i)
            continue
        vx, vy, vz = -direction[0, i], -direction[1, i], -direction[2, i]
        side = 1.0 if outside else -1.0
        fx, fy, fz = flat[0, i] * side, flat[1, i] * side, flat[2, i] * side
        nx, ny, nz = normal[0, i] * side, normal[1, i] * side, normal[2, i] * side
        if coming_out:  # seen from outside, as the light that it scatters is
            fx, fy, fz, nx, ny, nz = -fx, -fy, -fz, -nx, -ny, -nz
            vx, vy, vz = nx, ny, nz
        if nx * vx + ny * vy + nz * vz < 1e-3:  # a smoothed normal may turn away where the face itself does not
            nx, ny, nz = fx, fy, fz
        ax, ay, az, bx, by, bz = shading_basis(nx, ny, nz, m[TANGENT, i], m[TANGENT + 1, i], m[TANGENT + 2, i])
        ox = vx * ax + vy * ay + vz * az
        oy = vx * bx + vy * by + vz * bz
        oz = max(vx * nx + vy * ny + vz * nz, 1e-4)
        softened = False
        if cone_spread[i] >= AFTER_DIFFUSE:
            softened = clear and not thin and m[SPECULAR_ROUGHNESS, i] < SMOOTH
            m[SPECULAR_ROUGHNESS, i] = max(m[SPECULAR_ROUGHNESS, i], SOFTEST)
            m[COAT_ROUGHNESS, i] = max(m[COAT_ROUGHNESS, i], SOFTEST)
        if m[COAT_WEIGHT, i] > 0.0:
            to_basis(m, i, COAT_NORMAL, ax, ay, az, bx, by, bz, nx, ny, nz, side)
            to_basis(m, i, COAT_TANGENT, ax, ay, az, bx, by, bz, nx, ny, nz, 1.0)
        facet = (0.5, 0.5, 0.5, 0.5)
        if (
            m[THIN_FILM_WEIGHT, i] > 0.0
            or m[BRUSHING, i] > 0.0
            or (m[COAT_WEIGHT, i] > 0.0 and (clear or m[COAT_BRUSHING, i] > 0.0))
        ):
            fa, fb, fc, fd = uniform4(pixel[i], sample, FACET + bounce, seed)
            facet = (float(fa), float(fb), float(fc), float(fd))
        stack = make_stack(m, i, ox, oy, oz, outside, softened, facet, table)
        px, py, pz = position[0, i], position[1, i], position[2, i]
        first = (flags[i] & (FIRST_REFLECTED | FIRST_TRANSMITTED)) == 0
        pick, lu, lv, _ = uniform4(pixel[i], sample, bounce * 2 + 1, seed)

        # A shadow ray to one light.
        wx, wy, wz, far, p, lr, lg, lb, bare, group, shone, gs, gt = sample_light(
            picture, rows, columns, chances, rotation, lamps, chance, groups_of, group_of, cumulative, corners, per_area, shining,
            px, py, pz, pick, lu, lv, offset,
        )  # fmt: skip
        above = wx * fx + wy * fy + wz * fz
        if p > 0.0 and (above > 0.0 or thin or (clear and not stack.straight)):
            ix = wx * ax + wy * ay + wz * az
            iy = wx * bx + wy * by + wz * bz
            iz = wx * nx + wy * ny + wz * nz
            r = g = b = q = dr = dg = db = 0.0
            if (above > 0.0) == (iz > 0.0):
                r, g, b, q, dr, dg, db = evaluate(m, i, stack, ox, oy, oz, ix, iy, iz, table)
            if r + g + b > 0.0:
                step = offset if above > 0.0 else -offset
                shadow_origin[0, i], shadow_origin[1, i], shadow_origin[2, i] = (
                    px + step * fx,
                    py + step * fy,
                    pz + step * fz,
                )
                shadow_way[0, i], shadow_way[1, i], shadow_way[2, i] = wx, wy, wz
                shadow_far[i] = far
                if iz < 0.0 and not thin:
                    shadow_crossing[i] = ENTERS if outside else LEAVES
                    if fresh:
                        r, g, b = r * red, g * green, b * blue
                light[0, i] = throughput[0, i] * r * lr / p
                light[1, i] = throughput[1, i] * g * lg / p
                light[2, i] = throughput[2, i] * b * lb / p
                shadow_weight[i] = 1.0 if bare else power_weight(p, q)
                shadow_flags[i] = flags[i] | (
                    0 if not first else (FIRST_TRANSMITTED if iz < 0.0 and clear else FIRST_REFLECTED)
                )
                indirect[i] = 1 if depth > 0 else 0
                shadow_group[i], shadow_glow[i], barycentric[0, i], barycentric[1, i] = group, shone, gs, gt
                shadow_excess[i] = max(1.0 - peak / max(lr, lg, lb, 1e-30), 0.0) if shone == ENVIRONMENT else 1.0
                if write_aovs and first:
                    shadow_share[0, i] = min(dr / r, 1.0) if r > 0.0 else 1.0
                    shadow_share[1, i] = min(dg / g, 1.0) if g > 0.0 else 1.0
                    shadow_share[2, i] = min(db / b, 1.0) if b > 0.0 else 1.0
                elif write_aovs:
                    for c in range(3):
                        shadow_share[c, i] = diffuse_fraction[c, i]

        # Where the path goes on.
        choose, u, v, survive = uniform4(pixel[i], sample, bounce * 2 + 2, seed)
        kind, ix, iy, iz, r, g, b, q, wide, dr, dg, db = sample_surface(m, i, stack, ox, oy, oz, choose, u, v, table)
        wx = ix * ax + iy * bx + iz * nx
        wy = ix * ay + iy * by + iz * ny
        wz = ix * az + iy * bz + iz * nz
        along = wx * fx + wy * fy + wz * fz
        if kind == ABSORBED:
            terminate(throughput, i)
            continue
        turned_aside = False
        if (along <= 0.0) != (iz < 0.0):
            # A direction that the smoothed normal allows but the face does not is mirrored at the face: it would leak through the surface.
            # No light is asked for in such directions; what is small and bright would be found so seldom there that it is left out.
            wx, wy, wz = wx - 2.0 * along * fx, wy - 2.0 * along * fy, wz - 2.0 * along * fz
            if kind == NON_SPECULAR:
                kind = SPECULAR
                turned_aside = True
        tr, tg, tb = throughput[0, i] * r, throughput[1, i] * g, throughput[2, i] * b
        goes_through = kind != SUBSURFACE and iz < 0.0 and clear and wide < 1.0
        which_turn = (
            BOUNCE_TRANSMISSION
            if goes_through
            else (BOUNCE_DIFFUSE if kind == NON_SPECULAR and wide >= 1.0 else BOUNCE_GLOSSY)
        )
        over = False
        # A boundary of the same index on both sides is passed as what is cut out is: that is no turn.
        unbent = kind == TRANSMISSION and not thin and abs(stack.bending - 1.0) < MATCHED
        if unbent:
            over = ((bounce_counts[i] >> 24) & 127) >= limits[BOUNCE_TRANSPARENCY]
            bounce_counts[i] += 1 << 24
        elif kind != SUBSURFACE:
            # Beyond the limit of its kind a ray still finds lamps and sky: light that comes straight is always whole.
            over = ((bounce_counts[i] >> (8 * which_turn)) & 255) >= limits[which_turn]
            bounce_counts[i] += 1 << (8 * which_turn)
        if depth >= 3 and not unbent:  # Russian roulette by what the path still carries
            keep = min(max(tr, tg, tb), 1.0)
            if not survive < keep:
                keep = 0.0
            scale = 1.0 / keep if keep > 0.0 else 0.0
            tr, tg, tb = tr * scale, tg * scale, tb * scale
        enters = kind != SUBSURFACE and iz < 0.0 and not thin
        if enters and fresh:
            tr, tg, tb = tr * red, tg * green, tb * blue
            waves[i] = wavelength
        throughput[0, i], throughput[1, i], throughput[2, i] = tr, tg, tb
        if first:
            if write_aovs and kind == NON_SPECULAR:
                diffuse_fraction[0, i] = min(dr / r, 1.0) if r > 0.0 else 1.0
                diffuse_fraction[1, i] = min(dg / g, 1.0) if g > 0.0 else 1.0
                diffuse_fraction[2, i] = min(db / b, 1.0) if b > 0.0 else 1.0
            elif write_aovs:
                for c in range(3):
                    diffuse_fraction[c, i] = np.float32(1 if kind == SUBSURFACE else 0)
        begun = (
            (flags[i] & (FIRST_REFLECTED | FIRST_TRANSMITTED))
            if not first
            else (FIRST_TRANSMITTED if goes_through else FIRST_REFLECTED)
        )
        if over:
            begun |= EMITTERS_ONLY
        step = -offset if iz < 0.0 else offset
        next_origin[0, i], next_origin[1, i], next_origin[2, i] = px + step * fx, py + step * fy, pz + step * fz
        next_direction[0, i], next_direction[1, i], next_direction[2, i] = wx, wy, wz
        kept_flags = flags[i] & (NEE_DONE | REFRACTED)
        if kind == NON_SPECULAR:
            flags[i] = NON_SPECULAR | NEE_DONE | begun
            pdf[i] = q
            cone_spread[i] = max(cone_spread[i], AFTER_DIFFUSE if wide >= AFTER_DIFFUSE else np.float32(0.5 * wide))
        elif kind == SPECULAR:
            flags[i] = SPECULAR | begun
            if turned_aside:
                flags[i] |= LAST_TRANSMITTED | NEE_DONE | REFRACTED
        elif kind == SUBSURFACE:
            flags[i] = SPECULAR | IN_SUBSURFACE | begun
            begin_random_walk(walk, slot[i], m, i)
        elif unbent:
            # Nothing was bent: the path is as it was before, and so are the lights that it asked.
            flags[i] = (flags[i] & ~FROM_CAMERA) | begun
            distance_since_vertex[i] = since
        else:
            flags[i] = (flags[i] & 3) | LAST_TRANSMITTED | kept_flags | begun
            if not thin:
                flags[i] |= REFRACTED
        if enters and nested:
            m[SPECULAR_IOR, i] = ior
            crossing[i] = ENTERS if outside else LEAVES


@kernel
def update_media(surfaces: SurfaceInteractions, paths: Paths, crossing: Integers, priority: Integers) -> None:
    """Take down which bodies paths have entered or left.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points that paths met.
    paths : Paths
        Updated in place.
    crossing : Integers
        `(n,)` who enters and who leaves a body.
    priority : Integers
        `(i,)` of nested bodies, by instance.
    """
    m, instance, slot, media = surfaces.material, surfaces.instance, paths.slot, paths.media
    for i in range(crossing.shape[0]):
        if crossing[i] == ENTERS:
            enter(media, slot[i], instance[i] + 1, priority[instance[i]], m, i)
        elif crossing[i] == LEAVES:
            leave(media, slot[i], instance[i] + 1)
