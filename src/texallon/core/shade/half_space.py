"""How much each scattering keeps, so that a deep body looks of a colour all in all, whichever way it scatters.

H. C. van de Hulst's similarity, s² = (1 − ω) / (1 − ω g), and his formula for the half space, R = (1 − s)(1 − 0.139 s) / (1 + 1.17 s)
(*Multiple Light Scattering*, 1980), which OpenPBR Surface 1.1 names, hold for even and forward scattering to about a per cent; backward
scattering is up to 13 % brighter. `AWAY` is what s differs by, from adding and doubling (`python -m tools.half_space`).
"""

from math import sqrt

import numpy as np

from texallon.core.kernel import Float, inlined

COLOURS = (0.0, 0.02, 0.05, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 0.98, 1.0)
"""Colours of the table's columns: share of diffuse light that the half space gives back."""

FORWARDS = (-0.9, -0.75, -0.5, -0.25, 0.0, 0.25, 0.5, 0.75, 0.9)
"""Mean cosines of its rows."""

AWAY = np.array(
    [
        [
            0.00000,
            0.00815,
            0.01755,
            0.02752,
            0.03434,
            0.03196,
            0.02559,
            0.01797,
            0.01080,
            0.00522,
            0.00174,
            0.00026,
            0.00004,
            0.00000,
            0.00000,
        ],
        [
            0.00000,
            0.00658,
            0.01386,
            0.02091,
            0.02388,
            0.02006,
            0.01432,
            0.00890,
            0.00475,
            0.00207,
            0.00064,
            0.00009,
            0.00001,
            0.00000,
            0.00000,
        ],
        [
            0.00000,
            0.00447,
            0.00909,
            0.01290,
            0.01305,
            0.00975,
            0.00625,
            0.00354,
            0.00174,
            0.00070,
            0.00020,
            0.00003,
            0.00000,
            -0.00001,
            0.00000,
        ],
        [
            0.00000,
            0.00274,
            0.00540,
            0.00727,
            0.00673,
            0.00467,
            0.00281,
            0.00150,
            0.00069,
            0.00026,
            0.00006,
            0.00001,
            0.00000,
            -0.00001,
            0.00000,
        ],
        [
            0.00000,
            0.00128,
            0.00248,
            0.00327,
            0.00295,
            0.00201,
            0.00119,
            0.00062,
            0.00028,
            0.00010,
            0.00001,
            -0.00000,
            -0.00001,
            -0.00001,
            0.00000,
        ],
        [
            0.00000,
            0.00002,
            0.00018,
            0.00047,
            0.00073,
            0.00064,
            0.00045,
            0.00027,
            0.00013,
            0.00005,
            0.00000,
            -0.00000,
            0.00000,
            -0.00001,
            0.00000,
        ],
        [
            0.00000,
            -0.00103,
            -0.00153,
            -0.00134,
            -0.00044,
            0.00005,
            0.00019,
            0.00017,
            0.00011,
            0.00005,
            0.00001,
            -0.00000,
            0.00000,
            -0.00001,
            0.00000,
        ],
        [
            0.00000,
            -0.00182,
            -0.00256,
            -0.00217,
            -0.00077,
            -0.00003,
            0.00022,
            0.00023,
            0.00016,
            0.00009,
            0.00003,
            0.00001,
            0.00000,
            0.00000,
            0.00000,
        ],
        [
            0.00000,
            -0.00206,
            -0.00268,
            -0.00213,
            -0.00062,
            0.00011,
            0.00033,
            0.00031,
            0.00021,
            0.00012,
            0.00004,
            0.00001,
            0.00000,
            -0.00002,
            0.00000,
        ],
    ]
)
"""s of the table less that of the formula."""

_colours, _forwards = np.array(COLOURS), np.array(FORWARDS)


@inlined
def similarity(colour: Float) -> Float:
    """Van de Hulst's formula solved for s: 0.139 s² − (1.139 + 1.17 R) s + (1 − R) = 0.

    Parameters
    ----------
    colour : float
        Diffuse colour, 0…1.
    """
    half = 1.139 + 1.17 * colour
    return (half - sqrt(max(half * half - 4.0 * 0.139 * (1.0 - colour), 0.0))) / (2.0 * 0.139)


@inlined
def single_albedo(colour: Float, g: Float) -> Float:
    """Share of light that each scattering must keep.

    Parameters
    ----------
    colour : Real
        Share of diffuse light that a half space is to give back, 0…1; more than 0.999 counts as that.
    g : Real
        Mean cosine of scattering, −1…1; beyond −0.9…0.9 as there.

    Returns
    -------
    Real
        The single scattering albedo, 0…1: within 1 % of the colour asked for.
    """
    r = min(max(colour, 0.0), 0.999)
    column, row = 0, 0
    while column < _colours.shape[0] - 2 and _colours[column + 1] <= r:
        column += 1
    while row < _forwards.shape[0] - 2 and _forwards[row + 1] <= g:
        row += 1
    x = (r - _colours[column]) / (_colours[column + 1] - _colours[column])
    y = min(max((g - _forwards[row]) / (_forwards[row + 1] - _forwards[row]), 0.0), 1.0)
    low = AWAY[row, column] + x * (AWAY[row, column + 1] - AWAY[row, column])
    high = AWAY[row + 1, column] + x * (AWAY[row + 1, column + 1] - AWAY[row + 1, column])
    s = similarity(r) + low + y * (high - low)
    s2 = min(max(s, 0.0) ** 2, 1.0)
    return (1.0 - s2) / max(1.0 - g * s2, 1e-6)
