"""A phase function of two Henyey–Greenstein lobes, as clouds and mist need: one forward, one back."""

from texallon.core.kernel import Float, inlined
from texallon.core.shade.media.phase import henyey_greenstein_pdf, sample_henyey_greenstein


@inlined
def two_lobe_pdf(cosine: Float, g: Float, second: Float, share: Float) -> Float:
    """Chance per steradian of turning by an angle.

    Parameters
    ----------
    cosine : float
        Of the angle by which light is turned, −1…1.
    g, second : float
        Mean cosines of the lobes, −1…1.
    share : float
        Of the second, 0…1.

    References
    ----------
    G. W. Kattawar, "A three-parameter analytic phase function for multiple scattering calculations", JQSRT 15, 1975.
    """
    return (1.0 - share) * henyey_greenstein_pdf(cosine, g) + share * henyey_greenstein_pdf(cosine, second)


@inlined
def sample_two_lobes(
    dx: Float, dy: Float, dz: Float, g: Float, second: Float, share: Float, u: Float, v: Float
) -> tuple[Float, Float, Float]:
    """A new direction after scattering, drawn from `two_lobe_pdf`.

    Parameters
    ----------
    dx, dy, dz : float
        Unit direction.
    g, second : float
        Mean cosines of the lobes, −1…1.
    share : float
        Of the second, 0…1.
    u, v : float
        Random numbers in [0, 1).
    """
    lobe = g
    if u < share:
        lobe = second
        u = u / share
    else:
        u = (u - share) / (1.0 - share)
    return sample_henyey_greenstein(dx, dy, dz, lobe, min(u, 0.9999999), v)
