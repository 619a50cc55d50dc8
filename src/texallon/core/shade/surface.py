"""The surface: what a point gives back and lets through, from its channel values.

The OpenPBR Surface specification 1.1: fuzz over a coat over the base (see `fuzz`, `coat`, `base`), joined by `stack`. Local frame, z along
the normal on the side of the viewer `o`; `i` points to the light, and lies below the surface (iz < 0) where light comes through.
Material columns are columns of one `(MATERIAL, n)` array; see `rows`.

What is carried is *basic radiance*, radiance over the square of the index, which is constant along a ray through any boundaries
(F. E. Nicodemus, "Radiance", American Journal of Physics 31, 1963): so refraction has no factor n².

* Dielectric and metal facets: GGX. Metal gets back what its facets throw among each other (Kulla & Conty 2017).
* Ground below facets: EON, weighted by (1 − E(o)) (1 − E(i)) / (1 − Ē), which is reciprocal and loses nothing.
* Clear part: reflection and refraction through the same facets (Walter 2007, eq. 21), divided by what both keep in all.
* Thin walls have no inside: what is clear lets light straight through, rough walls spread it as if it were mirrored and went on behind;
  what is subsurface gives a part back and lets a part through, both diffuse.
"""

from math import cos, pi, sin, sqrt

from texallon.core.kernel import Array, Float, Int, inlined
from texallon.core.random_numbers import uniform4
from texallon.core.shade.albedo import brushed_albedo
from texallon.core.shade.base import (
    ABSORBED,
    NON_SPECULAR,
    SMOOTH,
    SPECULAR,
    SUBSURFACE,
    TRANSMISSION,
    Sampled,
    diffuse_lobe,
    facets_reflect,
    luminance,
    metal_average,
)
from texallon.core.shade.coat import (
    coat_lobe,
    coat_pass,
    coat_tint,
    from_coat,
    sample_coat,
    to_coat,
    within_coat,
)
from texallon.core.shade.fresnel import fresnel_dielectric
from texallon.core.shade.fuzz import fuzz_pdf, fuzz_sample
from texallon.core.shade.ggx import brushed_d, brushed_lambda, brushed_sample, halfway
from texallon.core.shade.media.nesting import through_tint
from texallon.core.shade.rows import (
    BRUSHING,
    COAT_ROUGHNESS,
    COAT_WEIGHT,
    FUZZ_COLOR,
    FUZZ_ROUGHNESS,
    SPECULAR_COLOR,
    SPECULAR_WEIGHT,
    SUBSURFACE_COLOR,
    SUBSURFACE_FORWARD,
    SUBSURFACE_WEIGHT,
)
from texallon.core.shade.stack import Stack, left_at

MOST_TRIES, TO_WHOLE = 64, 16777216.0
"""Facets that are drawn before light counts as lost between them, and what makes a random number a whole one."""

Evaluated = tuple[Float, Float, Float, Float, Float, Float, Float]
"""Red, green, blue of f·cosθ; the density of choosing the direction; red, green, blue of the diffuse part alone."""


@inlined
def clear_reflects(m: Array, k: Int, s: Stack, cosine: Float) -> tuple[Float, Float, Float]:
    """Reflectance of a facet of the clear part: total where light can't be bent through.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    s : Stack
        The layer stack, see `stack.make_stack`.
    cosine : float
        To the normal, 0…1.
    """
    if s.thin:
        r, g, b, _, _, _ = facets_reflect(m, k, cosine, s.ior, True, s.film)
        return r, g, b
    if (1.0 - cosine * cosine) >= s.bending * s.bending:
        return 1.0, 1.0, 1.0
    if s.layered and s.film > 0.0 and s.bending >= 1.0:
        r, g, b, _, _, _ = facets_reflect(m, k, cosine, s.eta, False, s.film)
        return r, g, b
    f = fresnel_dielectric(cosine, s.eta)
    return f, f, f


@inlined
def tint_at_facets(m: Array, k: Int, c: Int, s: Stack) -> Float:
    """`specular_color` colours what facets reflect outwards, not what a body's own boundary reflects back into it.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    s : Stack
        The layer stack, see `stack.make_stack`.
    """
    return m[SPECULAR_COLOR + c, k] if s.layered else 1.0


@inlined
def with_residual(
    s: Stack, r: Float, g: Float, b: Float, density: Float, z: Float
) -> tuple[Float, Float, Float, Float]:
    """Add what the clear part's facets throw among each other and give back evenly, half of it to either side.

    Parameters
    ----------
    s : Stack
        The layer stack, see `stack.make_stack`.
    r : float
        Red.
    g : float
        Green.
    b : float
        Blue.
    density : float
        Per steradian.
    z : float
        Cosine to the normal, 0…1.
    """
    even = 0.5 * s.clear * z / pi
    r, g, b = r + even * s.residual[0], g + even * s.residual[1], b + even * s.residual[2]
    return r, g, b, density + s.chances.clear * s.by_residual * 0.5 * z / pi


@inlined
def lit_from_above(
    m: Array, k: Int, s: Stack, ox: Float, oy: Float, oz: Float, ix: Float, iy: Float, iz: Float, table: Array
) -> Evaluated:
    """`evaluate` for light on the viewer's side.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    s : Stack
        The layer stack, see `stack.make_stack`.
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    ix : float
        Towards the light, in the shading basis.
    iy : float
        Towards the light.
    iz : float
        Cosine towards the light; below 0 on the far side.
    table : Array
        See `albedo.albedo_table`.
    """
    hx, hy, hz, oh = halfway(ox, oy, oz, ix, iy, iz)
    r = g = b = dr = dg = db = 0.0
    density = s.chances.cosine * iz / pi
    metal_weight = s.metal * m[SPECULAR_WEIGHT, k]
    if not s.smooth:
        d = brushed_d(hx, hy, hz, s.ax, s.ay) / (4.0 * oz)
        shadow = 1.0 + brushed_lambda(ox, oy, oz, s.ax, s.ay)
        facets = d / (shadow + brushed_lambda(ix, iy, iz, s.ax, s.ay))
        visible = d / shadow
        density += s.chances.facets * facets / (1.0 - s.lost)
        if s.metal + s.opaque > 0.0:
            fr, fg, fb, mr, mg, mb = facets_reflect(m, k, oh, s.ior, False, s.film)
            r = facets * (metal_weight * mr + s.opaque * fr * tint_at_facets(m, k, 0, s))
            g = facets * (metal_weight * mg + s.opaque * fg * tint_at_facets(m, k, 1, s))
            b = facets * (metal_weight * mb + s.opaque * fb * tint_at_facets(m, k, 2, s))
        if s.clear > 0.0 and (not s.straight or s.softened):
            fr, fg, fb = clear_reflects(m, k, s, oz if s.softened else oh)
            if s.by_residual > 0.0:
                density += s.chances.clear * visible * luminance(fr, fg, fb) * (1.0 - s.by_residual)
            else:
                density += s.chances.clear * facets * luminance(fr, fg, fb) / s.total
            r += s.clear * facets * fr / s.total * tint_at_facets(m, k, 0, s)
            g += s.clear * facets * fg / s.total * tint_at_facets(m, k, 1, s)
            b += s.clear * facets * fb / s.total * tint_at_facets(m, k, 2, s)
        if s.metal > 0.0 and s.lost > 0.0:
            again = 1.0 - brushed_albedo(table, ix, iy, iz, s.rough, m[BRUSHING, k])
            again *= metal_weight * iz / pi * s.lost / max(s.lost_mean, 1e-6)
            once = 1.0 - s.lost_mean
            a = metal_average(m, k, 0)
            r += again * a * a * once / (1.0 - a * s.lost_mean)
            a = metal_average(m, k, 1)
            g += again * a * a * once / (1.0 - a * s.lost_mean)
            a = metal_average(m, k, 2)
            b += again * a * a * once / (1.0 - a * s.lost_mean)
    if s.by_residual > 0.0:
        r, g, b, density = with_residual(s, r, g, b, density, iz)
    coated = s.layered and m[COAT_WEIGHT, k] > 0.0
    if s.opaque > 0.0:
        below = s.opaque * iz * left_at(m, k, s.rough, s.ior, coated, s.film, iz, table) / s.left_mean
        if below > 0.0:
            between = ox * ix + oy * iy + oz * iz
            walks = s.layered and not s.thin
            dr = below * s.left[0] * diffuse_lobe(m, k, 0, walks, iz, oz, between)
            dg = below * s.left[1] * diffuse_lobe(m, k, 1, walks, iz, oz, between)
            db = below * s.left[2] * diffuse_lobe(m, k, 2, walks, iz, oz, between)
            r, g, b = r + dr, g + dg, b + db
    if coated:
        into, out = within_coat(m, k, oz), within_coat(m, k, iz)
        cr = s.below_coat * coat_tint(m, k, 0, into, out, s.coat_mean)
        cg = s.below_coat * coat_tint(m, k, 1, into, out, s.coat_mean)
        cb = s.below_coat * coat_tint(m, k, 2, into, out, s.coat_mean)
        r, g, b, dr, dg, db = r * cr, g * cg, b * cb, dr * cr, dg * cg, db * cb
        if m[COAT_ROUGHNESS, k] >= SMOOTH:
            value, visible = coat_lobe(m, k, ox, oy, oz, ix, iy, iz)
            value *= m[COAT_WEIGHT, k]
            r, g, b = r + value, g + value, b + value
            density += s.chances.coat * visible
    if s.layered and s.fuzz > 0.0:
        lobe = fuzz_pdf(ox, oy, oz, ix, iy, iz, m[FUZZ_ROUGHNESS, k])
        left, value = s.below_fuzz, s.fuzz * lobe
        fr, fg, fb = value * m[FUZZ_COLOR, k], value * m[FUZZ_COLOR + 1, k], value * m[FUZZ_COLOR + 2, k]
        r, g, b = r * left + fr, g * left + fg, b * left + fb
        dr, dg, db = dr * left + fr, dg * left + fg, db * left + fb
        density += s.chances.fuzz * lobe
    return r, g, b, density, dr, dg, db


@inlined
def layers_let_through(m: Array, k: Int, s: Stack, oz: Float, iz: Float) -> tuple[Float, Float, Float]:
    """What fuzz and coat leave of light that goes through the surface, by colour; `iz` is the cosine on the far side, above 0.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    s : Stack
        The layer stack, see `stack.make_stack`.
    oz : float
        Cosine towards the viewer, above 0.
    iz : float
        Cosine towards the light; below 0 on the far side.
    """
    if m[COAT_WEIGHT, k] <= 0.0:
        left = s.below_fuzz if s.layered else 1.0
        return left, left, left
    if s.thin:
        into, out = within_coat(m, k, oz), within_coat(m, k, iz)
        left = s.below_fuzz * s.below_coat
        return (
            left * coat_tint(m, k, 0, into, out, s.coat_mean),
            left * coat_tint(m, k, 1, into, out, s.coat_mean),
            left * coat_tint(m, k, 2, into, out, s.coat_mean),
        )
    # Into a body or out of it light goes through the coat once.
    left, z = (s.below_fuzz * s.below_coat, oz) if s.layered else (1.0, iz)
    return left * coat_pass(m, k, 0, z), left * coat_pass(m, k, 1, z), left * coat_pass(m, k, 2, z)


@inlined
def lit_from_below(
    m: Array, k: Int, s: Stack, ox: Float, oy: Float, oz: Float, ix: Float, iy: Float, iz: Float
) -> Evaluated:
    """`evaluate` for light that comes through the surface.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    s : Stack
        The layer stack, see `stack.make_stack`.
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    ix : float
        Towards the light, in the shading basis.
    iy : float
        Towards the light.
    iz : float
        Cosine towards the light; below 0 on the far side.
    """
    r = g = b = density = dr = dg = db = 0.0
    if s.thin and s.chances.substrate > 0.0:
        share = s.opaque * m[SUBSURFACE_WEIGHT, k] * 0.5 * (1.0 + m[SUBSURFACE_FORWARD, k]) * -iz / pi
        dr = share * s.left[0] * m[SUBSURFACE_COLOR, k]
        dg = share * s.left[1] * m[SUBSURFACE_COLOR + 1, k]
        db = share * s.left[2] * m[SUBSURFACE_COLOR + 2, k]
        r, g, b = dr, dg, db
        density = s.chances.substrate * -iz / pi
    if s.clear > 0.0 and not s.straight:
        value = visible = oh = 0.0
        if s.thin:
            hx, hy, hz, oh = halfway(ox, oy, oz, ix, iy, -iz)
            d = brushed_d(hx, hy, hz, s.ax, s.ay) / (4.0 * oz)
            shadow = 1.0 + brushed_lambda(ox, oy, oz, s.ax, s.ay)
            value, visible = d / (shadow + brushed_lambda(ix, iy, iz, s.ax, s.ay)), d / shadow
        else:
            hx, hy, hz = ox + s.bending * ix, oy + s.bending * iy, oz + s.bending * iz
            length = sqrt(hx * hx + hy * hy + hz * hz)
            if length > 1e-9:
                sign = 1.0 / length if hz > 0.0 else -1.0 / length
                hx, hy, hz = hx * sign, hy * sign, hz * sign
                oh, ih = ox * hx + oy * hy + oz * hz, ix * hx + iy * hy + iz * hz
                if oh > 0.0 and ih < 0.0:
                    bend = oh + s.bending * ih
                    jacobian = s.bending * s.bending * -ih / max(bend * bend, 1e-18)
                    shadow = 1.0 + brushed_lambda(ox, oy, oz, s.ax, s.ay)
                    visible = brushed_d(hx, hy, hz, s.ax, s.ay) * oh / (shadow * oz) * jacobian
                    value = visible / (1.0 + brushed_lambda(ix, iy, iz, s.ax, s.ay))
        if visible > 0.0:
            fr, fg, fb = clear_reflects(m, k, s, min(oh, 1.0))
            followed = visible * (1.0 - s.by_residual) if s.by_residual > 0.0 else value / s.total
            density += s.chances.clear * followed * (1.0 - luminance(fr, fg, fb))
            r += s.clear * value * (1.0 - fr) / s.total * through_tint(m, k, 0)
            g += s.clear * value * (1.0 - fg) / s.total * through_tint(m, k, 1)
            b += s.clear * value * (1.0 - fb) / s.total * through_tint(m, k, 2)
        if s.by_residual > 0.0:
            r, g, b, density = with_residual(s, r, g, b, density, -iz)
    if density <= 0.0:
        return 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    cr, cg, cb = layers_let_through(m, k, s, oz, -iz)
    return r * cr, g * cg, b * cb, density, dr * cr, dg * cg, db * cb


@inlined
def evaluate(
    m: Array, k: Int, s: Stack, ox: Float, oy: Float, oz: Float, ix: Float, iy: Float, iz: Float, table: Array
) -> Evaluated:
    """Light from `i` given back towards `o`: f·cosθ, the density of choosing `i`, and the diffuse part of it (with fuzz).

    Mirror reflection and smooth refraction have no density and are left out.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    s : Stack
        The layer stack, see `stack.make_stack`.
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    ix : float
        Towards the light, in the shading basis.
    iy : float
        Towards the light.
    iz : float
        Cosine towards the light; below 0 on the far side.
    table : Array
        See `albedo.albedo_table`.
    """
    if oz <= 0.0 or iz == 0.0:
        return 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    if iz > 0.0:
        return lit_from_above(m, k, s, ox, oy, oz, ix, iy, iz, table)
    return lit_from_below(m, k, s, ox, oy, oz, ix, iy, iz)


@inlined
def bent(
    hx: Float, hy: Float, hz: Float, ox: Float, oy: Float, oz: Float, oh: Float, eta: Float
) -> tuple[Float, Float, Float, bool]:
    """Refraction at a facet, and whether there is any (Snell's law).

    Parameters
    ----------
    hx, hy : float
        Facet's normal, across.
    hz : float
        Facet's cosine to the surface's normal.
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    oh : float
        Cosine between facet and viewer.
    eta : float
        Index of the far side over that of the near side.
    """
    sine2 = (1.0 - oh * oh) / (eta * eta)
    if sine2 >= 1.0:
        return 0.0, 0.0, -1.0, False
    along = oh / eta - sqrt(1.0 - sine2)
    return along * hx - ox / eta, along * hy - oy / eta, along * hz - oz / eta, True


@inlined
def mirror_at_facets(
    s: Stack, ox: Float, oy: Float, oz: Float, pick: Float, u: Float, v: Float
) -> tuple[Float, Float, Float, bool]:
    """A direction mirrored by facets, in proportion to what is neither shadowed nor sent below the surface: drawn until one is found.

    Parameters
    ----------
    s : Stack
        The layer stack, see `stack.make_stack`.
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    pick, u, v : float
        Random number in [0, 1).
    """
    seen = 1.0 + brushed_lambda(ox, oy, oz, s.ax, s.ay)
    for attempt in range(MOST_TRIES):
        if attempt > 0:
            u, v, pick, _ = uniform4(int(u * TO_WHOLE), int(v * TO_WHOLE), int(pick * TO_WHOLE), attempt)
        hx, hy, hz = brushed_sample(ox, oy, oz, s.ax, s.ay, u, v)
        oh = ox * hx + oy * hy + oz * hz
        ix, iy, iz = 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, 2.0 * oh * hz - oz
        if iz > 0.0 and pick < seen / (seen + brushed_lambda(ix, iy, iz, s.ax, s.ay)):
            return ix, iy, iz, True
    return 0.0, 0.0, 1.0, False


@inlined
def sample_clear(
    m: Array, k: Int, s: Stack, ox: Float, oy: Float, oz: Float, pick: Float, u: Float, v: Float
) -> Sampled:
    """A direction to follow at the clear part, chosen with certainty; layers above it are left to the caller.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    s : Stack
        The layer stack, see `stack.make_stack`.
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    pick, u, v : float
        Random number in [0, 1).
    """
    nowhere = (ABSORBED, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    hx, hy, hz = 0.0, 0.0, 1.0
    if not s.smooth and (not s.straight or s.softened):
        hx, hy, hz = brushed_sample(ox, oy, oz, s.ax, s.ay, u, v)
    oh = min(ox * hx + oy * hy + oz * hz, 1.0)
    wide = max(s.ax, s.ay)
    if oh <= 0.0:
        return nowhere
    if s.softened:
        # As much as a smooth boundary reflects, spread over rough facets.
        f, _, _ = clear_reflects(m, k, s, oz)
        if pick < f:
            ix, iy, iz, leaves = mirror_at_facets(s, ox, oy, oz, pick / f, u, v)
            return (NON_SPECULAR, ix, iy, iz, 0.0, 0.0, 0.0, 0.0, wide) if leaves else nowhere
        ix, iy, iz, goes = bent(0.0, 0.0, 1.0, ox, oy, oz, oz, s.bending)
        if not goes:
            return nowhere
        return TRANSMISSION, ix, iy, iz, through_tint(m, k, 0), through_tint(m, k, 1), through_tint(m, k, 2), 1.0, 0.0
    if pick < s.by_residual:
        ring, phi = sqrt(u), 2.0 * pi * v
        iz = sqrt(max(1.0 - u, 1e-12))
        iz = iz if pick < 0.5 * s.by_residual else -iz
        return NON_SPECULAR, ring * cos(phi), ring * sin(phi), iz, 0.0, 0.0, 0.0, 0.0, wide
    pick = (pick - s.by_residual) / max(1.0 - s.by_residual, 1e-6)
    if not s.straight:
        # Facets are drawn until one is found from which light gets away: nothing is lost, by any number of bounces.
        tries = 1 if s.by_residual > 0.0 else MOST_TRIES
        for attempt in range(tries):
            if attempt > 0:
                u, v, pick, _ = uniform4(int(u * TO_WHOLE), int(v * TO_WHOLE), int(pick * TO_WHOLE), attempt)
                hx, hy, hz = brushed_sample(ox, oy, oz, s.ax, s.ay, u, v)
                oh = min(ox * hx + oy * hy + oz * hz, 1.0)
            fr, fg, fb = clear_reflects(m, k, s, max(oh, 0.0))
            chance = luminance(fr, fg, fb)
            mirrored = pick < chance
            # The rest of this number says whether light that way is shadowed.
            pick = pick / max(chance, 1e-9) if mirrored else (pick - chance) / max(1.0 - chance, 1e-9)
            ix, iy, iz = 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, 2.0 * oh * hz - oz
            goes = iz > 0.0
            seen = 1.0 + brushed_lambda(ox, oy, oz, s.ax, s.ay)
            if mirrored or s.thin:
                left = seen / (seen + brushed_lambda(ix, iy, iz, s.ax, s.ay))
                if not mirrored:
                    iz = -iz
            else:
                ix, iy, iz, goes = bent(hx, hy, hz, ox, oy, oz, oh, s.bending)
                goes = goes and iz < 0.0
                left = 1.0 / (1.0 + brushed_lambda(ix, iy, iz, s.ax, s.ay))
            if goes and (tries == 1 or pick < left):
                return NON_SPECULAR, ix, iy, iz, 0.0, 0.0, 0.0, 0.0, wide
        return nowhere
    fr, fg, fb = clear_reflects(m, k, s, oh)
    chance = luminance(fr, fg, fb)
    if pick < chance:
        r, g, b = tint_at_facets(m, k, 0, s), tint_at_facets(m, k, 1, s), tint_at_facets(m, k, 2, s)
        return SPECULAR, -ox, -oy, oz, fr / chance * r, fg / chance * g, fb / chance * b, 1.0, 0.0
    if s.thin:
        ix, iy, iz = -ox, -oy, -oz
    else:
        ix, iy, iz, goes = bent(hx, hy, hz, ox, oy, oz, oh, s.bending)
        if not goes:
            return nowhere
    r, g, b = through_tint(m, k, 0), through_tint(m, k, 1), through_tint(m, k, 2)
    left = 1.0 - chance
    return TRANSMISSION, ix, iy, iz, (1.0 - fr) / left * r, (1.0 - fg) / left * g, (1.0 - fb) / left * b, 1.0, 0.0


@inlined
def sample_surface(
    m: Array, k: Int, s: Stack, ox: Float, oy: Float, oz: Float, pick: Float, u: Float, v: Float, table: Array
) -> tuple[Int, Float, Float, Float, Float, Float, Float, Float, Float, Float, Float, Float]:
    """A direction to follow: kind, direction, weight red/green/blue (f·cosθ over density), density, the lobe's width (α), and the
    diffuse share of the weight, red/green/blue.

    For `SPECULAR`, `TRANSMISSION` and `SUBSURFACE` the density is 1 and stands for a chance. α is 1 for diffuse directions.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    s : Stack
        The layer stack, see `stack.make_stack`.
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    pick, u, v : float
        Random number in [0, 1).
    table : Array
        See `albedo.albedo_table`.
    """
    nowhere = (ABSORBED, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    kind, ix, iy, iz, r, g, b, wide = ABSORBED, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0
    coat_rough = m[COAT_ROUGHNESS, k]
    if pick < s.chances.fuzz:
        ix, iy, iz = fuzz_sample(ox, oy, oz, m[FUZZ_ROUGHNESS, k], u, v)
        kind, wide = NON_SPECULAR, 1.0
    elif pick < s.chances.fuzz + s.chances.coat:
        if coat_rough < SMOOTH:
            cx, cy, cz = to_coat(m, k, ox, oy, oz)
            ix, iy, iz = from_coat(m, k, -cx, -cy, cz)
            f = (1.0 - s.below_coat) * s.below_fuzz / s.chances.coat
            return SPECULAR, ix, iy, iz, f, f, f, 1.0, 0.0, 0.0, 0.0, 0.0
        ix, iy, iz, leaves = sample_coat(m, k, ox, oy, oz, u, v)
        if leaves:
            kind, wide = NON_SPECULAR, coat_rough * coat_rough
    else:
        pick -= s.chances.fuzz + s.chances.coat
        if pick < s.chances.cosine + s.chances.substrate:
            ring, phi = sqrt(u), 2.0 * pi * v
            ix, iy, iz = ring * cos(phi), ring * sin(phi), sqrt(max(1.0 - u, 1e-12))
            kind, wide = NON_SPECULAR, 1.0
            if pick >= s.chances.cosine:
                iz = -iz
                if not s.thin:
                    kind, wide = SUBSURFACE, 1.0
                    into = s.opaque * m[SUBSURFACE_WEIGHT, k] / s.chances.substrate
                    r, g, b = into * s.left[0], into * s.left[1], into * s.left[2]
        elif pick < s.chances.cosine + s.chances.substrate + s.chances.facets:
            if s.smooth:
                fr, fg, fb, mr, mg, mb = facets_reflect(m, k, oz, s.ior, False, s.film)
                shine = s.metal * m[SPECULAR_WEIGHT, k]
                kind, ix, iy, iz = SPECULAR, -ox, -oy, oz
                r = (shine * mr + s.opaque * fr * tint_at_facets(m, k, 0, s)) / s.chances.facets
                g = (shine * mg + s.opaque * fg * tint_at_facets(m, k, 1, s)) / s.chances.facets
                b = (shine * mb + s.opaque * fb * tint_at_facets(m, k, 2, s)) / s.chances.facets
            else:
                # What is left of this number says whether light that way is shadowed.
                pick = (pick - s.chances.cosine - s.chances.substrate) / s.chances.facets
                ix, iy, iz, leaves = mirror_at_facets(s, ox, oy, oz, pick, u, v)
                if not leaves:
                    return nowhere
                kind, wide = NON_SPECULAR, max(s.ax, s.ay)
        elif s.chances.clear > 0.0:
            pick = min(
                (pick - (s.chances.cosine + s.chances.substrate + s.chances.facets)) / s.chances.clear, 0.99999994
            )
            kind, ix, iy, iz, r, g, b, _, wide = sample_clear(m, k, s, ox, oy, oz, pick, u, v)
            scale = s.clear / s.chances.clear  # the clear part's share over its chance
            r, g, b = r * scale, g * scale, b * scale
    if kind == ABSORBED:
        return nowhere
    if kind == NON_SPECULAR:
        vr, vg, vb, density, dr, dg, db = evaluate(m, k, s, ox, oy, oz, ix, iy, iz, table)
        if not density > 0.0:
            return nowhere
        r, g, b = vr / density, vg / density, vb / density
        return NON_SPECULAR, ix, iy, iz, r, g, b, density, wide, dr / density, dg / density, db / density
    if kind == SPECULAR:
        left = 1.0
        if s.layered:
            left = s.below_fuzz
            if m[COAT_WEIGHT, k] > 0.0:
                into = within_coat(m, k, oz)
                left *= s.below_coat
                r *= coat_tint(m, k, 0, into, into, s.coat_mean)
                g *= coat_tint(m, k, 1, into, into, s.coat_mean)
                b *= coat_tint(m, k, 2, into, into, s.coat_mean)
        return SPECULAR, ix, iy, iz, r * left, g * left, b * left, 1.0, 0.0, 0.0, 0.0, 0.0
    cr, cg, cb = layers_let_through(m, k, s, oz, -iz)
    if kind == SUBSURFACE and m[COAT_WEIGHT, k] > 0.0:
        # What comes out goes through the coat again, to all sides alike: both passes are counted here, the second at the mean cosine.
        into, out = within_coat(m, k, oz), within_coat(m, k, 2.0 / 3.0)
        left = s.below_fuzz * s.below_coat
        cr = left * coat_tint(m, k, 0, into, out, s.coat_mean)
        cg = left * coat_tint(m, k, 1, into, out, s.coat_mean)
        cb = left * coat_tint(m, k, 2, into, out, s.coat_mean)
    return kind, ix, iy, iz, r * cr, g * cg, b * cb, 1.0, wide, 0.0, 0.0, 0.0
