"""The colour of something so hot that it glows.

Planck's law weighed by the eye's colour-matching functions in the analytic form of C. Wyman, P.-P. Sloan and P. Shirley,
"Simple Analytic Approximations to the CIE XYZ Color Matching Functions", JCGT 2(2), 2013, turned into linear Rec.709 and
scaled to a luminance of 1; colours outside Rec.709 (very red ones) are brought in by dropping negative light.
"""

from collections.abc import Mapping
from functools import cache
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array
from texallon.core.ops.op import Refinement
from texallon.core.ops.points import Points

LOWEST, HIGHEST, STEPS = 500.0, 40_000.0, 1024
TO_REC709 = np.array(
    [[3.2404542, -1.5371385, -0.4985314], [-0.9692660, 1.8760108, 0.0415560], [0.0556434, -0.2040259, 1.0572252]]
)
"""XYZ to linear Rec.709, D65 (IEC 61966-2-1)."""


class BlackBody(Refinement):
    name: ClassVar[str] = "black body"
    group: ClassVar[str] = "colour"
    purpose: ClassVar[str] = "From a temperature in kelvin to the colour of its glow, at a luminance of 1."
    reference: ClassVar[str] = "Planck's law; Wyman, Sloan & Shirley, JCGT 2(2), 2013"
    phrase: ClassVar[str] = "as the glow of so many kelvin"
    scalar_only: ClassVar[bool] = True
    non_finite: ClassVar[str] = "NaN stays NaN; temperatures are kept within 500…40000 K."

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3

    def run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        inverse, colours = glow_table()
        place = 1 / np.clip(incoming[0].astype(np.float64), LOWEST, HIGHEST)
        for c in range(3):
            out[c] = np.interp(place, inverse, colours[c])


def matching(wavelength: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """The CIE 1931 colour-matching functions `(3, n)` at wavelengths in nanometres (fit of Wyman et al. 2013, eq. 4)."""

    def lobe(scale: float, centre: float, below: float, above: float) -> npt.NDArray[np.float64]:
        width = np.where(wavelength < centre, below, above)
        return scale * np.exp(-0.5 * ((wavelength - centre) * width) ** 2)

    x = lobe(0.362, 442.0, 0.0624, 0.0374) + lobe(1.056, 599.8, 0.0264, 0.0323) - lobe(0.065, 501.1, 0.0490, 0.0382)
    y = lobe(0.821, 568.8, 0.0213, 0.0247) + lobe(0.286, 530.9, 0.0613, 0.0322)
    z = lobe(1.217, 437.0, 0.0845, 0.0278) + lobe(0.681, 459.0, 0.0385, 0.0725)
    return np.stack([x, y, z])


@cache
def glow_table() -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Even steps of 1/T (rising), and the colours `(3, n)` there."""
    inverse = np.linspace(1 / HIGHEST, 1 / LOWEST, STEPS)
    wavelength = np.arange(360.0, 831.0, 1.0)
    metres = wavelength * 1e-9
    c2 = 1.438776877e-2  # hc/k, metre kelvin (CODATA 2018)
    exponent = c2 * inverse[:, None] / metres
    # Only ratios matter, so the smallest exponent is taken out before it could overflow.
    spectrum = metres**-5.0 / (
        np.exp(exponent - exponent.min(axis=1, keepdims=True)) - np.exp(-exponent.min(axis=1, keepdims=True))
    )
    light = np.maximum((spectrum @ matching(wavelength).T) @ TO_REC709.T, 0)
    return inverse, (light / (light @ np.array([0.2126, 0.7152, 0.0722]))[:, None]).T
