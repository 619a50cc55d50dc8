"""How much light a rough boundary reflects and lets through in all, tabled by view angle, roughness and index.

Single scattering loses the light that facets throw among each other. The tables say how much is left, so that it can be given back
and so that the rest goes to what lies below: C. Kulla and A. Conty, "Revisiting Physically Based Shading at Imageworks", SIGGRAPH
2017 course; E. Turquin, "Practical multiple scattering compensation for microfacet models", 2019. The tables ship with the
program (`albedo.npy`); `python -m texallon.core.shade.albedo` computes them anew, by stratified visible-normal sampling without
random numbers.

One array `(PLANES, ROUGHNESSES, ANGLES + 1)`. Angles are even in √cosine, roughness is even; the last column is the mean over the
cosine-weighted hemisphere. Planes:

* three sets of `INDICES`, even in the root of (η − 1) / (η + 1): what a boundary reflects seen from its thinner side (`REFLECT`), and what
  it reflects and lets through in all, seen from its thinner and its denser side (`BOTH`, `BOTH_INSIDE`);
* `MIRROR`: a perfect reflector;
* `BRUSHED`: the same for brushed facets, of `BRUSHINGS` strengths × `AZIMUTHS` of the view from along to across the grain.
"""

from functools import cache
from math import cos, pi, sin, sqrt
from pathlib import Path

import numpy as np

from texallon.core.kernel import Array, Float, Int, inlined, kernel
from texallon.core.shade.fresnel import fresnel_dielectric
from texallon.core.shade.ggx import brushed_alphas, brushed_lambda, brushed_sample, ggx_lambda, ggx_sample

ANGLES, ROUGHNESSES, INDICES = 24, 24, 32
LARGEST_ROOT = 0.5
"""√F0 of the largest index in the table: (3 − 1) / (3 + 1)."""

REFLECT, BOTH, BOTH_INSIDE, MIRROR = (INDICES * n for n in range(4))
BRUSHED = MIRROR + 1
BRUSHINGS, AZIMUTHS = 8, 6
PLANES = BRUSHED + BRUSHINGS * AZIMUTHS

FILE = Path(__file__).with_name("albedo.npy")


@cache
def albedo_table() -> Array:
    """The shipped table, `(PLANES, ROUGHNESSES, ANGLES + 1)`, read once per process.

    Returns
    -------
    Array
        Contiguous float32, shares 0…1.
    """
    stored: Array = np.ascontiguousarray(np.load(FILE), np.float32)
    if stored.shape != (PLANES, ROUGHNESSES, ANGLES + 1):
        raise RuntimeError(f"{FILE.name} holds {stored.shape}: compute it anew")
    return stored


def compute_table(strata: int = 28) -> Array:
    """Compute the table; `strata`² samples an entry.

    Parameters
    ----------
    strata : int, optional
        Samples along a side of the square that is drawn from.
    """
    table = np.zeros((PLANES, ROUGHNESSES, ANGLES + 1), np.float32)
    fill_boundaries(table, strata)
    fill_mirror(table, strata)
    fill_means(table)
    fill_brushed(table, strata)
    return table


@inlined
def _angle(i: Int) -> Float:
    return max((i / (ANGLES - 1)) ** 2, 1e-4)


@kernel
def fill_boundaries(table: Array, strata: Int) -> None:
    """The sets by index: every facet either reflects or refracts; what leaves on the wrong side or is shadowed is lost.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    strata : int
        Samples along a side of the square that is drawn from.
    """
    for k in range(INDICES):
        root = LARGEST_ROOT * (k / (INDICES - 1)) ** 2
        ior = (1.0 + root) / (1.0 - root)
        for j in range(ROUGHNESSES):
            alpha = max((j / (ROUGHNESSES - 1)) ** 2, 1e-4)
            for i in range(ANGLES):
                mu = _angle(i)
                ox = sqrt(1.0 - mu * mu)
                shadow = ggx_lambda(mu, alpha)
                for side in range(2):
                    eta = ior if side == 0 else 1.0 / ior
                    reflected, through = 0.0, 0.0
                    for a in range(strata):
                        for b in range(strata):
                            hx, _, hz = ggx_sample(ox, 0.0, mu, alpha, (a + 0.5) / strata, (b + 0.5) / strata)
                            oh = min(ox * hx + mu * hz, 1.0)
                            if oh <= 0.0:
                                continue
                            f = fresnel_dielectric(oh, eta)
                            iz = 2.0 * oh * hz - mu
                            if iz > 0.0:
                                reflected += f * (1.0 + shadow) / (1.0 + shadow + ggx_lambda(iz, alpha))
                            sine2 = (1.0 - oh * oh) / (eta * eta)
                            if sine2 < 1.0:
                                iz = (oh / eta - sqrt(1.0 - sine2)) * hz - mu / eta
                                if iz < 0.0:
                                    through += (1.0 - f) / (1.0 + ggx_lambda(iz, alpha))
                    count = strata * strata
                    table[(BOTH if side == 0 else BOTH_INSIDE) + k, j, i] = (reflected + through) / count
                    if side == 0:
                        table[REFLECT + k, j, i] = reflected / count


@kernel
def fill_mirror(table: Array, strata: Int) -> None:
    """The sets of a perfect reflector.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    strata : int
        Samples along a side of the square that is drawn from.
    """
    for j in range(ROUGHNESSES):
        alpha = max((j / (ROUGHNESSES - 1)) ** 2, 1e-4)
        for i in range(ANGLES):
            mu = _angle(i)
            table[MIRROR, j, i] = mirror_once(sqrt(1.0 - mu * mu), 0.0, mu, alpha, alpha, strata)


@inlined
def mirror_once(ox: Float, oy: Float, oz: Float, ax: Float, ay: Float, strata: Int) -> Float:
    """What brushed facets of a perfect reflector give back after one bounce.

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
    strata : int
        Samples along a side of the square that is drawn from.
    """
    total = 0.0
    shadow = brushed_lambda(ox, oy, oz, ax, ay)
    for a in range(strata):
        for b in range(strata):
            hx, hy, hz = brushed_sample(ox, oy, oz, ax, ay, (a + 0.5) / strata, (b + 0.5) / strata)
            oh = ox * hx + oy * hy + oz * hz
            ix, iy, iz = 2.0 * oh * hx - ox, 2.0 * oh * hy - oy, 2.0 * oh * hz - oz
            if iz > 0.0 and oh > 0.0:
                total += (1.0 + shadow) / (1.0 + shadow + brushed_lambda(ix, iy, iz, ax, ay))
    return total / (strata * strata)


@kernel
def fill_means(table: Array) -> None:
    """2 ∫ E(μ) μ dμ, by the midpoint rule on the interpolated table.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    """
    for k in range(MIRROR + 1):
        for j in range(ROUGHNESSES):
            table[k, j, ANGLES] = _mean(table, k, j)


@inlined
def _mean(table: Array, k: Int, j: Int) -> Float:
    steps, total = 512, 0.0
    for s in range(steps):
        mu = (s + 0.5) / steps
        x = sqrt(mu) * (ANGLES - 1)
        i = min(int(x), ANGLES - 2)
        total += (table[k, j, i] + (x - i) * (table[k, j, i + 1] - table[k, j, i])) * mu
    return 2.0 * total / steps


@kernel
def fill_brushed(table: Array, strata: Int) -> None:
    """Brushed mirrors; their mean is over all azimuths.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    strata : int
        Samples along a side of the square that is drawn from.
    """
    for a in range(BRUSHINGS):
        for j in range(ROUGHNESSES):
            ax, ay = brushed_alphas(j / (ROUGHNESSES - 1), a / (BRUSHINGS - 1))
            ax, ay = max(ax, 1e-4), max(ay, 1e-4)
            mean = 0.0
            for p in range(AZIMUTHS):
                phi = 0.5 * pi * p / (AZIMUTHS - 1)
                plane = BRUSHED + a * AZIMUTHS + p
                for i in range(ANGLES):
                    mu = _angle(i)
                    ring = sqrt(1.0 - mu * mu)
                    table[plane, j, i] = mirror_once(ring * cos(phi), ring * sin(phi), mu, ax, ay, strata)
                weight = 0.5 if p == 0 or p == AZIMUTHS - 1 else 1.0
                mean += weight / (AZIMUTHS - 1) * _mean(table, plane, j)
            for p in range(AZIMUTHS):
                table[BRUSHED + a * AZIMUTHS + p, j, ANGLES] = mean


@inlined
def lookup_mean(table: Array, k: Int, roughness: Float) -> Float:
    """A set's mean over all directions, at a roughness.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    k : int
        Column of the material.
    roughness : float
        0…1.
    """
    y = min(max(roughness, 0.0), 1.0) * (ROUGHNESSES - 1)
    j = min(int(y), ROUGHNESSES - 2)
    return table[k, j, ANGLES] + (y - j) * (table[k, j + 1, ANGLES] - table[k, j, ANGLES])


@inlined
def lookup_row(table: Array, k: Int, mu: Float, roughness: Float) -> Float:
    """A set at a cosine and a roughness.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    k : int
        Column of the material.
    mu : float
        Cosine, 0…1.
    roughness : float
        0…1.
    """
    x = sqrt(min(max(mu, 0.0), 1.0)) * (ANGLES - 1)
    i = min(int(x), ANGLES - 2)
    fx = x - i
    y = min(max(roughness, 0.0), 1.0) * (ROUGHNESSES - 1)
    j = min(int(y), ROUGHNESSES - 2)
    fy = y - j
    low = table[k, j, i] + fx * (table[k, j, i + 1] - table[k, j, i])
    high = table[k, j + 1, i] + fx * (table[k, j + 1, i + 1] - table[k, j + 1, i])
    return low + fy * (high - low)


@inlined
def _plane(ior: Float) -> Float:
    return sqrt(min(max((ior - 1.0) / (ior + 1.0), 0.0) / LARGEST_ROOT, 1.0)) * (INDICES - 1)


@inlined
def lookup_index(table: Array, plane: Int, mu: Float, roughness: Float, ior: Float) -> Float:
    """One of the sets by index, at `ior` ≥ 1.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    plane : int
        Of the table.
    mu : float
        Cosine, 0…1.
    roughness : float
        0…1.
    ior : float
        Index of refraction, at least 1.
    """
    z = _plane(ior)
    k = min(int(z), INDICES - 2)
    low = lookup_row(table, plane + k, mu, roughness)
    return low + (z - k) * (lookup_row(table, plane + k + 1, mu, roughness) - low)


@inlined
def dielectric_albedo(table: Array, mu: Float, roughness: Float, ior: Float) -> Float:
    """Share of light from cosine `mu` that a dielectric boundary of index `ior` ≥ 1 reflects, seen from its thinner side.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    mu : float
        Cosine, 0…1.
    roughness : float
        0…1.
    ior : float
        Index of refraction, at least 1.
    """
    return lookup_index(table, REFLECT, mu, roughness, ior)


@inlined
def dielectric_mean_albedo(table: Array, roughness: Float, ior: Float) -> Float:
    """The same for light from all sides.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    roughness : float
        0…1.
    ior : float
        Index of refraction, at least 1.
    """
    z = _plane(ior)
    k = min(int(z), INDICES - 2)
    low = lookup_mean(table, REFLECT + k, roughness)
    return low + (z - k) * (lookup_mean(table, REFLECT + k + 1, roughness) - low)


@inlined
def boundary_total(table: Array, mu: Float, roughness: Float, eta: Float) -> Float:
    """What a clear boundary reflects and lets through in all after one bounce.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    mu : float
        Cosine, 0…1.
    roughness : float
        0…1.
    eta : float
        Index of the far side over that of the near side.
    """
    if eta >= 1.0:
        return lookup_index(table, BOTH, mu, roughness, eta)
    return lookup_index(table, BOTH_INSIDE, mu, roughness, 1.0 / eta)


@inlined
def brushed_albedo(table: Array, x: Float, y: Float, z: Float, roughness: Float, brushing: Float) -> Float:
    """Share of light from a direction that a perfect reflector's facets, brushed or not, give back after one bounce.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    x, y : float
        Across the normal.
    z : float
        Cosine to the normal, 0…1.
    roughness : float
        0…1.
    brushing : float
        Anisotropy, 0…1.
    """
    if brushing <= 0.0:
        return lookup_row(table, MIRROR, z, roughness)
    azimuth = np.arctan2(abs(y), abs(x)) / (0.5 * pi) * (AZIMUTHS - 1)
    p = min(int(azimuth), AZIMUTHS - 2)
    fp = azimuth - p
    strength = min(brushing, 1.0) * (BRUSHINGS - 1)
    a = min(int(strength), BRUSHINGS - 2)
    plane = BRUSHED + a * AZIMUTHS + p
    low = lookup_row(table, plane, z, roughness)
    low += fp * (lookup_row(table, plane + 1, z, roughness) - low)
    plane += AZIMUTHS
    high = lookup_row(table, plane, z, roughness)
    high += fp * (lookup_row(table, plane + 1, z, roughness) - high)
    return low + (strength - a) * (high - low)


@inlined
def brushed_mean_albedo(table: Array, roughness: Float, brushing: Float) -> Float:
    """The same for light from all sides.

    Parameters
    ----------
    table : Array
        See `albedo.albedo_table`.
    roughness : float
        0…1.
    brushing : float
        Anisotropy, 0…1.
    """
    if brushing <= 0.0:
        return lookup_mean(table, MIRROR, roughness)
    strength = min(brushing, 1.0) * (BRUSHINGS - 1)
    a = min(int(strength), BRUSHINGS - 2)
    low = lookup_mean(table, BRUSHED + a * AZIMUTHS, roughness)
    return low + (strength - a) * (lookup_mean(table, BRUSHED + (a + 1) * AZIMUTHS, roughness) - low)


if __name__ == "__main__":
    np.save(FILE, compute_table())
