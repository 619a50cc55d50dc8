"""The layer stack at a point, seen from one direction: all that does not depend on where light comes from.

Worked out once for each point that light is scattered at, then used to ask lights and to choose where the path goes on. Every layer
leaves to those below what it does not reflect towards the viewer (albedo scaling, as the standard's `layer` operator has it), so that
white things neither gain nor lose light, from either side.

The opaque and the clear part of a dielectric are a mix (OpenPBR Surface 1.1): each has facets of its own. Seen from the inside of a body
the clear part reflects as its denser side does, totally beyond the critical angle; the opaque part has no boundary there.
"""

from math import sqrt
from typing import NamedTuple

from texallon.core.kernel import Array, Float, Int, inlined
from texallon.core.shade.albedo import (
    boundary_total,
    brushed_albedo,
    brushed_mean_albedo,
    dielectric_albedo,
    dielectric_mean_albedo,
)
from texallon.core.shade.base import (
    SMOOTH,
    diffuse_albedo,
    facets_reflect,
    is_thin,
    luminance,
    passes_straight,
    substrate_albedo,
)
from texallon.core.shade.coat import coat_albedo, coat_at, coat_mean, is_coated_side
from texallon.core.shade.fresnel import fresnel_dielectric, weighted_ior
from texallon.core.shade.fuzz import fuzz_albedo
from texallon.core.shade.ggx import brushed_alphas, brushed_lambda, brushed_sample
from texallon.core.shade.rows import (
    BASE_COLOR,
    BASE_WEIGHT,
    BENDING,
    BRUSHING,
    COAT_IOR,
    COAT_ROUGHNESS,
    COAT_WEIGHT,
    FUZZ_COLOR,
    FUZZ_ROUGHNESS,
    FUZZ_WEIGHT,
    METALNESS,
    NEAR_INDEX,
    SPECULAR_IOR,
    SPECULAR_ROUGHNESS,
    SPECULAR_WEIGHT,
    SUBSURFACE_COLOR,
    SUBSURFACE_FORWARD,
    SUBSURFACE_WEIGHT,
    THIN_FILM_WEIGHT,
    TRANSMISSION_WEIGHT,
)


class Chances(NamedTuple):
    """Of choosing the fuzz, the coat, the facets, the cosine lobe, the ground below (across a thin wall), and the clear part."""

    fuzz: Float
    coat: Float
    facets: Float
    cosine: Float
    substrate: Float
    clear: Float


class Stack(NamedTuple):
    """See `make_stack`. Shares and chances are 0…1; cosines are to the base's normal.

    `layered`: seen from the side that coat, fuzz and film lie on. `metal`, `opaque`, `clear`: how the base is mixed. `rough`, `ax`,
    `ay`: roughness of its facets and α along and across the grain. `smooth`: they mirror. `straight`: the clear part passes light in one
    direction; `softened`: it does so although its facets are rough.

    `ior`: index of facets over the opaque ground, at least 1; `eta` the clear part's for its reflectance, far over near; `bending`
    that by which it bends light. `total`: what the clear part's facets keep after one bounce, or 1 where what they lose is given back
    as `residual`, by colour, evenly to both sides, chosen with `by_residual` of the clear part's chance.

    `left`: what facets leave of light towards the viewer to the ground, by colour; `left_mean`: the mean of what they (and the coat)
    leave of light from all sides. `film`: weight of a thin film. `lost`, `lost_mean`: what a mirror's facets would lose.

    `below_coat`, `below_fuzz`: what these leave. `coat_mean`: mean reflectance of the coat.
    """

    layered: bool
    thin: bool
    metal: Float
    opaque: Float
    clear: Float
    rough: Float
    ax: Float
    ay: Float
    smooth: bool
    straight: bool
    softened: bool
    ior: Float
    eta: Float
    bending: Float
    total: Float
    residual: tuple[Float, Float, Float]
    by_residual: Float
    left: tuple[Float, Float, Float]
    left_mean: Float
    film: Float
    lost: Float
    lost_mean: Float
    below_coat: Float
    below_fuzz: Float
    coat_mean: Float
    fuzz: Float
    chances: Chances


@inlined
def roughened(m: Array, k: Int) -> Float:
    """The base's roughness as a rough coat above it makes it look (OpenPBR Surface 1.1, coat roughening).

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    """
    rough, weight = m[SPECULAR_ROUGHNESS, k], m[COAT_WEIGHT, k]
    if weight <= 0.0 or m[COAT_ROUGHNESS, k] <= 0.0:
        return rough
    coat = m[COAT_ROUGHNESS, k]
    both = min(1.0, rough * rough * rough * rough + 2.0 * coat * coat * coat * coat)
    return rough + weight * (sqrt(sqrt(both)) - rough)


@inlined
def facet_index(m: Array, k: Int, layered: bool) -> Float:
    """Index of the facets over an opaque ground: against the coat where there is one, weakened by the specular weight; at least 1.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    layered : bool
        Whether coat, fuzz and film lie on this side.
    """
    ior, near = m[SPECULAR_IOR, k], m[NEAR_INDEX, k]
    ratio = ior / near
    ratio = ratio if ratio >= 1.0 else 1.0 / ratio
    weight = m[COAT_WEIGHT, k]
    if weight > 0.0 and layered:
        under = ior / m[COAT_IOR, k]
        under = under if under >= 1.0 else 1.0 / under
        ratio += weight * (under - ratio)
    return weighted_ior(ratio, m[SPECULAR_WEIGHT, k])


@inlined
def left_at(m: Array, k: Int, rough: Float, ior: Float, coated: bool, film: Float, z: Float, table: Array) -> Float:
    """What facets (but for a film's) and coat leave to the ground of light from a cosine.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    rough : float
        Roughness of the facets, 0…1.
    ior : float
        Index of refraction, at least 1.
    coated : bool
        Whether a coat lies on this side.
    film : float
        Weight of a thin film, or its index.
    z : float
        Cosine to the normal, 0…1.
    table : Array
        See `albedo.albedo_table`.
    """
    left = 1.0 if film > 0.0 else 1.0 - dielectric_albedo(table, z, rough, ior)
    return left * (1.0 - coat_at(m, k, z, table)) if coated else left


@inlined
def left_from_all_sides(m: Array, k: Int, rough: Float, ior: Float, coated: bool, film: Float, table: Array) -> Float:
    """The mean of `left_at` over the cosine-weighted hemisphere: exact to a few thousandths (Gauss and Legendre, five points).

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    rough : float
        Roughness of the facets, 0…1.
    ior : float
        Index of refraction, at least 1.
    coated : bool
        Whether a coat lies on this side.
    film : float
        Weight of a thin film, or its index.
    table : Array
        See `albedo.albedo_table`.
    """
    if not coated:
        return 1.0 if film > 0.0 else 1.0 - dielectric_mean_albedo(table, rough, ior)
    total = 0.1184634425 * 0.0469100770 * left_at(m, k, rough, ior, coated, film, 0.0469100770, table)
    total += 0.2393143352 * 0.2307653449 * left_at(m, k, rough, ior, coated, film, 0.2307653449, table)
    total += 0.2844444444 * 0.5 * left_at(m, k, rough, ior, coated, film, 0.5, table)
    total += 0.2393143352 * 0.7692346551 * left_at(m, k, rough, ior, coated, film, 0.7692346551, table)
    total += 0.1184634425 * 0.9530899230 * left_at(m, k, rough, ior, coated, film, 0.9530899230, table)
    return 2.0 * total


@inlined
def one_facet(
    ox: Float, oy: Float, oz: Float, ax: Float, ay: Float, bending: Float, u: Float, v: Float
) -> tuple[Float, Float, Float]:
    """A visible facet: its cosine to the viewer, and what is not shadowed of light that it mirrors, and that it bends through.

    Parameters
    ----------
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    ax : float
        GGX roughness along the grain.
    ay : float
        GGX roughness across the grain.
    bending : float
        By which the clear part bends light.
    u, v : float
        Random number in [0, 1).
    """
    hx, hy, hz = brushed_sample(ox, oy, oz, ax, ay, u, v)
    oh = min(max(ox * hx + oy * hy + oz * hz, 0.0), 1.0)
    seen = 1.0 + brushed_lambda(ox, oy, oz, ax, ay)
    ix, iy, iz = 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, 2.0 * oh * hz - oz
    mirrored = seen / (seen + brushed_lambda(ix, iy, iz, ax, ay)) if iz > 0.0 else 0.0
    through = 0.0
    sine2 = (1.0 - oh * oh) / (bending * bending)
    if sine2 < 1.0:
        along = oh / bending - sqrt(1.0 - sine2)
        ix, iy, iz = along * hx - ox / bending, along * hy - oy / bending, along * hz - oz / bending
        if iz < 0.0:
            through = 1.0 / (1.0 + brushed_lambda(ix, iy, iz, ax, ay))
    return oh, mirrored, through


@inlined
def make_stack(
    m: Array,
    k: Int,
    ox: Float,
    oy: Float,
    oz: Float,
    outside: bool,
    softened: bool,
    random: tuple[Float, Float, Float, Float],
    table: Array,
) -> Stack:
    """The stack of material column `k`, seen along `o` (local frame, z on the viewer's side).

    Parameters
    ----------
    m : Array
        Material rows `(MATERIAL, n)`; `NEAR_INDEX` and `BENDING` must be set.
    k : int
        Column of the material.
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    outside : bool
        Whether the viewer is on the side the geometry's normal points to.
    softened : bool
        Whether the roughness in `m` was raised above that of a smooth boundary, which still passes light straight.
    random : tuple
        Four random numbers in [0, 1), used only under a film and for brushed facets: one facet then stands for all in what is left to the
        ground, which is right on average.
    table : Array
        See `albedo`.
    """
    thin = is_thin(m, k)
    metal = m[METALNESS, k]
    clear = (1.0 - metal) * m[TRANSMISSION_WEIGHT, k]
    opaque = 1.0 - metal - clear
    layered = is_coated_side(m, k, outside)
    coated = layered and m[COAT_WEIGHT, k] > 0.0
    film = m[THIN_FILM_WEIGHT, k] if layered else 0.0
    rough = roughened(m, k) if coated else m[SPECULAR_ROUGHNESS, k]
    smooth = rough < SMOOTH
    ax, ay = brushed_alphas(rough, m[BRUSHING, k])
    brushed = m[BRUSHING, k] > 0.0
    ior = facet_index(m, k, layered)
    one = not smooth and (film > 0.0 or brushed or (coated and clear > 0.0))

    # The clear part.
    bending = m[BENDING, k]
    eta, straight, total = ior, True, 1.0
    if clear > 0.0:
        if thin:
            straight = smooth
            if not smooth:
                total = max(brushed_albedo(table, ox, oy, oz, rough, m[BRUSHING, k]), 1e-3)
        else:
            straight = softened or passes_straight(rough, bending)
            weighted = weighted_ior(bending if bending >= 1.0 else 1.0 / bending, m[SPECULAR_WEIGHT, k])
            bending = weighted if bending >= 1.0 else 1.0 / weighted
            eta = ior if layered and bending >= 1.0 else bending
            if softened:
                total = max(brushed_albedo(table, ox, oy, oz, rough, m[BRUSHING, k]), 1e-3)
            elif not straight and not one:
                total = max(boundary_total(table, oz, rough, bending), 1e-3)

    # What is left to the ground, and what the clear part's facets lose.
    lr = lg = lb = 1.0
    er = eg = eb = 0.0
    left_mean = 1.0
    if one or film > 0.0:
        oh, mirrored, through = oz, 1.0, 1.0
        if one:
            oh, mirrored, through = one_facet(ox, oy, oz, ax, ay, bending, random[0], random[1])
        fr, fg, fb, _, _, _ = facets_reflect(m, k, oh, ior, False, film)
        lr, lg, lb = 1.0 - fr * mirrored, 1.0 - fg * mirrored, 1.0 - fb * mirrored
        if clear > 0.0 and not straight and not thin:
            if 1.0 - oh * oh >= bending * bending:
                fr = fg = fb = 1.0
            elif not (layered and bending >= 1.0):
                fr = fg = fb = fresnel_dielectric(oh, eta)
            er = max(1.0 - fr * mirrored - (1.0 - fr) * through, 0.0)
            eg = max(1.0 - fg * mirrored - (1.0 - fg) * through, 0.0)
            eb = max(1.0 - fb * mirrored - (1.0 - fb) * through, 0.0)
    elif opaque > 0.0:
        lr = lg = lb = 1.0 - dielectric_albedo(table, oz, rough, ior)
    by_residual = min(luminance(er, eg, eb), 0.5)
    if opaque > 0.0:
        left_mean = max(left_from_all_sides(m, k, rough, ior, coated, film, table), 1e-4)

    lost, lost_mean = 0.0, 1.0
    if metal + opaque > 0.0 and not smooth:
        lost = min(1.0 - brushed_albedo(table, ox, oy, oz, rough, m[BRUSHING, k]), 0.999)
    if metal > 0.0 and not smooth:
        lost_mean = 1.0 - brushed_mean_albedo(table, rough, m[BRUSHING, k])

    # Chances.
    hard = m[BASE_WEIGHT, k] * luminance(m[BASE_COLOR, k], m[BASE_COLOR + 1, k], m[BASE_COLOR + 2, k])
    left = luminance(lr, lg, lb)
    facets = metal * max(hard, 0.05) + opaque * max(1.0 - left, 0.1 * film)
    walks = layered and not thin
    body = luminance(diffuse_albedo(m, k, 0, walks), diffuse_albedo(m, k, 1, walks), diffuse_albedo(m, k, 2, walks))
    cosine = opaque * left * body + metal * hard * lost
    substrate = 0.0
    if opaque > 0.0 and m[SUBSURFACE_WEIGHT, k] > 0.0 and (walks or thin):
        substrate = opaque * left * m[SUBSURFACE_WEIGHT, k]
        substrate *= luminance(m[SUBSURFACE_COLOR, k], m[SUBSURFACE_COLOR + 1, k], m[SUBSURFACE_COLOR + 2, k])
        if thin:
            substrate *= 0.5 * (1.0 + m[SUBSURFACE_FORWARD, k])
    whole = facets + cosine + substrate + clear

    below_fuzz, fuzz, by_fuzz = 1.0, 0.0, 0.0
    below_coat, mean, by_coat = 1.0, 0.0, 0.0
    bright = 0.1
    if coated or (layered and m[FUZZ_WEIGHT, k] > 0.0):
        bright = luminance(substrate_albedo(m, k, 0), substrate_albedo(m, k, 1), substrate_albedo(m, k, 2))
        bright = max(bright, clear, 0.1)
    if layered and m[FUZZ_WEIGHT, k] > 0.0:
        fuzz = m[FUZZ_WEIGHT, k] * fuzz_albedo(oz, m[FUZZ_ROUGHNESS, k])
        below_fuzz = 1.0 - fuzz
        shown = fuzz * luminance(m[FUZZ_COLOR, k], m[FUZZ_COLOR + 1, k], m[FUZZ_COLOR + 2, k])
        by_fuzz = shown / (shown + below_fuzz * bright)
    rest = 1.0 - by_fuzz
    if coated:
        back = coat_albedo(m, k, ox, oy, oz, random[2], random[3], table)
        mean = coat_mean(m, k, table)
        below_coat = 1.0 - back
        by_coat = rest * back / (back + below_coat * bright)
        rest -= by_coat
    scale = rest / whole if whole > 0.0 else 0.0
    return Stack(
        layered, thin, metal, opaque, clear, rough, ax, ay, smooth, straight, softened and clear > 0.0, ior, eta, bending,
        total, (er, eg, eb), by_residual, (lr, lg, lb), left_mean, film, lost, lost_mean, below_coat, below_fuzz, mean, fuzz,
        Chances(by_fuzz, by_coat, facets * scale, cosine * scale, substrate * scale, clear * scale),
    )  # fmt: skip
