"""The coat: a clear dielectric layer over everything else, after the OpenPBR Surface specification 1.1.

What lies below is seen through it twice: tinted along the refracted paths, weakened by what the coat reflects, and darkened by
light that goes back and forth between the two. The last is Δ = (1 − K) / (1 − ρ K), where K is the share of light from below that
the coat throws back and ρ the albedo below; for a film of water over ground this is the model of J. Lekner and M. C. Dorf, "Why
some things are darker when wet", Applied Optics 27(7), 1988.
"""

from math import sqrt

from texallon.core.kernel import Array, Real, Whole, inlined
from texallon.core.shade.albedo import dielectric_albedo, dielectric_mean_albedo
from texallon.core.shade.base import ground_colour
from texallon.core.shade.rows import (
    COAT_COLOR,
    COAT_DARKENING,
    COAT_IOR,
    COAT_ROUGHNESS,
    COAT_WEIGHT,
    METALNESS,
    SPECULAR_ROUGHNESS,
    TRANSMISSION_WEIGHT,
)


@inlined
def coat_albedo(m: Array, k: Whole, z: Real, table: Array) -> Real:
    """Share of light from cosine `z` that the coat reflects, its weight included."""
    return m[COAT_WEIGHT, k] * dielectric_albedo(table, z, m[COAT_ROUGHNESS, k], m[COAT_IOR, k])


@inlined
def coat_passes(m: Array, k: Whole, oz: Real, iz: Real, table: Array, mean: Array) -> tuple[Real, Real]:
    """What the coat leaves of light between two directions: to a diffuse ground, and to facets.

    The first is exact for a diffuse ground (Kulla & Conty 2017); the second the smaller of what either direction leaves, which
    is reciprocal and never gains.
    """
    back_o, back_i = coat_albedo(m, k, oz, table), coat_albedo(m, k, iz, table)
    back = m[COAT_WEIGHT, k] * dielectric_mean_albedo(mean, m[COAT_ROUGHNESS, k], m[COAT_IOR, k])
    return (1.0 - back_o) * (1.0 - back_i) / max(1.0 - back, 1e-6), 1.0 - max(back_o, back_i)


@inlined
def coat_tint(m: Array, k: Whole, c: Whole, oz: Real, iz: Real, mean: Array) -> Real:
    """Colour and darkening of what is seen through the coat, for one channel."""
    weight, ior = m[COAT_WEIGHT, k], m[COAT_IOR, k]
    inverse2 = 1.0 / (ior * ior)
    # Cosines within the coat: its colour is what is left after going straight in and out.
    into = sqrt(max(1.0 - (1.0 - oz * oz) * inverse2, 1e-6))
    out = sqrt(max(1.0 - (1.0 - iz * iz) * inverse2, 1e-6))
    left = m[COAT_COLOR + c, k] ** (0.5 * (1.0 / into + 1.0 / out)) if m[COAT_COLOR + c, k] < 1.0 else 1.0
    reflects = dielectric_mean_albedo(mean, m[COAT_ROUGHNESS, k], ior)
    rough = 1.0 + m[METALNESS, k] * (m[SPECULAR_ROUGHNESS, k] - 1.0)
    diffuse = 1.0 - (1.0 - reflects) * inverse2
    thrown = reflects + rough * (diffuse - reflects)
    ground = ground_colour(m, k, c) * (1.0 - m[TRANSMISSION_WEIGHT, k])
    darker = (1.0 - thrown) / (1.0 - ground * thrown)
    darker = 1.0 + m[COAT_DARKENING, k] * (darker - 1.0)
    return 1.0 + weight * (left * darker - 1.0)
