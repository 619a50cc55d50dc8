"""The light of a black body: its radiance by colour, so that its luminance is in candela per square metre."""

from functools import cache

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array
from texallon.core.ops.black_body import HIGHEST, LOWEST, glow_table, observer

EFFICACY = 683.0
"""Lumens to a watt at 540 THz (SI definition of the candela)."""

STEPS = 2048


@cache
def luminance_table() -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Even steps of 1/T (rising), and the natural logarithm of the luminance there in candela per square metre (Planck's law)."""
    inverse = np.linspace(1 / HIGHEST, 1 / LOWEST, STEPS)
    wavelength, functions = observer()
    metres = wavelength * 1e-9
    c1, c2 = 1.191042972e-16, 1.438776877e-2  # 2hc² and hc/k, CODATA 2018
    exponent = c2 * inverse[:, None] / metres
    least = exponent.min(axis=1, keepdims=True)
    spectrum = c1 * metres**-5.0 / (np.exp(exponent - least) - np.exp(-least))
    step = float(metres[1] - metres[0])
    return inverse, np.log(EFFICACY * step * (spectrum @ functions[:, 1])) - least[:, 0]


def black_body_radiance(temperature: Array) -> Array:
    """The radiance of a black body by colour (Rec.709), of the luminance that it has in candela per square metre.

    Parameters
    ----------
    temperature : Array
        `(n,)` kelvin; at 500 and below it is 0, as the eye sees nothing of it; above 40 000 it is that of 40 000.

    Returns
    -------
    Array
        `(3, n)`.

    References
    ----------
    Planck's law; CIE 1931 standard observer (CIE 015).
    """
    kelvin = temperature.astype(np.float64)
    at = 1 / np.clip(kelvin, LOWEST, HIGHEST)
    inverse, colours = glow_table()
    luminance = np.exp(np.interp(at, *luminance_table()))
    luminance = np.where(kelvin > LOWEST, luminance, 0.0)
    return np.stack([luminance * np.interp(at, inverse, row) for row in colours]).astype(np.float32)
