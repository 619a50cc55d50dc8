"""The colour of something so hot that it glows.

Planck's law weighted by the colour-matching functions of the CIE 1931 standard observer (2°, `observer.npy`: the CIE's table from 360 to
830 nm by 1 nm), turned into linear Rec.709 and scaled to a luminance of 1; colours outside Rec.709 (very red ones) are brought in by
dropping negative light.
"""

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier
from texallon.core.ops.points import Points

LOWEST, HIGHEST, STEPS = 500.0, 40_000.0, 1024
TO_REC709 = np.array(
    [[3.2404542, -1.5371385, -0.4985314], [-0.9692660, 1.8760108, 0.0415560], [0.0556434, -0.2040259, 1.0572252]]
)
"""XYZ to linear Rec.709, D65 (IEC 61966-2-1)."""


class BlackBody(Modifier):
    name: ClassVar[str] = "black body"
    category: ClassVar[str] = "colour"
    purpose: ClassVar[str] = "From a temperature in kelvin to the colour of its glow, at a luminance of 1."
    reference: ClassVar[str] = "Planck's law; CIE 1931 standard observer (CIE 015)"
    phrase: ClassVar[str] = "as the glow of so many kelvin"
    scalar_only: ClassVar[bool] = True
    non_finite: ClassVar[str] = "NaN stays NaN; temperatures are kept within 500…40000 K."

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3

    def _run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        inverse, colours = glow_table()
        place = 1 / np.clip(incoming[0].astype(np.float64), LOWEST, HIGHEST)
        for c in range(3):
            out[c] = np.interp(place, inverse, colours[c])


@cache
def observer() -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Wavelengths in nanometres `(n,)` and the CIE 1931 colour-matching functions there, `(n, 3)`."""
    functions = np.load(Path(__file__).with_name("observer.npy")).astype(np.float64)
    wavelengths: npt.NDArray[np.float64] = 360.0 + np.arange(len(functions), dtype=np.float64)
    return wavelengths, functions


@cache
def glow_table() -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Even steps of 1/T (rising), and the colours `(3, n)` there."""
    inverse = np.linspace(1 / HIGHEST, 1 / LOWEST, STEPS)
    wavelength, functions = observer()
    metres = wavelength * 1e-9
    c2 = 1.438776877e-2  # hc/k, metre kelvin (CODATA 2018)
    exponent = c2 * inverse[:, None] / metres
    # Only ratios matter, so the smallest exponent is taken out before it could overflow.
    spectrum = metres**-5.0 / (
        np.exp(exponent - exponent.min(axis=1, keepdims=True)) - np.exp(-exponent.min(axis=1, keepdims=True))
    )
    light = np.maximum((spectrum @ functions) @ TO_REC709.T, 0)
    return inverse, (light / (light @ np.array([0.2126, 0.7152, 0.0722]))[:, None]).T
