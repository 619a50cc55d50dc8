"""The GGX microfacet distribution, its shadowing, and sampling of the normals that a view can see.

Distribution and shadowing: B. Walter et al., "Microfacet Models for Refraction through Rough Surfaces", EGSR 2007.
Height-correlated G2 and visible-normal sampling: E. Heitz, "Sampling the GGX Distribution of Visible Normals", JCGT
7(4), 2018, in the spherical-cap form of J. Dupuy and A. Benyoub, HPG 2023. Directions are in the local frame with z
along the normal; `alpha` is roughness squared.
"""

from math import cos, pi, sin, sqrt

from texallon.core.kernel import Float, inlined


@inlined
def ggx_d(hz: Float, alpha: Float) -> Float:
    """Density of microfacet normals at cosine `hz`, per steradian; ∫ D cosθ dω = 1.

    Parameters
    ----------
    hz : float
        Facet's cosine to the surface's normal.
    alpha : float
        GGX roughness, above 0.
    """
    a2 = alpha * alpha
    t = hz * hz * (a2 - 1.0) + 1.0
    return a2 / (pi * t * t)


@inlined
def ggx_lambda(z: Float, alpha: Float) -> Float:
    """Smith's Λ at cosine `z`.

    Parameters
    ----------
    z : float
        Cosine to the normal, 0…1.
    alpha : float
        GGX roughness, above 0.
    """
    z2 = z * z
    return 0.5 * (sqrt(1.0 + alpha * alpha * (1.0 - z2) / max(z2, 1e-12)) - 1.0)


@inlined
def ggx_g1(z: Float, alpha: Float) -> Float:
    """Smith's masking of one direction.

    Parameters
    ----------
    z : float
        Cosine to the normal, 0…1.
    alpha : float
        GGX roughness, above 0.
    """
    return 1.0 / (1.0 + ggx_lambda(z, alpha))


@inlined
def ggx_g2(zo: Float, zi: Float, alpha: Float) -> Float:
    """Height-correlated masking and shadowing of two directions on the same side.

    Parameters
    ----------
    zo : float
        Cosine towards the viewer.
    zi : float
        Cosine towards the light.
    alpha : float
        GGX roughness, above 0.
    """
    return 1.0 / (1.0 + ggx_lambda(zo, alpha) + ggx_lambda(zi, alpha))


@inlined
def ggx_visible(oz: Float, hz: Float, oh: Float, alpha: Float) -> Float:
    """Density of the normals visible from `o`, per steradian of normals: G1 |o·h| D / oz.

    Parameters
    ----------
    oz : float
        Cosine towards the viewer, above 0.
    hz : float
        Facet's cosine to the surface's normal.
    oh : float
        Cosine between facet and viewer.
    alpha : float
        GGX roughness, above 0.
    """
    return ggx_g1(oz, alpha) * oh * ggx_d(hz, alpha) / oz


@inlined
def brushed_alphas(roughness: Float, brushing: Float) -> tuple[Float, Float]:
    """α along the grain and across it (OpenPBR Surface 1.1, specular roughness anisotropy); alike where nothing is brushed.

    Parameters
    ----------
    roughness : float
        0…1.
    brushing : float
        Anisotropy, 0…1.
    """
    left = 1.0 - brushing
    along = roughness * roughness * sqrt(2.0 / (1.0 + left * left))
    return along, max(left * along, 1e-4)


@inlined
def brushed_lambda(x: Float, y: Float, z: Float, ax: Float, ay: Float) -> Float:
    """Smith's Λ of brushed facets: that of even ones, of the α that the direction lies along (Heitz 2014, eq. 80).

    Parameters
    ----------
    x, y : float
        Across the normal.
    z : float
        Cosine to the normal, 0…1.
    ax : float
        GGX roughness along the grain.
    ay : float
        GGX roughness across the grain.
    """
    across = ax * ax * x * x + ay * ay * y * y
    return 0.5 * (sqrt(1.0 + across / max(z * z, 1e-12)) - 1.0)


@inlined
def brushed_d(hx: Float, hy: Float, hz: Float, ax: Float, ay: Float) -> Float:
    """Density of brushed facets' normals, per steradian.

    Parameters
    ----------
    hx, hy : float
        Facet's normal, across.
    hz : float
        Facet's cosine to the surface's normal.
    ax : float
        GGX roughness along the grain.
    ay : float
        GGX roughness across the grain.
    """
    x, y = hx / ax, hy / ay
    t = x * x + y * y + hz * hz
    return 1.0 / (pi * ax * ay * t * t)


@inlined
def brushed_sample(
    ox: Float, oy: Float, oz: Float, ax: Float, ay: Float, u: Float, v: Float
) -> tuple[Float, Float, Float]:
    """A brushed facet's normal visible from `o`, as `ggx_sample`.

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
    u, v : float
        Random number in [0, 1).
    """
    sx, sy, sz = ax * ox, ay * oy, oz
    length = sqrt(sx * sx + sy * sy + sz * sz)
    sx, sy, sz = sx / length, sy / length, sz / length
    phi = 2.0 * pi * u
    z = (1.0 - v) * (1.0 + sz) - sz
    ring = sqrt(min(max(1.0 - z * z, 0.0), 1.0))
    cx, cy, cz = ring * cos(phi) + sx, ring * sin(phi) + sy, z + sz
    hx, hy, hz = ax * cx, ay * cy, max(cz, 1e-9)
    length = sqrt(hx * hx + hy * hy + hz * hz)
    return hx / length, hy / length, hz / length


@inlined
def halfway(ox: Float, oy: Float, oz: Float, ix: Float, iy: Float, iz: Float) -> tuple[Float, Float, Float, Float]:
    """The unit vector between two directions, and its cosine to either.

    Parameters
    ----------
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
    hx, hy, hz = ox + ix, oy + iy, oz + iz
    length = sqrt(hx * hx + hy * hy + hz * hz)
    hx, hy, hz = hx / length, hy / length, hz / length
    return hx, hy, hz, min(ox * hx + oy * hy + oz * hz, 1.0)


@inlined
def ggx_sample(ox: Float, oy: Float, oz: Float, alpha: Float, u: Float, v: Float) -> tuple[Float, Float, Float]:
    """A microfacet normal visible from `o` (unit, oz > 0), from two numbers in [0, 1).

    Parameters
    ----------
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    alpha : float
        GGX roughness, above 0.
    u, v : float
        Random number in [0, 1).
    """
    return brushed_sample(ox, oy, oz, alpha, alpha, u, v)
