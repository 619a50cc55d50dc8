"""The phase function: how a medium scatters by angle."""

from math import cos, pi, sin, sqrt

from texallon.core.kernel import Float, inlined


@inlined
def henyey_greenstein_pdf(cosine: Float, g: Float) -> Float:
    """Chance per steradian of turning by an angle (L. G. Henyey and J. L. Greenstein, 1941); 1 / 4π for `g` 0.

    Parameters
    ----------
    cosine : float
        Of the angle by which light is turned, −1…1.
    g : float
        Green, or the anisotropy of a phase function, −1…1.
    """
    base = max(1.0 + g * g - 2.0 * g * cosine, 1e-9)
    return (1.0 - g * g) / (4.0 * pi * base * sqrt(base))


@inlined
def sample_henyey_greenstein(
    dx: Float, dy: Float, dz: Float, g: Float, u: Float, v: Float
) -> tuple[Float, Float, Float]:
    """A new direction after scattering, drawn from `henyey_greenstein_pdf`.

    Parameters
    ----------
    dx, dy, dz : float
        Unit direction.
    g : float
        Green, or the anisotropy of a phase function, −1…1.
    u, v : float
        Random number in [0, 1).
    """
    if abs(g) < 1e-3:
        z = 1.0 - 2.0 * u
    else:
        part = (1.0 - g * g) / (1.0 - g + 2.0 * g * u)
        z = (1.0 + g * g - part * part) / (2.0 * g)
    z = min(max(z, -1.0), 1.0)
    ring = sqrt(1.0 - z * z)
    x, y = ring * cos(2.0 * pi * v), ring * sin(2.0 * pi * v)
    sign = 1.0 if dz >= 0.0 else -1.0
    a = -1.0 / (sign + dz)
    b = dx * dy * a
    return (
        x * (1.0 + sign * dx * dx * a) + y * b + z * dx,
        x * sign * b + y * (sign + dy * dy * a) + z * dy,
        -x * sign * dx - y * dy + z * dz,
    )
