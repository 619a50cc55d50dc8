"""A chart of known reflectances: test-colour samples of the CIE and neutral greys, as linear Rec. 709 under D65.

CIE 13.3-1995, "Method of measuring and specifying colour rendering properties of light sources": spectral reflectances of test-colour samples 1 to
11, 13 and 14, integrated over CIE D65 with the 1931 observer at 5 nm (sample 12, a strong blue, lies outside Rec. 709 and is left out).
ASTM D1535-08: luminance factors of Munsell greys.
"""

SAMPLES: tuple[tuple[str, tuple[float, float, float]], ...] = (
    ("TCS01", (0.48909, 0.24917, 0.21671)),
    ("TCS02", (0.37212, 0.28184, 0.11397)),
    ("TCS03", (0.25767, 0.34336, 0.05585)),
    ("TCS04", (0.10286, 0.36396, 0.17584)),
    ("TCS05", (0.13433, 0.35323, 0.37751)),
    ("TCS06", (0.16794, 0.30938, 0.56610)),
    ("TCS07", (0.36333, 0.25013, 0.52044)),
    ("TCS08", (0.51136, 0.24208, 0.43660)),
    ("TCS09", (0.47296, 0.01317, 0.03437)),
    ("TCS10", (0.81210, 0.57974, 0.03682)),
    ("TCS11", (0.00363, 0.27098, 0.12717)),
    ("TCS13", (0.82434, 0.51785, 0.35268)),
    ("TCS14", (0.09556, 0.13142, 0.03829)),
)
"""Name and linear Rec. 709."""

GREYS: tuple[float, ...] = (9.5, 8.0, 6.5, 5.0, 3.0)
"""Munsell values of the last row's patches."""

ACROSS = 6
"""Patches in a row."""


def luminance_factor(value: float) -> float:
    """The share of light that a Munsell grey gives back.

    Parameters
    ----------
    value : float
        Munsell value, 0 to 10.

    References
    ----------
    ASTM D1535-08, equation for Y as a polynomial of the value; perfect diffuser as reference.

    Examples
    --------
    >>> round(luminance_factor(5.0), 4)
    0.1927
    """
    v = value
    return (1.1914 * v - 0.22533 * v**2 + 0.23352 * v**3 - 0.020484 * v**4 + 0.00081939 * v**5) / 100


def patches() -> list[tuple[str, tuple[float, float, float]]]:
    """Name and linear Rec. 709 reflectance of every patch, row by row."""
    greys = [(f"N {value:g}", (luminance_factor(value),) * 3) for value in GREYS]
    return [*SAMPLES, *((name, (a, b, c)) for name, (a, b, c) in greys)]
