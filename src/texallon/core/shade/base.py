"""The base: what lies below coat and fuzz. See `surface` for the whole.

* Dielectric reflection: GGX with the true Fresnel reflectance of the index that `specular_weight` leaves, or a thin film's.
* Diffuse below it: EON, weighted by (1 − E(o)) (1 − E(i)) / (1 − Ē), which is reciprocal and loses nothing.
* Metal: GGX with F82, plus Kulla & Conty's lobe for light that bounces between facets more than once.
* Clear interior: refraction through the same facets (Walter 2007, eq. 21). Single scattering only: a smooth body loses
  nothing, one of roughness 0.3 about 1 % seen head on and 8 % at grazing angles, one of roughness 1 a third and more.
* Subsurface: light goes in where diffuse light would be given back, and wanders (see `medium`).
* Thin walls have no inside: what is clear lets light straight through, both faces reflecting; what is subsurface gives a part back
  and lets a part through, both diffuse (OpenPBR Surface 1.1, thin-walled).
"""

from math import cos, pi, sin, sqrt

from texallon.core.kernel import Array, Real, Whole, inlined, kernel
from texallon.core.shade.albedo import (
    dielectric_albedo,
    dielectric_mean_albedo,
    mirror_albedo,
    mirror_mean_albedo,
)
from texallon.core.shade.diffuse import eon
from texallon.core.shade.film import film_on_dielectric, film_on_metal
from texallon.core.shade.fresnel import fresnel_dielectric, fresnel_metal, weighted_ior
from texallon.core.shade.ggx import brushed_alphas, brushed_d, brushed_lambda, brushed_sample, halfway
from texallon.core.shade.medium import through_tint
from texallon.core.shade.rows import (
    BASE_COLOR,
    BASE_WEIGHT,
    BRUSHING,
    DIFFUSE_ROUGHNESS,
    FILM_IOR,
    FILM_THICKNESS,
    FILM_WEIGHT,
    METALNESS,
    SPECULAR_COLOR,
    SPECULAR_IOR,
    SPECULAR_ROUGHNESS,
    SPECULAR_WEIGHT,
    SUBSURFACE_COLOR,
    SUBSURFACE_FORWARD,
    SUBSURFACE_WEIGHT,
    THIN_WALLED,
    TRANSMISSION_WEIGHT,
)

SMOOTH = 0.03
"""Below this roughness facets act as a mirror: one direction, no density."""

NOTHING, SPREAD, MIRRORED, THROUGH, INTO = 0, 1, 2, 3, 4
"""Kinds of a sampled direction: none, by density, by mirror reflection, through the boundary, into the ground to wander."""

Sampled = tuple[Whole, Real, Real, Real, Real, Real, Real, Real, Real]
"""Kind, direction, weight red/green/blue, density, width of the lobe (α)."""


@inlined
def luminance(r: Real, g: Real, b: Real) -> Real:
    """Relative luminance of linear Rec.709 (ITU-R BT.709)."""
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


@inlined
def is_thin(m: Array, k: Whole) -> bool:
    thin: bool = m[THIN_WALLED, k] >= 0.5
    return thin


@inlined
def boundary_reflects(m: Array, k: Whole, cosine: Real, outside: bool) -> Real:
    """Reflectance of the dielectric boundary; of a clear thin wall, of both its faces: 2R / (1 + R)."""
    ior = weighted_ior(m[SPECULAR_IOR, k], m[SPECULAR_WEIGHT, k])
    clear = m[TRANSMISSION_WEIGHT, k]
    f = fresnel_dielectric(cosine, ior if outside or clear == 0.0 else 1.0 / ior)
    return f + clear * (2.0 * f / (1.0 + f) - f) if is_thin(m, k) else f


@kernel
def under_film(
    m: Array, k: Whole, cosine: Real, f: Real, mr: Real, mg: Real, mb: Real
) -> tuple[Real, Real, Real, Real, Real, Real]:
    """`facets_reflect` with a thin film on top, from the reflectances without it. Apart, as few materials need it."""
    r, g, b = f, f, f
    film, weight = m[FILM_WEIGHT, k], m[BASE_WEIGHT, k]
    metal = m[METALNESS, k] > 0.0
    index, thick = max(m[FILM_IOR, k], 1.0), m[FILM_THICKNESS, k]
    if m[METALNESS, k] < 1.0:
        ior = weighted_ior(m[SPECULAR_IOR, k], m[SPECULAR_WEIGHT, k])
        fr, fg, fb = film_on_dielectric(cosine, ior, index, thick)
        r, g, b = r + film * (fr - r), g + film * (fg - g), b + film * (fb - b)
    if metal:
        mr += film * (film_on_metal(cosine, weight * m[BASE_COLOR, k], m[SPECULAR_COLOR, k], 0, index, thick) - mr)
        mg += film * (
            film_on_metal(cosine, weight * m[BASE_COLOR + 1, k], m[SPECULAR_COLOR + 1, k], 1, index, thick) - mg
        )
        mb += film * (
            film_on_metal(cosine, weight * m[BASE_COLOR + 2, k], m[SPECULAR_COLOR + 2, k], 2, index, thick) - mb
        )
    return r, g, b, mr, mg, mb


@inlined
def facets_reflect(m: Array, k: Whole, cosine: Real, outside: bool) -> tuple[Real, Real, Real, Real, Real, Real]:
    """Reflectance red, green, blue of dielectric facets, and of metal ones, with a thin film where there is one."""
    f = boundary_reflects(m, k, cosine, outside)
    r, g, b = f, f, f
    weight = m[BASE_WEIGHT, k]
    metal = m[METALNESS, k] > 0.0
    mr = fresnel_metal(cosine, weight * m[BASE_COLOR, k], m[SPECULAR_COLOR, k]) if metal else 0.0
    mg = fresnel_metal(cosine, weight * m[BASE_COLOR + 1, k], m[SPECULAR_COLOR + 1, k]) if metal else 0.0
    mb = fresnel_metal(cosine, weight * m[BASE_COLOR + 2, k], m[SPECULAR_COLOR + 2, k]) if metal else 0.0
    if m[FILM_WEIGHT, k] > 0.0 and outside:
        r, g, b, mr, mg, mb = under_film(m, k, cosine, r, mr, mg, mb)
    return r, g, b, mr, mg, mb


@inlined
def body_colour(m: Array, k: Whole, c: Whole) -> Real:
    """Share of light that the ground gives back to the side it came from, but for what wanders."""
    hard = m[BASE_WEIGHT, k] * m[BASE_COLOR + c, k]
    soft = m[SUBSURFACE_WEIGHT, k]
    if soft <= 0.0:
        return hard
    back = 0.5 * m[SUBSURFACE_COLOR + c, k] * (1.0 - m[SUBSURFACE_FORWARD, k]) if is_thin(m, k) else 0.0
    return hard + soft * (back - hard)


@inlined
def ground_colour(m: Array, k: Whole, c: Whole) -> Real:
    """Share of light that the opaque ground gives back in all, by whatever way."""
    hard = m[BASE_WEIGHT, k] * m[BASE_COLOR + c, k]
    return hard + m[SUBSURFACE_WEIGHT, k] * (m[SUBSURFACE_COLOR + c, k] - hard)


@inlined
def lobe_chances(m: Array, k: Whole, zo: Real, outside: bool, table: Array) -> tuple[Real, Real, Real, Real]:
    """Chances of choosing reflection, the cosine lobe, passing through, and going into the ground (across a thin wall).

    They add up to 1, or are all 0.
    """
    metal = m[METALNESS, k]
    ior = weighted_ior(m[SPECULAR_IOR, k], m[SPECULAR_WEIGHT, k])
    rough = m[SPECULAR_ROUGHNESS, k]
    clear = m[TRANSMISSION_WEIGHT, k]
    hard = m[BASE_WEIGHT, k] * luminance(m[BASE_COLOR, k], m[BASE_COLOR + 1, k], m[BASE_COLOR + 2, k])
    body = luminance(body_colour(m, k, 0), body_colour(m, k, 1), body_colour(m, k, 2))
    back = dielectric_albedo(table, zo, rough, ior)
    through_back = boundary_reflects(m, k, zo, outside) if clear > 0.0 else 0.0
    if m[FILM_WEIGHT, k] > 0.0:  # a film may reflect more than the boundary alone
        back = max(back, 0.1 * m[FILM_WEIGHT, k])
    reflect = (1.0 - metal) * (clear * through_back + (1.0 - clear) * back) + metal * max(hard, 0.05)
    opaque = (1.0 - metal) * (1.0 - clear) * (1.0 - back)
    cosine = opaque * body
    if metal > 0.0:
        cosine += metal * hard * (1.0 - mirror_albedo(table, zo, rough))
    through = (1.0 - metal) * clear * (1.0 - through_back)
    under = 0.0
    if m[SUBSURFACE_WEIGHT, k] > 0.0:
        under = opaque * m[SUBSURFACE_WEIGHT, k]
        under *= luminance(m[SUBSURFACE_COLOR, k], m[SUBSURFACE_COLOR + 1, k], m[SUBSURFACE_COLOR + 2, k])
        if is_thin(m, k):
            under *= 0.5 * (1.0 + m[SUBSURFACE_FORWARD, k])
    total = reflect + cosine + through + under
    if not total > 0.0:
        return 0.0, 0.0, 0.0, 0.0
    return reflect / total, cosine / total, through / total, under / total


@inlined
def ground_share(m: Array, k: Whole, oz: Real, iz: Real, table: Array, mean: Array) -> Real:
    """What facets leave of light between two directions to the diffuse ground below them."""
    ior = weighted_ior(m[SPECULAR_IOR, k], m[SPECULAR_WEIGHT, k])
    rough = m[SPECULAR_ROUGHNESS, k]
    back_o = dielectric_albedo(table, oz, rough, ior)
    back_i = dielectric_albedo(table, iz, rough, ior)
    return (1.0 - back_o) * (1.0 - back_i) / max(1.0 - dielectric_mean_albedo(mean, rough, ior), 1e-6)


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
    chance_reflect, chance_cosine, _, _ = lobe_chances(m, k, oz, outside, table)
    density = chance_cosine * iz / pi
    between = ox * ix + oy * iy + oz * iz
    hx, hy, hz, oh = halfway(ox, oy, oz, ix, iy, iz)
    facets = 0.0
    ax = ay = rough * rough
    fr = fg = fb = mr = mg = mb = 0.0
    if rough >= SMOOTH:
        ax, ay = brushed_alphas(rough, m[BRUSHING, k])
        d = brushed_d(hx, hy, hz, ax, ay)
        shadow_o = brushed_lambda(ox, oy, oz, ax, ay)
        facets = d / (1.0 + shadow_o + brushed_lambda(ix, iy, iz, ax, ay)) / (4.0 * oz)
        density += chance_reflect * d / (1.0 + shadow_o) / (4.0 * oz)
        if to_facets > 0.0:
            fr, fg, fb, mr, mg, mb = facets_reflect(m, k, oh, outside)
    below = to_ground * (1.0 - metal) * (1.0 - clear) * iz
    if below > 0.0:
        below *= ground_share(m, k, oz, iz, table, mean)
    film = m[FILM_WEIGHT, k] if outside else 0.0
    pr = pg = pb = 1.0
    if film > 0.0 and below > 0.0:
        # A film leaves the ground the smaller of what either direction passes: reciprocal, and never a gain.
        plain = max(ground_share(m, k, oz, iz, table, mean), 1e-6)
        r1, g1, b1, _, _, _ = facets_reflect(m, k, oz, outside)
        r2, g2, b2, _, _, _ = facets_reflect(m, k, iz, outside)
        pr = 1.0 + film * ((1.0 - max(r1, r2)) / plain - 1.0)
        pg = 1.0 + film * ((1.0 - max(g1, g2)) / plain - 1.0)
        pb = 1.0 + film * ((1.0 - max(b1, b2)) / plain - 1.0)
    lost = 0.0
    once = 1.0
    if metal > 0.0 and rough >= SMOOTH:
        once = mirror_mean_albedo(mean, rough)
        lost = (1.0 - mirror_albedo(table, oz, rough)) * (1.0 - mirror_albedo(table, iz, rough))
        lost *= (
            1.0 - 0.2 * m[BRUSHING, k]
        )  # brushed facets lose less to each other than the table's even ones (measured)
        lost = lost / (pi * max(1.0 - once, 1e-6)) * iz
    r = g = b = 0.0
    for c in range(3):
        f, mf, p = (fr, mr, pr) if c == 0 else ((fg, mg, pg) if c == 1 else (fb, mb, pb))
        tint = m[SPECULAR_COLOR + c, k]
        value = (1.0 - metal) * to_facets * facets * f * tint
        if below > 0.0:
            value += below * p * eon(body_colour(m, k, c), m[DIFFUSE_ROUGHNESS, k], iz, oz, between)
        if metal > 0.0:
            colour = weight * m[BASE_COLOR + c, k]
            value += metal * to_facets * facets * mf
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
def base_across(m: Array, k: Whole, oz: Real, iz: Real, table: Array, mean: Array) -> tuple[Real, Real, Real, Real]:
    """Light from behind a thin wall (`iz` < 0) let through towards `o`, diffuse: f·cosθ and the density of choosing it."""
    _, _, _, chance = lobe_chances(m, k, oz, True, table)
    share = (1.0 - m[METALNESS, k]) * (1.0 - m[TRANSMISSION_WEIGHT, k]) * m[SUBSURFACE_WEIGHT, k]
    share *= 0.5 * (1.0 + m[SUBSURFACE_FORWARD, k]) * ground_share(m, k, oz, -iz, table, mean) * -iz / pi
    return (
        share * m[SUBSURFACE_COLOR, k],
        share * m[SUBSURFACE_COLOR + 1, k],
        share * m[SUBSURFACE_COLOR + 2, k],
        chance * -iz / pi,
    )


@inlined
def sample_base(
    m: Array, k: Whole, ox: Real, oy: Real, oz: Real, outside: bool, pick: Real, u: Real, v: Real, table: Array
) -> Sampled:
    """A direction to follow below the coat. For `SPREAD` weight and density are left for `reflected` to say.

    For the other kinds the weight is over the chance of the kind, and the density 1.
    """
    nowhere = (NOTHING, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    chance_reflect, chance_cosine, chance_through, chance_under = lobe_chances(m, k, oz, outside, table)
    if chance_reflect + chance_cosine + chance_through + chance_under <= 0.0:
        return nowhere
    rough = m[SPECULAR_ROUGHNESS, k]
    ax, ay = brushed_alphas(rough, m[BRUSHING, k])
    metal = m[METALNESS, k]
    clear = m[TRANSMISSION_WEIGHT, k]
    thin = is_thin(m, k)
    if pick < chance_cosine + chance_under:
        ring, phi = sqrt(u), 2.0 * pi * v
        ix, iy, iz = ring * cos(phi), ring * sin(phi), sqrt(max(1.0 - u, 0.0))
        if pick < chance_cosine:
            return SPREAD, ix, iy, iz, 0.0, 0.0, 0.0, 0.0, 1.0
        if thin:
            return SPREAD, ix, iy, -iz, 0.0, 0.0, 0.0, 0.0, 1.0
        ior = weighted_ior(m[SPECULAR_IOR, k], m[SPECULAR_WEIGHT, k])
        into = (1.0 - metal) * (1.0 - clear) * m[SUBSURFACE_WEIGHT, k]
        into *= (1.0 - dielectric_albedo(table, oz, rough, ior)) / chance_under
        return INTO, ix, iy, -iz, into, into, into, 1.0, 1.0
    if rough < SMOOTH:
        hx, hy, hz = 0.0, 0.0, 1.0
    else:
        hx, hy, hz = brushed_sample(ox, oy, oz, ax, ay, u, v)
    oh = min(ox * hx + oy * hy + oz * hz, 1.0)
    if pick < chance_cosine + chance_under + chance_reflect:
        if rough < SMOOTH:
            fr, fg, fb, mr, mg, mb = facets_reflect(m, k, oz, outside)
            left = 1.0 - metal
            r = left * fr * m[SPECULAR_COLOR, k] + metal * mr
            g = left * fg * m[SPECULAR_COLOR + 1, k] + metal * mg
            b = left * fb * m[SPECULAR_COLOR + 2, k] + metal * mb
            p = chance_reflect
            return MIRRORED, -ox, -oy, oz, r / p, g / p, b / p, 1.0, 0.0
        return SPREAD, 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, 2.0 * oh * hz - oz, 0.0, 0.0, 0.0, 0.0, max(ax, ay)
    if oh <= 0.0:
        return nowhere
    ior = weighted_ior(m[SPECULAR_IOR, k], m[SPECULAR_WEIGHT, k])
    eta = ior if outside else 1.0 / ior
    fr, fg, fb, _, _, _ = facets_reflect(m, k, oh, outside)
    if thin:
        # Straight on; rough walls spread light as if it were mirrored and went on behind.
        ix, iy, iz = 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, -(2.0 * oh * hz - oz)
        if rough < SMOOTH:
            ix, iy, iz = -ox, -oy, -oz
    else:
        sine2 = (1.0 - oh * oh) / (eta * eta)
        if sine2 >= 1.0:
            return nowhere
        cosine = sqrt(1.0 - sine2)
        ix = (oh / eta - cosine) * hx - ox / eta
        iy = (oh / eta - cosine) * hy - oy / eta
        iz = (oh / eta - cosine) * hz - oz / eta
    if iz >= 0.0:
        return nowhere
    # Seen normals are sampled, so of Walter's eq. 21 only G2/G1 is left; the other side's Λ joins (not correlated).
    scale = (1.0 - metal) * clear / chance_through
    if rough >= SMOOTH:
        scale /= 1.0 + brushed_lambda(ix, iy, -iz, ax, ay)
    return (
        THROUGH,
        ix,
        iy,
        iz,
        scale * (1.0 - fr) * through_tint(m, k, 0),
        scale * (1.0 - fg) * through_tint(m, k, 1),
        scale * (1.0 - fb) * through_tint(m, k, 2),
        1.0,
        ax,
    )
