"""Rough diffuse reflection that keeps its energy.

The EON model: J. Portsmouth, P. Kutz and S. Hill, "EON: A Practical Energy-Preserving Rough Diffuse BRDF", JCGT 14(1),
2025; the diffuse lobe of OpenPBR Surface. At roughness 0 it is Lambert's.
"""

from math import pi

from texallon.core.kernel import Float, inlined

C1 = 0.5 - 2.0 / (3.0 * pi)
C2 = 2.0 / 3.0 - 28.0 / (15.0 * pi)


@inlined
def fon_albedo(mu: Float, r: Float) -> Float:
    """Directional albedo of the single-scattering part for a white surface (the paper's fit).

    Parameters
    ----------
    mu : float
        Cosine, 0…1.
    r : float
        Red, or a roughness 0…1.
    """
    c = 1.0 - mu
    g = c * (0.0571085289 + c * (0.491881867 + c * (-0.332181442 + c * 0.0714429953)))
    return (1.0 + r * g) / (1.0 + C1 * r)


@inlined
def eon(rho: Float, r: Float, zi: Float, zo: Float, between: Float) -> Float:
    """The reflection per steradian, without the cosine.

    `rho` albedo, `r` roughness 0…1, `zi`, `zo` cosines to the normal, `between` the cosine between the directions.

    Parameters
    ----------
    rho : float
        Colour of one channel.
    r : float
        Red, or a roughness 0…1.
    zi : float
        Cosine towards the light.
    zo : float
        Cosine towards the viewer.
    between : float
        Dot product of the two directions.
    """
    s = between - zi * zo
    t = s / max(zi, zo) if s > 0.0 else s
    scale = 1.0 / (1.0 + C1 * r)
    single = rho / pi * scale * (1.0 + r * t)
    average = scale * (1.0 + C2 * r)
    lost_o = max(1e-7, 1.0 - fon_albedo(zo, r))
    lost_i = max(1e-7, 1.0 - fon_albedo(zi, r))
    again = rho * rho * average / (1.0 - rho * (1.0 - average))
    return single + again / pi * lost_o * lost_i / max(1e-7, 1.0 - average)
