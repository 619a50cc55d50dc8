"""The environment: a latitude-longitude picture with +y up, its centre towards −z, sampled where it is bright.

Directions are chosen in proportion to brightness × solid angle (M. Pharr, W. Jakob, G. Humphreys, *Physically Based Rendering*, infinite
area lights).
"""

from dataclasses import dataclass
from math import acos, atan2, cos, pi, sin, sqrt

import numpy as np

from texallon.core.derived import derived
from texallon.core.document.base import Radiance
from texallon.core.document.sky import Sky
from texallon.core.kernel import Array, Float, Int, inlined, kernel
from texallon.core.render.light.sky import sky_picture


@dataclass(frozen=True)
class EnvironmentTable:
    """What sampling the environment needs.

    Attributes
    ----------
    picture : Array
        `(h, w, 3)` radiance.
    rows, columns : Array
        `(h + 1,)`, `(h, w + 1)` cumulative chances.
    density : Array
        `(h, w)` chance per steradian.
    mean : float
        Mean luminance over all directions.
    """

    picture: Array
    rows: Array
    columns: Array
    density: Array
    mean: float


@derived("sky")
def made_sky(sky: Sky) -> Array:
    """The picture `(h, w, 3)` of a sky made from the sun's height.

    Parameters
    ----------
    sky : Sky
        Sun's height, haze and night.

    Returns
    -------
    Array
        `(h, w, 3)`.
    """
    return sky_picture(sky)


@derived("environment table")
def environment_table(picture: Array | None, colour: Radiance, intensity: float) -> EnvironmentTable:
    """A picture as an environment, multiplied by a colour; plain white where there is none.

    Parameters
    ----------
    picture : Array, optional
        `(h, w, 3)`; what is not finite counts as black.
    colour : Radiance
        Multiplies the picture.
    intensity : float
        Multiplies it too.
    """
    tint = np.array(colour, np.float32) * np.float32(intensity)
    shown = (np.ones((2, 4, 3), np.float32) if picture is None else picture) * tint
    shown = np.ascontiguousarray(np.nan_to_num(shown, nan=0.0, posinf=0.0, neginf=0.0), np.float32)
    return EnvironmentTable(shown, *_distribution(shown))


def _distribution(picture: Array) -> tuple[Array, Array, Array, float]:
    height, width, _ = picture.shape
    bright = picture @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    # Interpolation reaches one texel further than the texel itself: no lit direction may have no chance.
    grown = bright.copy()
    for shift, axis in ((1, 1), (-1, 1)):
        grown = np.maximum(grown, np.roll(bright, shift, axis))
    grown = np.maximum(grown, np.vstack([grown[:1], grown[:-1]]))
    grown = np.maximum(grown, np.vstack([grown[1:], grown[-1:]]))
    edges = np.linspace(0, pi, height + 1)
    solid = (np.cos(edges[:-1]) - np.cos(edges[1:])) * 2 * pi / width
    weight = grown.astype(np.float64) * solid[:, None]
    total = weight.sum()
    mean = float((bright * solid[:, None]).sum() / (4 * pi))
    if total <= 0:
        weight, total = np.ones_like(weight) * solid[:, None], float(4 * pi)
    density = (weight / total / solid[:, None]).astype(np.float32)
    per_row = weight.sum(axis=1)
    rows = np.concatenate([[0], np.cumsum(per_row)]) / total
    columns = np.concatenate([np.zeros((height, 1)), np.cumsum(weight, axis=1)], axis=1)
    columns /= np.maximum(per_row[:, None], 1e-300)
    return rows.astype(np.float32), columns.astype(np.float32), density, mean


@inlined
def turned_in(tilt: Array, x: Float, y: Float, z: Float) -> tuple[Float, Float, Float]:
    """A direction of the world among those of surroundings that are tilted.

    Parameters
    ----------
    tilt : Array
        `(3, 3)` rotation of the surroundings in the world.
    x, y, z : float
        Unit direction in the world.
    """
    return (
        tilt[0, 0] * x + tilt[1, 0] * y + tilt[2, 0] * z,
        tilt[0, 1] * x + tilt[1, 1] * y + tilt[2, 1] * z,
        tilt[0, 2] * x + tilt[1, 2] * y + tilt[2, 2] * z,
    )


@inlined
def turned_out(tilt: Array, x: Float, y: Float, z: Float) -> tuple[Float, Float, Float]:
    """A direction of surroundings that are tilted, in the world.

    Parameters
    ----------
    tilt : Array
        `(3, 3)` rotation of the surroundings in the world.
    x, y, z : float
        Unit direction in the surroundings.
    """
    return (
        tilt[0, 0] * x + tilt[0, 1] * y + tilt[0, 2] * z,
        tilt[1, 0] * x + tilt[1, 1] * y + tilt[1, 2] * z,
        tilt[2, 0] * x + tilt[2, 1] * y + tilt[2, 2] * z,
    )


@inlined
def environment_uv(dx: Float, dy: Float, dz: Float, rotation: Float) -> tuple[Float, Float]:
    """Where a direction lies in the picture, 0…1 from the top left.

    Parameters
    ----------
    dx, dy, dz : float
        Unit direction.
    rotation : float
        Radians about the vertical.
    """
    u = 0.5 + (atan2(dx, -dz) - rotation) / (2.0 * pi)
    return u - np.floor(u), acos(min(max(dy, -1.0), 1.0)) / pi


@inlined
def environment_radiance(picture: Array, u: Float, v: Float) -> tuple[Float, Float, Float]:
    """Bilinear, wrapping around sideways.

    Parameters
    ----------
    picture : Array
        `(h, w, 3)` radiance.
    u : float
        In [0, 1), random or across the picture.
    v : float
        In [0, 1), random or down the picture.
    """
    height, width = picture.shape[0], picture.shape[1]
    x, y = u * width - 0.5, v * height - 0.5
    fx, fy = np.floor(x), np.floor(y)
    tx, ty = x - fx, y - fy
    x0, x1 = int(fx) % width, (int(fx) + 1) % width
    y0, y1 = min(max(int(fy), 0), height - 1), min(max(int(fy) + 1, 0), height - 1)
    a, b, c, d = (1 - tx) * (1 - ty), tx * (1 - ty), (1 - tx) * ty, tx * ty
    r = a * picture[y0, x0, 0] + b * picture[y0, x1, 0] + c * picture[y1, x0, 0] + d * picture[y1, x1, 0]
    g = a * picture[y0, x0, 1] + b * picture[y0, x1, 1] + c * picture[y1, x0, 1] + d * picture[y1, x1, 1]
    e = a * picture[y0, x0, 2] + b * picture[y0, x1, 2] + c * picture[y1, x0, 2] + d * picture[y1, x1, 2]
    return r, g, e


@inlined
def environment_pdf(density: Array, u: Float, v: Float) -> Float:
    """Chance per steradian of choosing the direction at a place.

    Parameters
    ----------
    density : Array
        `(h, w)` chance per steradian.
    u : float
        In [0, 1), random or across the picture.
    v : float
        In [0, 1), random or down the picture.
    """
    height, width = density.shape[0], density.shape[1]
    return density[min(int(v * height), height - 1), min(int(u * width), width - 1)]


@inlined
def find_interval(cumulative: Array, x: Float) -> Int:
    """The interval of a cumulative distribution that a number lies in.

    Parameters
    ----------
    cumulative : Array
        `(n + 1,)` rising from 0 to 1.
    x : float
        0…1.
    """
    low, high = 0, cumulative.shape[0] - 2
    while low < high:
        middle = (low + high + 1) // 2
        if cumulative[middle] <= x:
            low = middle
        else:
            high = middle - 1
    return low


@inlined
def sample_environment(
    rows: Array, columns: Array, density: Array, rotation: Float, u: Float, v: Float
) -> tuple[Float, Float, Float, Float, Float, Float]:
    """A direction, its place in the picture, and its chance per steradian.

    Parameters
    ----------
    rows : Array
        `(h + 1,)` cumulative chances.
    columns : Array
        `(h, w + 1)` cumulative chances.
    density : Array
        `(h, w)` chance per steradian.
    rotation : float
        Radians about the vertical.
    u : float
        In [0, 1), random or across the picture.
    v : float
        In [0, 1), random or down the picture.
    """
    height, width = density.shape[0], density.shape[1]
    y = find_interval(rows, v)
    span = rows[y + 1] - rows[y]
    fy = (v - rows[y]) / span if span > 0.0 else 0.5
    row = columns[y]
    x = find_interval(row, u)
    span = row[x + 1] - row[x]
    fx = (u - row[x]) / span if span > 0.0 else 0.5
    # Even in solid angle within the texel: even in cosine, not in angle.
    top, bottom = cos(pi * y / height), cos(pi * (y + 1) / height)
    dy = top + min(max(fy, 0.0), 1.0) * (bottom - top)
    pu = (x + min(max(fx, 0.0), 0.999999)) / width
    phi = (pu - 0.5) * 2.0 * pi + rotation
    ring = sqrt(max(1.0 - dy * dy, 0.0))
    return ring * sin(phi), dy, -ring * cos(phi), pu, acos(min(max(dy, -1.0), 1.0)) / pi, density[y, x]


@kernel
def environment_colours(picture: Array, rotation: Float, direction: Array, out: Array) -> None:
    """Radiance `(3, n)` from each direction `(3, n)`.

    Parameters
    ----------
    picture : Array
        `(h, w, 3)` radiance.
    rotation : float
        Radians about the vertical.
    direction : Array
        `(3, n)` unit vectors.
    out : Array
        `(3, n)`, filled.
    """
    for i in range(direction.shape[1]):
        u, v = environment_uv(direction[0, i], direction[1, i], direction[2, i], rotation)
        out[0, i], out[1, i], out[2, i] = environment_radiance(picture, u, v)
