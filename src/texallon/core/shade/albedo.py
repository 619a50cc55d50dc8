"""How much light a rough boundary reflects in all, tabled by view angle, roughness and index.

Used to give back what single scattering loses and to leave the rest to what lies below (C. Kulla and A. Conty,
"Revisiting Physically Based Shading at Imageworks", SIGGRAPH 2017 course). Computed once per process by stratified
visible-normal sampling, in about a tenth of a second; no random numbers, so always the same.
"""

from functools import cache
from math import sqrt

import numpy as np

from texallon.core.kernel import Array, Real, Whole, inlined, kernel
from texallon.core.shade.fresnel import fresnel_dielectric
from texallon.core.shade.ggx import ggx_g1, ggx_g2, ggx_sample

ANGLES, ROUGHNESSES, INDICES = 24, 16, 12
LARGEST_ROOT = 0.5
"""√F0 of the largest index in the table: (3 − 1) / (3 + 1)."""


@cache
def albedo_tables() -> tuple[Array, Array]:
    """`(directional, mean)`: shapes `(INDICES + 1, ROUGHNESSES, ANGLES)` and `(INDICES + 1, ROUGHNESSES)`.

    The last index row is a perfect reflector (F = 1). Angles are even in √cosine, roughness is even, indices are
    even in √F0.
    """
    directional = np.empty((INDICES + 1, ROUGHNESSES, ANGLES), np.float32)
    fill_albedo(directional, 20)
    mean = np.empty((INDICES + 1, ROUGHNESSES), np.float32)
    fill_mean(directional, mean)
    return directional, mean


@kernel
def fill_albedo(table: Array, strata: Whole) -> None:
    for k in range(table.shape[0]):
        root = LARGEST_ROOT * k / (INDICES - 1)
        eta = (1.0 + root) / (1.0 - root)
        for j in range(table.shape[1]):
            roughness = j / (ROUGHNESSES - 1)
            alpha = max(roughness * roughness, 1e-4)
            for i in range(table.shape[2]):
                mu = max((i / (ANGLES - 1)) ** 2, 1e-4)
                ox = sqrt(1.0 - mu * mu)
                total = 0.0
                for a in range(strata):
                    for b in range(strata):
                        hx, _, hz = ggx_sample(ox, 0.0, mu, alpha, (a + 0.5) / strata, (b + 0.5) / strata)
                        oh = ox * hx + mu * hz
                        iz = 2.0 * oh * hz - mu
                        if iz > 0.0 and oh > 0.0:
                            f = 1.0 if k == INDICES else fresnel_dielectric(min(oh, 1.0), eta)
                            total += f * ggx_g2(mu, iz, alpha) / ggx_g1(mu, alpha)
                table[k, j, i] = total / (strata * strata)


@kernel
def fill_mean(directional: Array, mean: Array) -> None:
    """2 ∫ E(μ) μ dμ, by the midpoint rule on the interpolated table."""
    steps = 256
    for k in range(mean.shape[0]):
        for j in range(mean.shape[1]):
            total = 0.0
            for s in range(steps):
                mu = (s + 0.5) / steps
                x = sqrt(mu) * (ANGLES - 1)
                i = min(int(x), ANGLES - 2)
                e = directional[k, j, i] + (x - i) * (directional[k, j, i + 1] - directional[k, j, i])
                total += e * mu
            mean[k, j] = 2.0 * total / steps


@inlined
def lookup_mean(mean: Array, k: Whole, roughness: Real) -> Real:
    y = min(max(roughness, 0.0), 1.0) * (ROUGHNESSES - 1)
    j = min(int(y), ROUGHNESSES - 2)
    return mean[k, j] + (y - j) * (mean[k, j + 1] - mean[k, j])


@inlined
def lookup_row(table: Array, k: Whole, mu: Real, roughness: Real) -> Real:
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
def dielectric_albedo(table: Array, mu: Real, roughness: Real, ior: Real) -> Real:
    """Share of light from cosine `mu` that a dielectric boundary of index `ior` ≥ 1 reflects."""
    z = min(max((ior - 1.0) / (ior + 1.0), 0.0), LARGEST_ROOT) / LARGEST_ROOT * (INDICES - 1)
    k = min(int(z), INDICES - 2)
    low = lookup_row(table, k, mu, roughness)
    return low + (z - k) * (lookup_row(table, k + 1, mu, roughness) - low)


@inlined
def dielectric_mean_albedo(mean: Array, roughness: Real, ior: Real) -> Real:
    """The same for light from all sides."""
    z = min(max((ior - 1.0) / (ior + 1.0), 0.0), LARGEST_ROOT) / LARGEST_ROOT * (INDICES - 1)
    k = min(int(z), INDICES - 2)
    low = lookup_mean(mean, k, roughness)
    return low + (z - k) * (lookup_mean(mean, k + 1, roughness) - low)


@inlined
def mirror_albedo(table: Array, mu: Real, roughness: Real) -> Real:
    """Share of light that a perfect reflector's facets give back after one bounce."""
    return lookup_row(table, INDICES, mu, roughness)


@inlined
def mirror_mean_albedo(mean: Array, roughness: Real) -> Real:
    return lookup_mean(mean, INDICES, roughness)
