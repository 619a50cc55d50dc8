"""A sky made from the sun's height: daylight, twilight, and a night with stars.

Daylight: luminance and colour by A. J. Preetham, P. Shirley and B. Smits, "A Practical Analytic Model for Daylight", SIGGRAPH 1999
(Perez' distribution, with coefficients by turbidity). Below the horizon it fades by ten for each two degrees, a
little faster than nature does (about 400 lx at sunset, 3 lx at 6° below; from memory). Night and stars are made up: a deep blue
that brightens towards the horizon, and stars drawn with counter-based random numbers. The sun's own disc is a lamp's work.
"""

from math import cos, exp, radians, sin, tan

import numpy as np
import numpy.typing as npt

from texallon.core.document.sky import Sky
from texallon.core.kernel import Array
from texallon.core.shade.spectrum import FROM_XYZ

HEIGHT, WIDTH = 256, 512
NIGHT = np.array([0.0011, 0.0017, 0.0034])
"""Radiance of the night's zenith, when a day's is 1: far brighter than nature's, as an eye that is used to it sees it."""

STARS = 1800
GROUND = 0.12
"""Share of the sky's light that the ground below the horizon gives back."""

Floats = npt.NDArray[np.float64]


def perez(cosine: Floats, angle: Floats, a: float, b: float, c: float, d: float, e: float) -> Floats:
    """Perez' function of the view's height (its cosine to the zenith) and its angle to the sun, radians.

    Parameters
    ----------
    cosine : Array
        Of the angle to the zenith.
    angle : Array
        To the sun, radians.
    a, b, c, d, e : float
        Coefficient.
    """
    found: Floats = (1 + a * np.exp(b / np.maximum(cosine, 0.01))) * (
        1 + c * np.exp(d * angle) + e * np.cos(angle) ** 2
    )
    return found


def luminance_terms(haze: float) -> tuple[float, float, float, float, float]:
    """Perez' coefficients for luminance (Preetham et al. 1999, appendix A.2).

    Parameters
    ----------
    haze : float
        Turbidity of the sky.
    """
    t = haze
    return (
        0.1787 * t - 1.4630,
        -0.3554 * t + 0.4275,
        -0.0227 * t + 5.3251,
        0.1206 * t - 2.5771,
        -0.0670 * t + 0.3703,
    )


def chromaticity_terms(haze: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Perez' coefficients for chromaticity x and y (the same appendix).

    Parameters
    ----------
    haze : float
        Turbidity of the sky.
    """
    t = haze
    x = (-0.0193 * t - 0.2592, -0.0665 * t + 0.0008, -0.0004 * t + 0.2125, -0.0641 * t - 0.8989, -0.0033 * t + 0.0452)
    y = (-0.0167 * t - 0.2608, -0.0950 * t + 0.0092, -0.0079 * t + 0.2102, -0.0441 * t - 1.6537, -0.0109 * t + 0.0529)
    return x, y


def zenith(haze: float, from_zenith: float) -> tuple[float, float, float]:
    """Luminance in kilocandela per square metre and chromaticity of the zenith, the sun `from_zenith` radians away.

    Parameters
    ----------
    haze : float
        Turbidity of the sky.
    from_zenith : float
        Radians.
    """
    t, s = haze, from_zenith
    chi = (4 / 9 - t / 120) * (np.pi - 2 * s)
    luminance = (4.0453 * t - 4.9710) * tan(chi) - 0.2155 * t + 2.4192
    powers = np.array([s**3, s * s, s, 1.0])
    turbid = np.array([t * t, t, 1.0])
    x = turbid @ np.array(
        [
            [0.00166, -0.00375, 0.00209, 0.0],
            [-0.02903, 0.06377, -0.03202, 0.00394],
            [0.11693, -0.21196, 0.06052, 0.25886],
        ]
    )
    y = turbid @ np.array(
        [
            [0.00275, -0.00610, 0.00317, 0.0],
            [-0.04214, 0.08970, -0.04153, 0.00516],
            [0.15346, -0.26756, 0.06670, 0.26688],
        ]
    )
    return luminance, float(x @ powers), float(y @ powers)


def directions(height: int = HEIGHT, width: int = WIDTH) -> Floats:
    """Unit directions `(h, w, 3)` of a latitude-longitude picture: +y up, its centre towards −z.

    Parameters
    ----------
    height : int, optional
        Pixels down.
    width : int, optional
        Pixels across.

    Returns
    -------
    Array
        `(h, w, 3)`.
    """
    down = (np.arange(height) + 0.5) / height * np.pi
    around = ((np.arange(width) + 0.5) / width - 0.5) * 2 * np.pi
    ring = np.sin(down)[:, None]
    x, z = ring * np.sin(around), -ring * np.cos(around)
    return np.stack([x, np.broadcast_to(np.cos(down)[:, None], x.shape), z], axis=2)


def sky_picture(sky: Sky) -> Array:
    """The sky as a latitude-longitude picture `(256, 512, 3)`, scene-linear.

    Parameters
    ----------
    sky : Sky
        Sun's height, haze and night.

    Returns
    -------
    Array
        `(256, 512, 3)`.
    """
    way = directions()
    picture = _daylight(sky, way) + _night(sky, way)
    below = way[..., 1] < 0
    horizon = picture[HEIGHT // 2 - 12 : HEIGHT // 2].mean(axis=(0, 1))
    picture[below] = horizon * GROUND
    return np.ascontiguousarray(picture, np.float32)


def _daylight(sky: Sky, way: Floats) -> Floats:
    height = radians(max(sky.sun_height, 0.0))
    fade = exp(min(sky.sun_height, 0.0) / 2 * 2.3026)
    turn = radians(sky.sun_direction)
    sun = np.array([cos(height) * sin(turn), sin(height), -cos(height) * cos(turn)])
    from_zenith = np.pi / 2 - height
    angle = np.arccos(np.clip(way @ sun, -1, 1))
    cosine = np.maximum(way[..., 1], 0)
    bright, zx, zy = zenith(sky.haze, from_zenith)
    high = zenith(sky.haze, 0.5)[0]  # so that intensities stay comfortable: a high sun's zenith counts as 1

    def spread(terms: tuple[float, ...]) -> Floats:
        a, b, c, d, e = terms
        at_zenith = perez(np.array(1.0), np.array(from_zenith), a, b, c, d, e)
        result: Floats = perez(cosine, angle, a, b, c, d, e) / at_zenith
        return result

    luminance = np.maximum(max(bright, 0.05) * spread(luminance_terms(sky.haze)), 0) / high * fade
    terms = chromaticity_terms(sky.haze)
    x, y = zx * spread(terms[0]), np.maximum(zy * spread(terms[1]), 1e-3)
    xyz = np.stack([x / y, np.ones_like(y), (1 - x - y) / y], axis=2) * luminance[..., None]
    found: Floats = np.maximum(xyz @ FROM_XYZ.T, 0)
    return found


def _night(sky: Sky, way: Floats) -> Floats:
    glow = NIGHT * sky.stars * (1 + 1.5 * np.exp(-4 * np.maximum(way[..., 1:2], 0)))
    rng = np.random.Generator(np.random.Philox(key=20_261_125))
    up = rng.random(STARS)
    around = rng.random(STARS)
    bright = NIGHT.sum() * sky.stars * 6 * rng.random(STARS) ** 6 * 20
    row = np.minimum((np.arccos(up) / np.pi * HEIGHT).astype(int), HEIGHT - 1)
    column = np.minimum((around * WIDTH).astype(int), WIDTH - 1)
    tint = 1 + 0.25 * (rng.random((STARS, 3)) - 0.5)
    np.add.at(glow, (row, column), bright[:, None] * tint)
    found: Floats = glow
    return found
