"""A film as thin as light's wavelength: reflections of its two faces add up or cancel by colour.

Airy's sum for one film (M. Born and E. Wolf, *Principles of Optics*, 7.6), both polarisations, at even steps of wavelength, weighted
by what the eye makes of each (see `spectrum`).
"""

from math import cos, pi, sqrt

import numpy as np

from texallon.core.kernel import Float, inlined, kernel
from texallon.core.shade.fresnel import fresnel_metal
from texallon.core.shade.spectrum import RESPONSES, WAVELENGTHS

STEP = 4
"""Wavelength steps taken together: enough for films up to a few micrometres."""

_waves = np.ascontiguousarray(WAVELENGTHS.reshape(-1, STEP).mean(axis=1) / 1000.0)
_weights = np.ascontiguousarray(RESPONSES.reshape(-1, STEP, 3).sum(axis=1))


@inlined
def _airy(first: Float, second: Float, wave: Float) -> Float:
    """Reflectance of a film from its faces' amplitudes and the cosine of the phase between them."""
    both = first * second
    return (first * first + second * second + 2.0 * both * wave) / (1.0 + both * both + 2.0 * both * wave)


@inlined
def _faces(cosine: Float, film: Float) -> tuple[Float, Float, Float]:
    """Amplitudes of a film's upper face for both polarisations, and the cosine within it."""
    inside = sqrt(max(1.0 - (1.0 - cosine * cosine) / (film * film), 1e-9))
    across = (cosine - film * inside) / (cosine + film * inside)
    along = (film * cosine - inside) / (film * cosine + inside)
    return across, along, inside


@kernel
def thin_film_on_dielectric(cosine: Float, ior: Float, film: Float, thickness: Float) -> tuple[Float, Float, Float]:
    """Red, green and blue reflectance of a film (index `film`, `thickness` µm) on a dielectric, seen from air at `cosine`.

    Parameters
    ----------
    cosine : float
        To the normal, 0…1.
    ior : float
        Index of refraction, at least 1.
    film : float
        Weight of a thin film, or its index.
    thickness : float
        Micrometres.
    """
    across, along, inside = _faces(cosine, film)
    below = sqrt(max(1.0 - (1.0 - cosine * cosine) / (ior * ior), 0.0))
    across2 = (film * inside - ior * below) / (film * inside + ior * below)
    along2 = (ior * inside - film * below) / (ior * inside + film * below)
    r = g = b = 0.0
    for i in range(_waves.shape[0]):
        wave = cos(4.0 * pi * film * thickness * inside / _waves[i])
        value = 0.5 * (_airy(across, across2, wave) + _airy(along, along2, wave))
        r += _weights[i, 0] * value
        g += _weights[i, 1] * value
        b += _weights[i, 2] * value
    return min(max(r, 0.0), 1.0), min(max(g, 0.0), 1.0), min(max(b, 0.0), 1.0)


@kernel
def thin_film_on_metal(cosine: Float, f0: Float, tint: Float, channel: int, film: Float, thickness: Float) -> Float:
    """One channel's reflectance of a film on a metal, whose face turns the phase by half a wave as a perfect conductor's does.

    Parameters
    ----------
    cosine : float
        To the normal, 0…1.
    f0 : float
        Reflectance at normal incidence.
    tint : float
        Reflectance at 82° over what it would be.
    channel : int
        Colour channel, 0…2.
    film : float
        Weight of a thin film, or its index.
    thickness : float
        Micrometres.
    """
    across, along, inside = _faces(cosine, film)
    second = sqrt(fresnel_metal(inside, f0, tint))
    total = 0.0
    for i in range(_waves.shape[0]):
        wave = cos(4.0 * pi * film * thickness * inside / _waves[i])
        total += _weights[i, channel] * 0.5 * (_airy(across, -second, wave) + _airy(along, second, wave))
    return min(max(total, 0.0), 1.0)
