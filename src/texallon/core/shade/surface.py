"""The surface: what a point gives back and lets through, from its channel values.

The OpenPBR Surface specification 1.1: fuzz over a coat over the base (see `fuzz`, `coat`, `base`). Local frame, z along the
normal on the side of the viewer `o`; `i` points to the light. Material columns are rows of one `(MATERIAL, n)` array; see `rows`.

What fuzz leaves to the layers below is the smaller of 1 − E(o) and 1 − E(i), as for facets below a coat: never a gain.
"""

from texallon.core.kernel import Array, Real, Whole, inlined, kernel
from texallon.core.shade.base import (
    MIRRORED,
    NOTHING,
    SMOOTH,
    SPREAD,
    Sampled,
    base_across,
    base_reflected,
    ground_colour,
    is_thin,
    luminance,
    sample_base,
)
from texallon.core.shade.coat import coat_albedo, coat_passes, coat_tint
from texallon.core.shade.fresnel import fresnel_dielectric
from texallon.core.shade.fuzz import fuzz_albedo, fuzz_density, fuzz_sample
from texallon.core.shade.ggx import ggx_d, ggx_g2, ggx_sample, ggx_visible, halfway
from texallon.core.shade.rows import (
    COAT_IOR,
    COAT_ROUGHNESS,
    COAT_WEIGHT,
    FUZZ_COLOR,
    FUZZ_ROUGHNESS,
    FUZZ_WEIGHT,
    TRANSMISSION_WEIGHT,
)


@inlined
def coat_chance(m: Array, k: Whole, oz: Real, table: Array) -> Real:
    """Chance of choosing the coat's reflection before anything below it."""
    if m[COAT_WEIGHT, k] <= 0.0:
        return 0.0
    back = coat_albedo(m, k, oz, table)
    body = luminance(ground_colour(m, k, 0), ground_colour(m, k, 1), ground_colour(m, k, 2))
    below = (1.0 - back) * max(body, m[TRANSMISSION_WEIGHT, k], 0.1)
    return back / (back + below)


@inlined
def fuzz_chance(m: Array, k: Whole, oz: Real) -> Real:
    """Chance of choosing the fuzz before anything below it."""
    if m[FUZZ_WEIGHT, k] <= 0.0:
        return 0.0
    back = m[FUZZ_WEIGHT, k] * fuzz_albedo(oz, m[FUZZ_ROUGHNESS, k])
    bright = luminance(m[FUZZ_COLOR, k], m[FUZZ_COLOR + 1, k], m[FUZZ_COLOR + 2, k])
    body = luminance(ground_colour(m, k, 0), ground_colour(m, k, 1), ground_colour(m, k, 2))
    below = (1.0 - back) * max(body, m[TRANSMISSION_WEIGHT, k], 0.1)
    return back * bright / (back * bright + below)


@inlined
def fuzz_passes(m: Array, k: Whole, oz: Real, iz: Real) -> Real:
    """What fuzz leaves of light between two directions to the layers below."""
    if m[FUZZ_WEIGHT, k] <= 0.0:
        return 1.0
    rough = m[FUZZ_ROUGHNESS, k]
    return 1.0 - m[FUZZ_WEIGHT, k] * max(fuzz_albedo(oz, rough), fuzz_albedo(iz, rough))


@inlined
def fuzzed(m: Array, k: Whole, r: Real, g: Real, b: Real, oz: Real, lobe: Real) -> tuple[Real, Real, Real]:
    """Light, and what fuzz of a lobe's density adds to it."""
    value = m[FUZZ_WEIGHT, k] * fuzz_albedo(oz, m[FUZZ_ROUGHNESS, k]) * lobe
    return r + value * m[FUZZ_COLOR, k], g + value * m[FUZZ_COLOR + 1, k], b + value * m[FUZZ_COLOR + 2, k]


@inlined
def tinted(m: Array, k: Whole, r: Real, g: Real, b: Real, oz: Real, iz: Real, mean: Array) -> tuple[Real, Real, Real]:
    """Light as it is seen through the coat."""
    return (
        r * coat_tint(m, k, 0, oz, iz, mean),
        g * coat_tint(m, k, 1, oz, iz, mean),
        b * coat_tint(m, k, 2, oz, iz, mean),
    )


@inlined
def coated(
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
    """As `reflected`, of all that lies below the fuzz."""
    if m[COAT_WEIGHT, k] <= 0.0 or not outside:
        return base_reflected(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean, 1.0, 1.0)
    to_ground, to_facets = coat_passes(m, k, oz, iz, table, mean)
    r, g, b, density = base_reflected(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean, to_ground, to_facets)
    r, g, b = tinted(m, k, r, g, b, oz, iz, mean)
    chance = coat_chance(m, k, oz, table)
    density *= 1.0 - chance
    rough = m[COAT_ROUGHNESS, k]
    if rough >= SMOOTH:
        _, _, hz, oh = halfway(ox, oy, oz, ix, iy, iz)
        alpha = rough * rough
        value = m[COAT_WEIGHT, k] * fresnel_dielectric(oh, m[COAT_IOR, k])
        value *= ggx_d(hz, alpha) * ggx_g2(oz, iz, alpha) / (4.0 * oz)
        r, g, b = r + value, g + value, b + value
        density += chance * ggx_visible(oz, hz, oh, alpha) / (4.0 * oh)
    return r, g, b, density


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
    """Light from `i` given back towards `o`: red, green, blue of f·cosθ, and the density of choosing `i`.

    Mirror reflection and refraction have no density and are left out. `o` lies above the surface; an `i` below it (iz < 0) is light
    that a thin wall lets through, diffuse.
    """
    if oz <= 0.0 or iz == 0.0:
        return 0.0, 0.0, 0.0, 0.0
    hairy = m[FUZZ_WEIGHT, k] > 0.0 and outside
    if iz < 0.0:
        if not is_thin(m, k):
            return 0.0, 0.0, 0.0, 0.0
        r, g, b, density = base_across(m, k, oz, iz, table, mean)
        if m[COAT_WEIGHT, k] > 0.0:
            to_ground, _ = coat_passes(m, k, oz, -iz, table, mean)
            density *= 1.0 - coat_chance(m, k, oz, table)
            r, g, b = tinted(m, k, to_ground * r, to_ground * g, to_ground * b, oz, -iz, mean)
    else:
        r, g, b, density = coated(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean)
    if hairy:
        left = fuzz_passes(m, k, oz, abs(iz))
        r, g, b = r * left, g * left, b * left
        chance = fuzz_chance(m, k, oz)
        density *= 1.0 - chance
        if iz > 0.0:
            lobe = fuzz_density(ox, oy, oz, ix, iy, iz, m[FUZZ_ROUGHNESS, k])
            r, g, b = fuzzed(m, k, r, g, b, oz, lobe)
            density += chance * lobe
    return r, g, b, density


@kernel
def ground_alone(
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
) -> tuple[Real, Real, Real]:
    """The diffuse part of `reflected`: what the ground gives back, and fuzz; for pictures that keep the parts of light apart."""
    left = fuzz_passes(m, k, oz, abs(iz)) if outside else 1.0
    if iz < 0.0:
        r, g, b, _ = reflected(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean)
        return r, g, b
    to_ground = 1.0
    if m[COAT_WEIGHT, k] > 0.0 and outside:
        to_ground, _ = coat_passes(m, k, oz, iz, table, mean)
    r, g, b, _ = base_reflected(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean, to_ground, 0.0)
    if m[COAT_WEIGHT, k] > 0.0 and outside:
        r, g, b = tinted(m, k, r, g, b, oz, iz, mean)
    r, g, b = r * left, g * left, b * left
    if m[FUZZ_WEIGHT, k] > 0.0 and outside:
        lobe = fuzz_density(ox, oy, oz, ix, iy, iz, m[FUZZ_ROUGHNESS, k])
        r, g, b = fuzzed(m, k, r, g, b, oz, lobe)
    return r, g, b


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
) -> Sampled:
    """A direction to follow: kind, direction, weight red/green/blue (f·cosθ over density), density, and the lobe's width (α).

    For `MIRRORED`, `THROUGH` and `INTO` the density is 1 and stands for a chance. `outside` says whether the viewer is on the
    side the geometry's normal points to.
    """
    nowhere = (NOTHING, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    below = 1.0
    chosen = 0  # 1 for the fuzz, 2 for the coat
    varnished = m[COAT_WEIGHT, k] > 0.0 and outside
    wide = m[COAT_ROUGHNESS, k]
    kind, ix, iy, iz, r, g, b, density, soft = nowhere
    if outside and m[FUZZ_WEIGHT, k] > 0.0:
        chance = fuzz_chance(m, k, oz)
        if pick < chance:
            chosen = 1
            ix, iy, iz = fuzz_sample(ox, oy, oz, m[FUZZ_ROUGHNESS, k], u, v)
            kind, soft = SPREAD, 1.0
        below = 1.0 - chance
        pick = (pick - chance) / below if below > 0.0 else 0.0
    if chosen == 0 and varnished:
        chance = coat_chance(m, k, oz, table)
        if pick < chance:
            if wide < SMOOTH:
                f = m[COAT_WEIGHT, k] * fresnel_dielectric(oz, m[COAT_IOR, k]) / (chance * below)
                f *= fuzz_passes(m, k, oz, oz)
                return MIRRORED, -ox, -oy, oz, f, f, f, 1.0, 0.0
            chosen = 2
            hx, hy, hz = ggx_sample(ox, oy, oz, wide * wide, u, v)
            oh = ox * hx + oy * hy + oz * hz
            ix, iy, iz = 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, 2.0 * oh * hz - oz
            kind, soft = SPREAD, wide * wide
        below *= 1.0 - chance
        pick = (pick - chance) / (1.0 - chance) if chance < 1.0 else 0.0
    if chosen == 0:
        kind, ix, iy, iz, r, g, b, density, soft = sample_base(m, k, ox, oy, oz, outside, pick, u, v, table)
    if kind == NOTHING:
        return nowhere
    if kind == SPREAD:
        if iz <= 0.0 and not (iz < 0.0 and chosen == 0 and soft >= 1.0 and is_thin(m, k)):
            return nowhere
        r, g, b, density = reflected(m, k, ox, oy, oz, ix, iy, iz, outside, table, mean)
        if not density > 0.0:
            return nowhere
        return SPREAD, ix, iy, iz, r / density, g / density, b / density, density, soft
    if outside and below > 0.0:
        left = fuzz_passes(m, k, oz, oz) / below
        if varnished:
            if kind == MIRRORED:
                _, passes = coat_passes(m, k, oz, oz, table, mean)
                left *= passes
            else:
                left *= 1.0 - coat_albedo(m, k, oz, table)
            r, g, b = tinted(m, k, r, g, b, oz, oz, mean)
        r, g, b = r * left, g * left, b * left
    return kind, ix, iy, iz, r, g, b, density, soft
