"""The coat: a clear dielectric layer over everything else, after the OpenPBR Surface specification 1.1.

What lies below is seen through it twice: tinted along the refracted paths, weakened by what the coat reflects, and darkened by
light that goes back and forth between the two. The last is Δ = (1 − K) / (1 − ρ K), where K is the share of light from below that
the coat throws back and ρ the albedo below; for a film of water over ground this is the model of J. Lekner and M. C. Dorf, "Why
some things are darker when wet", Applied Optics 27(7), 1988. A clear body below counts as ρ = 1: it keeps what comes in.

A coat has a normal and a grain of its own. `to_coat` turns directions from the base's local frame into the coat's.
"""

from math import sqrt

import numpy as np

from texallon.core.kernel import Array, Float, Int, inlined, kernel
from texallon.core.shade.albedo import dielectric_albedo, dielectric_mean_albedo
from texallon.core.shade.base import SMOOTH, base_albedo
from texallon.core.shade.fresnel import fresnel_dielectric
from texallon.core.shade.ggx import brushed_alphas, brushed_d, brushed_lambda, brushed_sample, halfway
from texallon.core.shade.rows import (
    COAT_BRUSHING,
    COAT_COLOR,
    COAT_DARKENING,
    COAT_IOR,
    COAT_NORMAL,
    COAT_ROUGHNESS,
    COAT_TANGENT,
    COAT_WEIGHT,
    METALNESS,
    NEAR_INDEX,
    SPECULAR_ROUGHNESS,
    THIN_WALLED,
    TRANSMISSION_WEIGHT,
)


@inlined
def coat_index(m: Array, k: Int) -> Float:
    """The coat's index against what lies outside, or the other way round where that is denser: at least 1.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    """
    ratio = m[COAT_IOR, k] / m[NEAR_INDEX, k]
    return ratio if ratio >= 1.0 else 1.0 / ratio


@inlined
def has_own_basis(m: Array, k: Int) -> bool:
    """Whether the coat's frame differs from the base's.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    """
    own: bool = (
        m[COAT_NORMAL, k] != 0.0
        or m[COAT_NORMAL + 1, k] != 0.0
        or m[COAT_NORMAL + 2, k] != 0.0
        or m[COAT_BRUSHING, k] > 0.0
    )
    return own


@inlined
def coat_basis(m: Array, k: Int) -> tuple[Float, Float, Float, Float, Float, Float, Float, Float, Float]:
    """The coat's tangent, bitangent and normal in the base's local frame (rows hold them there while light is scattered).

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    """
    nx, ny, nz = m[COAT_NORMAL, k], m[COAT_NORMAL + 1, k], m[COAT_NORMAL + 2, k]
    if nx == 0.0 and ny == 0.0 and nz == 0.0:
        nz = 1.0
    tx, ty, tz = m[COAT_TANGENT, k], m[COAT_TANGENT + 1, k], m[COAT_TANGENT + 2, k]
    part = tx * nx + ty * ny + tz * nz
    tx, ty, tz = tx - part * nx, ty - part * ny, tz - part * nz
    size = sqrt(tx * tx + ty * ty + tz * tz)
    if size < 1e-4:
        # Any direction across the normal: x made perpendicular, or y where the normal lies along x.
        tx, ty, tz = (1.0 - nx * nx, -nx * ny, -nx * nz) if abs(nx) < 0.9 else (-ny * nx, 1.0 - ny * ny, -ny * nz)
        size = sqrt(tx * tx + ty * ty + tz * tz)
    tx, ty, tz = tx / size, ty / size, tz / size
    return tx, ty, tz, ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx, nx, ny, nz


@inlined
def to_coat(m: Array, k: Int, x: Float, y: Float, z: Float) -> tuple[Float, Float, Float]:
    """A direction of the base's local frame in the coat's.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    x, y : float
        Across the normal.
    z : float
        Cosine to the normal, 0…1.
    """
    if not has_own_basis(m, k):
        return x, y, z
    tx, ty, tz, bx, by, bz, nx, ny, nz = coat_basis(m, k)
    return x * tx + y * ty + z * tz, x * bx + y * by + z * bz, x * nx + y * ny + z * nz


@inlined
def from_coat(m: Array, k: Int, x: Float, y: Float, z: Float) -> tuple[Float, Float, Float]:
    """The way back.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    x, y : float
        Across the normal.
    z : float
        Cosine to the normal, 0…1.
    """
    if not has_own_basis(m, k):
        return x, y, z
    tx, ty, tz, bx, by, bz, nx, ny, nz = coat_basis(m, k)
    return x * tx + y * bx + z * nx, x * ty + y * by + z * ny, x * tz + y * bz + z * nz


@inlined
def coat_albedo(m: Array, k: Int, x: Float, y: Float, z: Float, u: Float, v: Float, table: Array) -> Float:
    """Share of light from a direction (base's frame) that the coat reflects, its weight included.

    Of a brushed coat one facet, drawn by `u` and `v`, stands for all: right on average.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    x, y : float
        Across the normal.
    z : float
        Cosine to the normal, 0…1.
    u, v : float
        Random number in [0, 1).
    table : Array
        See `albedo.albedo_table`.
    """
    cx, cy, cz = to_coat(m, k, x, y, z)
    rough, brushing = m[COAT_ROUGHNESS, k], m[COAT_BRUSHING, k]
    if cz <= 1e-4:
        return 0.0
    if brushing <= 0.0 or rough < SMOOTH:
        return m[COAT_WEIGHT, k] * dielectric_albedo(table, cz, rough, coat_index(m, k))
    ax, ay = brushed_alphas(rough, brushing)
    hx, hy, hz = brushed_sample(cx, cy, cz, ax, ay, u, v)
    oh = min(cx * hx + cy * hy + cz * hz, 1.0)
    ix, iy, iz = 2.0 * oh * hx - cx, 2.0 * oh * hy - cy, 2.0 * oh * hz - cz
    if iz <= 0.0:
        return 0.0
    seen = 1.0 + brushed_lambda(cx, cy, cz, ax, ay)
    value = fresnel_dielectric(oh, coat_index(m, k)) * seen / (seen + brushed_lambda(ix, iy, iz, ax, ay))
    return m[COAT_WEIGHT, k] * value


@inlined
def coat_at(m: Array, k: Int, z: Float, table: Array) -> Float:
    """The same at a cosine alone, for averages.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    z : float
        Cosine to the normal, 0…1.
    table : Array
        See `albedo.albedo_table`.
    """
    return m[COAT_WEIGHT, k] * dielectric_albedo(table, z, m[COAT_ROUGHNESS, k], coat_index(m, k))


@inlined
def coat_lobe(
    m: Array, k: Int, ox: Float, oy: Float, oz: Float, ix: Float, iy: Float, iz: Float
) -> tuple[Float, Float]:
    """A rough coat's reflection between two directions (base's frame), f·cosθ without its weight, and the density of choosing `i`.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
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
    ox, oy, oz = to_coat(m, k, ox, oy, oz)
    ix, iy, iz = to_coat(m, k, ix, iy, iz)
    if oz <= 1e-4 or iz <= 0.0:
        return 0.0, 0.0
    hx, hy, hz, oh = halfway(ox, oy, oz, ix, iy, iz)
    ax, ay = brushed_alphas(m[COAT_ROUGHNESS, k], m[COAT_BRUSHING, k])
    d = brushed_d(hx, hy, hz, ax, ay) / (4.0 * oz)
    shadow = brushed_lambda(ox, oy, oz, ax, ay)
    value = fresnel_dielectric(oh, coat_index(m, k)) * d / (1.0 + shadow + brushed_lambda(ix, iy, iz, ax, ay))
    return value, d / (1.0 + shadow)


@inlined
def sample_coat(
    m: Array, k: Int, ox: Float, oy: Float, oz: Float, u: Float, v: Float
) -> tuple[Float, Float, Float, bool]:
    """A direction in proportion to a rough coat's visible facets (base's frame), and whether it leaves the coat.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    u, v : float
        Random number in [0, 1).
    """
    ox, oy, oz = to_coat(m, k, ox, oy, oz)
    if oz <= 1e-4:
        return 0.0, 0.0, 1.0, False
    ax, ay = brushed_alphas(m[COAT_ROUGHNESS, k], m[COAT_BRUSHING, k])
    hx, hy, hz = brushed_sample(ox, oy, oz, ax, ay, u, v)
    oh = ox * hx + oy * hy + oz * hz
    ix, iy, iz = 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, 2.0 * oh * hz - oz
    leaves = iz > 0.0
    ix, iy, iz = from_coat(m, k, ix, iy, iz)
    return ix, iy, iz, leaves


@inlined
def within_coat(m: Array, k: Int, z: Float) -> Float:
    """Cosine within the coat of light that comes at cosine `z`.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    z : float
        Cosine to the normal, 0…1.
    """
    inverse = m[NEAR_INDEX, k] / m[COAT_IOR, k]
    return sqrt(max(1.0 - (1.0 - z * z) * inverse * inverse, 1e-6))


@inlined
def coat_pass(m: Array, k: Int, c: Int, z: Float) -> Float:
    """Colour of light that goes once through the coat, which would be the root of the coat's colour straight on.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    z : float
        Cosine to the normal, 0…1.
    """
    colour = m[COAT_COLOR + c, k]
    left = colour ** (0.5 / within_coat(m, k, z)) if colour < 1.0 else 1.0
    return 1.0 + m[COAT_WEIGHT, k] * (left - 1.0)


@inlined
def coat_tint(m: Array, k: Int, c: Int, into: Float, out: Float, reflects: Float) -> Float:
    """Colour and darkening of what is seen through the coat, for one channel.

    `into` and `out` are the cosines within the coat, `reflects` its mean reflectance.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    into : float
        Cosine within the coat on the way in.
    out : float
        Cosine within the coat on the way out.
    reflects : float
        Share that the coat throws back.
    """
    weight, ior = m[COAT_WEIGHT, k], coat_index(m, k)
    colour = m[COAT_COLOR + c, k]
    left = colour ** (0.5 * (1.0 / into + 1.0 / out)) if colour < 1.0 else 1.0
    rough = 1.0 + m[METALNESS, k] * (m[SPECULAR_ROUGHNESS, k] - 1.0)
    diffuse = 1.0 - (1.0 - reflects) / (ior * ior)
    thrown = reflects + rough * (diffuse - reflects)
    darker = (1.0 - thrown) / (1.0 - base_albedo(m, k, c) * thrown)
    darker = 1.0 + m[COAT_DARKENING, k] * (darker - 1.0)
    return 1.0 + weight * (left * darker - 1.0)


@inlined
def coat_mean(m: Array, k: Int, table: Array) -> Float:
    """The coat's mean reflectance, its weight left out.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    table : Array
        See `albedo.albedo_table`.
    """
    return dielectric_mean_albedo(table, m[COAT_ROUGHNESS, k], coat_index(m, k))


@inlined
def coat_emission_transmittance(m: Array, k: Int, c: Int, z: Float) -> Float:
    """What a coat leaves of light that the base sends out at a cosine.

    As the standard's published graph has it: the coat's colour, and Schlick's (1 − F0) (1 − (1 − z)⁵).

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    z : float
        Cosine to the normal, 0…1.
    """
    weight = m[COAT_WEIGHT, k]
    if weight <= 0.0:
        return 1.0
    root = (m[COAT_IOR, k] - 1.0) / (m[COAT_IOR, k] + 1.0)
    away = 1.0 - min(max(z, 0.0), 1.0)
    left = (1.0 - root * root) * (1.0 - away * away * away * away * away) * m[COAT_COLOR + c, k]
    return 1.0 + weight * (left - 1.0)


@inlined
def is_coated_side(m: Array, k: Int, outside: bool) -> bool:
    """Whether coat, fuzz and film lie between the viewer and the base: on the outside of bodies, on both sides of all else.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    outside : bool
        Whether the viewer is on the side of the geometry's normal.
    """
    thin, clear = m[THIN_WALLED, k] >= 0.5, m[TRANSMISSION_WEIGHT, k] * (1.0 - m[METALNESS, k])
    towards: bool = outside or thin or clear <= 0.0
    return towards


@kernel
def attenuate_emission(m: Array, cosine: Array, light: Array) -> None:
    """Weaken light `(3, n)` that surfaces send out by their coats, in place; `cosine (n,)` to the normal, below 0 from behind.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    cosine : Array
        To the normal, `(n,)` or one.
    light : Array
        `(3, n)`, weakened in place.
    """
    for k in range(cosine.shape[0]):
        if is_coated_side(m, k, cosine[k] > 0.0):
            for c in range(3):
                light[c, k] *= np.float32(coat_emission_transmittance(m, k, c, abs(cosine[k])))
