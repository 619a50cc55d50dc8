"""Wavelengths: what the eye makes of them, drawing one for a path, and how an index depends on it.

The eye: the multi-lobe fit of the CIE 1931 colour matching functions by C. Wyman, P.-P. Sloan and P. Shirley, "Simple Analytic
Approximations to the CIE XYZ Color Matching Functions", JCGT 2(2), 2013, in linear Rec.709 (ITU-R BT.709 primaries). Each
channel is scaled so that light of all wavelengths alike is white.
"""

from math import exp

import numpy as np

from texallon.core.kernel import Float, inlined

SHORTEST, LONGEST, BINS = 400.0, 700.0, 100
"""Nanometres, and how many even steps lie between."""

LINE_F, LINE_D, LINE_C = 0.48613, 0.58756, 0.65627
"""Fraunhofer's lines at which indices and Abbe numbers are stated, micrometres."""


def _lobe(x: float, middle: float, left: float, right: float) -> float:
    t = (x - middle) * (left if x < middle else right)
    return exp(-0.5 * t * t)


def matching(wavelength: float) -> tuple[float, float, float]:
    """CIE 1931 x̄, ȳ, z̄ at a wavelength in nanometres (the fit's table 1).

    Parameters
    ----------
    wavelength : float
        Nanometres.
    """
    w = wavelength
    x = 1.056 * _lobe(w, 599.8, 0.0264, 0.0323) + 0.362 * _lobe(w, 442.0, 0.0624, 0.0374)
    x -= 0.065 * _lobe(w, 501.1, 0.0490, 0.0382)
    y = 0.821 * _lobe(w, 568.8, 0.0213, 0.0247) + 0.286 * _lobe(w, 530.9, 0.0613, 0.0322)
    z = 1.217 * _lobe(w, 437.0, 0.0845, 0.0278) + 0.681 * _lobe(w, 459.0, 0.0385, 0.0725)
    return x, y, z


FROM_XYZ = np.array(
    [[3.2404542, -1.5371385, -0.4985314], [-0.9692660, 1.8760108, 0.0415560], [0.0556434, -0.2040259, 1.0572252]]
)
"""XYZ to linear Rec.709 (IEC 61966-2-1)."""

WAVELENGTHS = SHORTEST + (np.arange(BINS) + 0.5) * (LONGEST - SHORTEST) / BINS
"""Middles of the steps, nanometres."""


def _responses() -> np.typing.NDArray[np.float64]:
    rgb = np.array([matching(w) for w in WAVELENGTHS]) @ FROM_XYZ.T
    scaled: np.typing.NDArray[np.float64] = rgb / rgb.sum(axis=0)
    return scaled


RESPONSES = _responses()
"""Share of each step in red, green and blue, `(BINS, 3)`; columns add up to 1. Some are negative, as pure colours are."""

_drawn = np.maximum(RESPONSES, 0)
_drawn = _drawn / _drawn.sum(axis=0)
_share = _drawn.mean(axis=1)
CUMULATIVE = np.concatenate([[0.0], np.cumsum(_share)])
COLOURS = _drawn / _share[:, None]
"""What a path that has drawn a step carries, by channel: on average 1, and never negative, so pure colours are a little paler than
in nature; they add up to 3, so drawing adds no noise to what all colours share."""


@inlined
def draw_wavelength(x: Float) -> tuple[Float, Float, Float, Float]:
    """A wavelength in micrometres and its red, green and blue, from a number in [0, 1).

    Parameters
    ----------
    x : float
        In [0, 1).
    """
    low, high = 0, BINS - 1
    while low < high:
        middle = (low + high + 1) // 2
        if CUMULATIVE[middle] <= x:
            low = middle
        else:
            high = middle - 1
    span = CUMULATIVE[low + 1] - CUMULATIVE[low]
    part = (x - CUMULATIVE[low]) / span if span > 0.0 else 0.5
    wavelength = SHORTEST + (low + part) * (LONGEST - SHORTEST) / BINS
    return wavelength / 1000.0, COLOURS[low, 0], COLOURS[low, 1], COLOURS[low, 2]


@inlined
def dispersed_ior(ior: Float, abbe: Float, scale: Float, wavelength: Float) -> Float:
    """The index at a wavelength in micrometres, of glass with index `ior` at the d line and an Abbe number.

    Cauchy's two terms, n = A + B / λ², with V = (n_d − 1) / (n_F − n_C) (OpenPBR Surface 1.1, dispersion); `scale` 0…1 weakens it.

    Parameters
    ----------
    ior : float
        Index of refraction, at least 1.
    abbe : float
        Abbe number.
    scale : float
        How much of the dispersion counts, 0…1.
    wavelength : float
        Micrometres, unless said otherwise.
    """
    if scale <= 0.0:
        return ior
    b = (ior - 1.0) * scale / (abbe * (1.0 / (LINE_F * LINE_F) - 1.0 / (LINE_C * LINE_C)))
    return max(ior + b * (1.0 / (wavelength * wavelength) - 1.0 / (LINE_D * LINE_D)), 1.0)
