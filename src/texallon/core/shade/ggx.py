"""The GGX microfacet distribution, its shadowing, and sampling of the normals that a view can see.

Distribution and shadowing: B. Walter et al., "Microfacet Models for Refraction through Rough Surfaces", EGSR 2007.
Height-correlated G2 and visible-normal sampling: E. Heitz, "Sampling the GGX Distribution of Visible Normals", JCGT
7(4), 2018, in the spherical-cap form of J. Dupuy and A. Benyoub, HPG 2023. Directions are in the local frame with z
along the normal; `alpha` is roughness squared.
"""

from math import cos, pi, sin, sqrt

from texallon.core.kernel import Real, inlined


@inlined
def ggx_d(hz: Real, alpha: Real) -> Real:
    """Density of microfacet normals at cosine `hz`, per steradian; ∫ D cosθ dω = 1."""
    a2 = alpha * alpha
    t = hz * hz * (a2 - 1.0) + 1.0
    return a2 / (pi * t * t)


@inlined
def ggx_lambda(z: Real, alpha: Real) -> Real:
    """Smith's Λ at cosine `z`."""
    z2 = z * z
    return 0.5 * (sqrt(1.0 + alpha * alpha * (1.0 - z2) / max(z2, 1e-12)) - 1.0)


@inlined
def ggx_g1(z: Real, alpha: Real) -> Real:
    return 1.0 / (1.0 + ggx_lambda(z, alpha))


@inlined
def ggx_g2(zo: Real, zi: Real, alpha: Real) -> Real:
    """Height-correlated masking and shadowing of two directions on the same side."""
    return 1.0 / (1.0 + ggx_lambda(zo, alpha) + ggx_lambda(zi, alpha))


@inlined
def ggx_visible(oz: Real, hz: Real, oh: Real, alpha: Real) -> Real:
    """Density of the normals visible from `o`, per steradian of normals: G1 |o·h| D / oz."""
    return ggx_g1(oz, alpha) * oh * ggx_d(hz, alpha) / oz


@inlined
def ggx_sample(ox: Real, oy: Real, oz: Real, alpha: Real, u: Real, v: Real) -> tuple[Real, Real, Real]:
    """A microfacet normal visible from `o` (unit, oz > 0), from two numbers in [0, 1)."""
    sx, sy, sz = alpha * ox, alpha * oy, oz
    length = sqrt(sx * sx + sy * sy + sz * sz)
    sx, sy, sz = sx / length, sy / length, sz / length
    phi = 2.0 * pi * u
    z = (1.0 - v) * (1.0 + sz) - sz
    ring = sqrt(min(max(1.0 - z * z, 0.0), 1.0))
    cx, cy, cz = ring * cos(phi) + sx, ring * sin(phi) + sy, z + sz
    hx, hy, hz = alpha * cx, alpha * cy, max(cz, 1e-9)
    length = sqrt(hx * hx + hy * hy + hz * hz)
    return hx / length, hy / length, hz / length
