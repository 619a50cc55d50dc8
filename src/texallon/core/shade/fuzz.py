"""Fuzz: fine fibres or dust on top of everything.

T. Zeltner, B. Burley and M. J.-Y. Chiang, "Practical Multiple-Scattering Sheen Using Linearly Transformed Cosines", SIGGRAPH 2022
talks: a volume of fibres, fitted by a cosine lobe that a matrix [a 0 b; 0 a 0; 0 0 1] (inverse given) stretches, times its
albedo. The rational fits are those of the reference implementation that the MaterialX 1.39 library publishes. The fit is not
reciprocal. Local frame with z along the normal.
"""

from math import cos, exp, pi, sqrt

from texallon.core.kernel import Float, inlined


@inlined
def fuzz_albedo(z: Float, roughness: Float) -> Float:
    """Share of light from cosine `z` that white fuzz gives back.

    Parameters
    ----------
    z : float
        Cosine to the normal, 0…1.
    roughness : float
        0…1.
    """
    x, y = z, min(max(roughness, 0.01), 1.0)
    s = y * (0.0206607 + 1.58491 * y) / (0.0379424 + y * (1.32227 + y))
    m = y * (-0.193854 + y * (-1.14885 + y * (1.7932 - 0.95943 * y * y))) / (0.046391 + y)
    o = y * (0.000654023 + (-0.0207818 + 0.119681 * y) * y) / (1.26264 + y * (-1.92021 + y))
    t = (x - m) / s
    return min(max(exp(-0.5 * t * t) / (s * sqrt(2.0 * pi)) + o, 0.0), 1.0)


@inlined
def _matrix(z: Float, roughness: Float) -> tuple[Float, Float]:
    """The two numbers of the inverse matrix."""
    x, y = z, min(max(roughness, 0.01), 1.0)
    a = (2.58126 * x + 0.813703 * y) * y / (1.0 + 0.310327 * x * x + 2.60994 * x * y)
    b = (
        sqrt(max(1.0 - x, 0.0))
        * (y - 1.0)
        * y
        * y
        * y
        / (0.0000254053 + 1.71228 * x - 1.71506 * x * y + 1.34174 * y * y)
    )
    return a, b


@inlined
def _plane(ox: Float, oy: Float) -> tuple[Float, Float]:
    """The unit direction of the view along the surface."""
    length = sqrt(ox * ox + oy * oy)
    return (ox / length, oy / length) if length > 1e-6 else (1.0, 0.0)


@inlined
def fuzz_pdf(ox: Float, oy: Float, oz: Float, ix: Float, iy: Float, iz: Float, roughness: Float) -> Float:
    """Chance per steradian of drawing `i`; times the albedo it is f·cosθ of white fuzz.

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
    roughness : float
        0…1.
    """
    a, b = _matrix(oz, roughness)
    px, py = _plane(ox, oy)
    x, y = ix * px + iy * py, -ix * py + iy * px
    wx, wy = a * x + b * iz, a * y
    away = wx * wx + wy * wy + iz * iz
    ratio = a / away
    return max(iz, 0.0) / pi * ratio * ratio


@inlined
def fuzz_sample(ox: Float, oy: Float, oz: Float, roughness: Float, u: Float, v: Float) -> tuple[Float, Float, Float]:
    """A direction in proportion to the fuzz's lobe.

    Parameters
    ----------
    ox : float
        Towards the viewer, in the shading basis (z along the normal).
    oy : float
        Towards the viewer.
    oz : float
        Cosine towards the viewer, above 0.
    roughness : float
        0…1.
    u, v : float
        Random number in [0, 1).
    """
    a, b = _matrix(oz, roughness)
    ring, phi = sqrt(u), 2.0 * pi * v
    cz = sqrt(max(1.0 - u, 0.0))
    x = (ring * cos(phi) - cz * b) / a
    y = ring * cos(phi - 0.5 * pi) / a
    length = sqrt(x * x + y * y + cz * cz)
    x, y, z = x / length, y / length, cz / length
    px, py = _plane(ox, oy)
    return x * px - y * py, x * py + y * px, z
