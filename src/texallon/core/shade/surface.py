"""The surface: what a point gives back and lets through, from its channel values.

The base of the OpenPBR Surface specification 1.1: a dielectric over a rough diffuse ground or a clear interior, mixed
with a metal by `base_metalness`, and a coat over all (see `coat`). Local frame, z along the normal on the side of the viewer `o`; `i` points to the light.

* Dielectric reflection: GGX with the true Fresnel reflectance of the index that `specular_weight` leaves.
* Diffuse below it: EON, weighted by (1 − E(o)) (1 − E(i)) / (1 − Ē), which is reciprocal and loses nothing.
* Metal: GGX with F82, plus Kulla & Conty's lobe for light that bounces between facets more than once.
* Clear interior: refraction through the same facets (Walter 2007, eq. 21). Single scattering only: a smooth body loses
  nothing, one of roughness 0.3 about 1 % seen head on and 8 % at grazing angles, one of roughness 1 a third and more.

Material columns are rows of one `(MATERIAL, n)` array; see `rows`.
"""

from math import cos, pi, sin, sqrt

from texallon.core.kernel import Array, Real, Whole, inlined
from texallon.core.shade.albedo import (
    dielectric_albedo,
    dielectric_mean_albedo,
    mirror_albedo,
    mirror_mean_albedo,
)
from texallon.core.shade.coat import coat_albedo, coat_passes, coat_tint
from texallon.core.shade.diffuse import eon
from texallon.core.shade.fresnel import fresnel_dielectric, fresnel_metal, weighted_ior
from texallon.core.shade.ggx import ggx_d, ggx_g1, ggx_g2, ggx_sample, ggx_visible
from texallon.core.shade.rows import (
    BASE_COLOR,
    BASE_WEIGHT,
    COAT_IOR,
    COAT_ROUGHNESS,
    COAT_WEIGHT,
    DIFFUSE_ROUGHNESS,
    METALNESS,
    SPECULAR_COLOR,
    SPECULAR_IOR,
    SPECULAR_ROUGHNESS,
    SPECULAR_WEIGHT,
    TRANSMISSION_COLOR,
    TRANSMISSION_WEIGHT,
)

SMOOTH = 0.03
"""Below this roughness facets act as a mirror: one direction, no density."""

NOTHING, SPREAD, MIRRORED, THROUGH = 0, 1, 2, 3
"""Kinds of a sampled direction: none, by density, by mirror reflection, through the boundary."""


@inlined
def luminance(r: Real, g: Real, b: Real) -> Real:
    """Relative luminance of linear Rec.709 (ITU-R BT.709)."""
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


@inlined
def lobe_chances(m: Array, k: Whole, zo: Real, outside: bool, table: Array) -> tuple[Real, Real, Real]:
    """Chances of choosing reflection, the cosine lobe and passing through; they add up to 1, or are all 0."""
    metal = m[METALNESS, k]
    ior = weighted_ior(m[SPECULAR_IOR, k], m[SPECULAR_WEIGHT, k])
    rough = m[SPECULAR_ROUGHNESS, k]
    clear = m[TRANSMISSION_WEIGHT, k]
    body = m[BASE_WEIGHT, k] * luminance(m[BASE_COLOR, k], m[BASE_COLOR + 1, k], m[BASE_COLOR + 2, k])
    back = dielectric_albedo(table, zo, rough, ior)
    through_back = fresnel_dielectric(zo, ior if outside else 1.0 / ior)
    reflect = (1.0 - metal) * (clear * through_back + (1.0 - clear) * back) + metal * max(body, 0.05)
    cosine = (1.0 - metal) * (1.0 - clear) * (1.0 - back) * body + metal * body * (
        1.0 - mirror_albedo(table, zo, rough)
    )
    through = (1.0 - metal) * clear * (1.0 - through_back)
    total = reflect + cosine + through
    if not total > 0.0:
        return 0.0, 0.0, 0.0
    return reflect / total, cosine / total, through / total


@inlined
def coat_chance(m: Array, k: Whole, oz: Real, table: Array) -> Real:
    """Chance of choosing the coat's reflection before anything below it."""
    if m[COAT_WEIGHT, k] <= 0.0:
        return 0.0
    back = coat_albedo(m, k, oz, table)
    body = m[BASE_WEIGHT, k] * luminance(m[BASE_COLOR, k], m[BASE_COLOR + 1, k], m[BASE_COLOR + 2, k])
    below = (1.0 - back) * max(body, m[TRANSMISSION_WEIGHT, k], 0.1)
    return back / (back + below)


@inlined
def reflected(
    m: Array,
    k: Whole,
    ox: Real,
    oy: Real,
    oz: Real,
    ix: Real,
    iy: Real,
    iz: Real,
    outside: bool,
    table: Array,
    mean: Array,
) -> tuple[Real, Real, Real, Real]:
    """Light from `i` reflected towards `o`: red, green, blue of f·cosθ, and the density of choosing `i`.

    Mirror reflection has no density and is left out. Both directions lie above the surface.
    """
    if oz <= 0.0 or iz <= 0.0:
        return 0.0, 0.0, 0.0, 0.0
    if m[COAT_WEIGHT, k] <= 0.0 or not outside:
        return base_reflected(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean, 1.0, 1.0)
    to_ground, to_facets = coat_passes(m, k, oz, iz, table, mean)
    r, g, b, density = base_reflected(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean, to_ground, to_facets)
    r *= coat_tint(m, k, 0, oz, iz, mean)
    g *= coat_tint(m, k, 1, oz, iz, mean)
    b *= coat_tint(m, k, 2, oz, iz, mean)
    chance = coat_chance(m, k, oz, table)
    density *= 1.0 - chance
    rough = m[COAT_ROUGHNESS, k]
    if rough >= SMOOTH:
        hx, hy, hz = ox + ix, oy + iy, oz + iz
        length = sqrt(hx * hx + hy * hy + hz * hz)
        hx, hy, hz = hx / length, hy / length, hz / length
        oh = min(ox * hx + oy * hy + oz * hz, 1.0)
        alpha = rough * rough
        value = m[COAT_WEIGHT, k] * fresnel_dielectric(oh, m[COAT_IOR, k])
        value *= ggx_d(hz, alpha) * ggx_g2(oz, iz, alpha) / (4.0 * oz)
        r, g, b = r + value, g + value, b + value
        density += chance * ggx_visible(oz, hz, oh, alpha) / (4.0 * oh)
    return r, g, b, density


@inlined
def base_reflected(
    m: Array,
    k: Whole,
    ox: Real,
    oy: Real,
    oz: Real,
    ix: Real,
    iy: Real,
    iz: Real,
    outside: bool,
    table: Array,
    mean: Array,
    to_ground: Real,
    to_facets: Real,
) -> tuple[Real, Real, Real, Real]:
    """As `reflected`, of what lies below the coat, which leaves a share of light to the ground and to facets."""
    metal = m[METALNESS, k]
    clear = m[TRANSMISSION_WEIGHT, k]
    rough = m[SPECULAR_ROUGHNESS, k]
    weight = m[BASE_WEIGHT, k]
    ior = weighted_ior(m[SPECULAR_IOR, k], m[SPECULAR_WEIGHT, k])
    chance_reflect, chance_cosine, _ = lobe_chances(m, k, oz, outside, table)
    density = chance_cosine * iz / pi
    hx, hy, hz = ox + ix, oy + iy, oz + iz
    length = sqrt(hx * hx + hy * hy + hz * hz)
    hx, hy, hz = hx / length, hy / length, hz / length
    oh = min(ox * hx + oy * hy + oz * hz, 1.0)
    between = ox * ix + oy * iy + oz * iz
    facets = 0.0
    boundary = 0.0
    if rough >= SMOOTH:
        alpha = rough * rough
        facets = ggx_d(hz, alpha) * ggx_g2(oz, iz, alpha) / (4.0 * oz)
        density += chance_reflect * ggx_visible(oz, hz, oh, alpha) / (4.0 * oh)
        boundary = (
            (1.0 - metal) * to_facets * facets * fresnel_dielectric(oh, ior if outside or clear == 0.0 else 1.0 / ior)
        )
    back_o = dielectric_albedo(table, oz, rough, ior)
    back_i = dielectric_albedo(table, iz, rough, ior)
    back = dielectric_mean_albedo(mean, rough, ior)
    below = to_ground * (1.0 - metal) * (1.0 - clear) * (1.0 - back_o) * (1.0 - back_i) / max(1.0 - back, 1e-6) * iz
    lost = 0.0
    once = 1.0
    if metal > 0.0:
        once = mirror_mean_albedo(mean, rough)
        lost = (1.0 - mirror_albedo(table, oz, rough)) * (1.0 - mirror_albedo(table, iz, rough))
        lost = lost / (pi * max(1.0 - once, 1e-6)) * iz if rough >= SMOOTH else 0.0
    r = g = b = 0.0
    for c in range(3):
        colour = weight * m[BASE_COLOR + c, k]
        tint = m[SPECULAR_COLOR + c, k]
        value = boundary * tint
        if below > 0.0:
            value += below * eon(colour, m[DIFFUSE_ROUGHNESS, k], iz, oz, between)
        if metal > 0.0:
            value += metal * to_facets * facets * fresnel_metal(oh, colour, tint)
            # Average of Schlick's curve over the hemisphere, less the F82 dip: ∫ 2μ F dμ.
            at_bar = colour + (1.0 - colour) * (6.0 / 7.0) ** 5
            dip = at_bar * (1.0 - tint) / ((1.0 / 7.0) * (6.0 / 7.0) ** 6)
            average = max(colour + (1.0 - colour) / 21.0 - dip / 126.0, 0.0)
            value += metal * to_facets * lost * average * average * once / (1.0 - average * (1.0 - once))
        if c == 0:
            r = value
        elif c == 1:
            g = value
        else:
            b = value
    return r, g, b, density


@inlined
def sample_surface(
    m: Array,
    k: Whole,
    ox: Real,
    oy: Real,
    oz: Real,
    outside: bool,
    pick: Real,
    u: Real,
    v: Real,
    table: Array,
    mean: Array,
) -> tuple[Whole, Real, Real, Real, Real, Real, Real, Real, Real]:
    """A direction to follow: kind, direction, weight red/green/blue (f·cosθ over density), density, and the lobe's width (α).

    For `MIRRORED` and `THROUGH` the density is 1 and stands for a chance. `outside` says whether the viewer is on the
    side the geometry's normal points to.
    """
    nowhere = (NOTHING, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    coated = m[COAT_WEIGHT, k] > 0.0 and outside
    chance_coat = coat_chance(m, k, oz, table) if coated else 0.0
    wide = m[COAT_ROUGHNESS, k]
    if pick < chance_coat:
        if wide < SMOOTH:
            f = m[COAT_WEIGHT, k] * fresnel_dielectric(oz, m[COAT_IOR, k]) / chance_coat
            return MIRRORED, -ox, -oy, oz, f, f, f, 1.0, 0.0
        hx, hy, hz = ggx_sample(ox, oy, oz, wide * wide, u, v)
        oh = ox * hx + oy * hy + oz * hz
        ix, iy, iz = 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, 2.0 * oh * hz - oz
        if iz <= 0.0:
            return nowhere
        r, g, b, density = reflected(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean)
        if not density > 0.0:
            return nowhere
        return SPREAD, ix, iy, iz, r / density, g / density, b / density, density, wide * wide
    below = 1.0 - chance_coat
    pick = (pick - chance_coat) / below if below > 0.0 else 0.0
    chance_reflect, chance_cosine, chance_through = lobe_chances(m, k, oz, outside, table)
    rough = m[SPECULAR_ROUGHNESS, k]
    alpha = rough * rough
    metal = m[METALNESS, k]
    clear = m[TRANSMISSION_WEIGHT, k]
    ior = weighted_ior(m[SPECULAR_IOR, k], m[SPECULAR_WEIGHT, k])
    eta = ior if outside else 1.0 / ior
    if chance_reflect + chance_cosine + chance_through <= 0.0:
        return nowhere
    soft = alpha
    if pick < chance_cosine:
        soft = 1.0
        ring, phi = sqrt(u), 2.0 * pi * v
        ix, iy, iz = ring * cos(phi), ring * sin(phi), sqrt(max(1.0 - u, 0.0))
    elif pick < chance_cosine + chance_reflect:
        if rough < SMOOTH:
            f = (1.0 - metal) * fresnel_dielectric(oz, eta if clear > 0.0 else ior)
            r = f * m[SPECULAR_COLOR, k] + metal * fresnel_metal(
                oz, m[BASE_WEIGHT, k] * m[BASE_COLOR, k], m[SPECULAR_COLOR, k]
            )
            g = f * m[SPECULAR_COLOR + 1, k] + metal * fresnel_metal(
                oz, m[BASE_WEIGHT, k] * m[BASE_COLOR + 1, k], m[SPECULAR_COLOR + 1, k]
            )
            b = f * m[SPECULAR_COLOR + 2, k] + metal * fresnel_metal(
                oz, m[BASE_WEIGHT, k] * m[BASE_COLOR + 2, k], m[SPECULAR_COLOR + 2, k]
            )
            p = chance_reflect
            if coated:
                _, to_facets = coat_passes(m, k, oz, oz, table, mean)
                p *= below / max(to_facets, 1e-9)
                r *= coat_tint(m, k, 0, oz, oz, mean)
                g *= coat_tint(m, k, 1, oz, oz, mean)
                b *= coat_tint(m, k, 2, oz, oz, mean)
            return MIRRORED, -ox, -oy, oz, r / p, g / p, b / p, 1.0, 0.0
        hx, hy, hz = ggx_sample(ox, oy, oz, alpha, u, v)
        oh = ox * hx + oy * hy + oz * hz
        ix, iy, iz = 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, 2.0 * oh * hz - oz
    else:
        if rough < SMOOTH:
            hx, hy, hz = 0.0, 0.0, 1.0
        else:
            hx, hy, hz = ggx_sample(ox, oy, oz, alpha, u, v)
        oh = min(ox * hx + oy * hy + oz * hz, 1.0)
        f = fresnel_dielectric(oh, eta)
        if f >= 1.0 or oh <= 0.0:
            return nowhere
        cosine = sqrt(1.0 - (1.0 - oh * oh) / (eta * eta))
        ix = (oh / eta - cosine) * hx - ox / eta
        iy = (oh / eta - cosine) * hy - oy / eta
        iz = (oh / eta - cosine) * hz - oz / eta
        if iz >= 0.0:
            return nowhere
        # Seen normals are sampled, so of Walter's eq. 21 only G2/G1 is left; the other side's Λ joins (not correlated).
        scale = (1.0 - metal) * clear * (1.0 - f) / chance_through
        if rough >= SMOOTH:
            scale *= ggx_g1(-iz, alpha)
        r, g, b = m[TRANSMISSION_COLOR, k], m[TRANSMISSION_COLOR + 1, k], m[TRANSMISSION_COLOR + 2, k]
        if coated:
            scale *= (1.0 - coat_albedo(m, k, oz, table)) / below
            r *= coat_tint(m, k, 0, oz, oz, mean)
            g *= coat_tint(m, k, 1, oz, oz, mean)
            b *= coat_tint(m, k, 2, oz, oz, mean)
        return THROUGH, ix, iy, iz, r * scale, g * scale, b * scale, 1.0, alpha
    if iz <= 0.0:
        return nowhere
    r, g, b, density = reflected(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean)
    if not density > 0.0:
        return nowhere
    return SPREAD, ix, iy, iz, r / density, g / density, b / density, density, soft
