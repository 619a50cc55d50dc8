"""Light sources: the environment, sampled where it is bright, and the table of lamps.

Environment: a latitude-longitude picture with +y up, its centre towards −z; directions are chosen in proportion to
brightness × solid angle (M. Pharr, W. Jakob, G. Humphreys, *Physically Based Rendering*, infinite area lights).
"""

from dataclasses import dataclass
from math import acos, atan2, cos, pi, radians, sin, sqrt

import numpy as np

from texallon.core.document.light import AREAS, Environment, Light
from texallon.core.document.shot import Shot
from texallon.core.kernel import Array, Float, Int, Integers, inlined, kernel
from texallon.core.render.files import Files
from texallon.core.render.light.lamps import LAMP, lamp_row
from texallon.core.render.light.sky import sky_picture

PEAK = 64.0
"""Times its mean radiance, the environment is a small bright light: all that is brighter fills less than a fifth of a steradian."""


@dataclass(frozen=True)
class Lights:
    """All that next-event estimation needs, as arrays.

    `picture (h, w, 3)` radiance; `rows (h + 1,)` and `columns (h, w + 1)` cumulative chances; `density (h, w)`
    chance per unit square; `lamps (l, LAMP)`; `chance (l + 1,)` of choosing the environment, then each lamp; `areas (a,)` which
    of the lamps a ray can meet, in the order of their instances; `group (l + 1,)` of the environment and each lamp, by position
    in `names`, whose first is that of lights without a group; `power` that they send into the scene, about, in watts; `peak` the radiance
    above which the environment counts as a lamp behind boundaries that bend light.
    """

    picture: Array
    rows: Array
    columns: Array
    density: Array
    rotation: float
    lamps: Array
    areas: Integers
    chance: Array
    background: bool
    group: Integers
    names: tuple[str, ...]
    power: float
    peak: float


def make_lights(shot: Shot, files: Files, radius: float) -> Lights:
    """The shot's lights; `radius` of the scene in metres weighs the environment against the lamps."""
    environment = shot.environment
    tint = np.array(environment.colour, np.float32) * np.float32(environment.intensity)
    picture = _surroundings(environment, files) * tint
    picture = np.ascontiguousarray(np.nan_to_num(picture, nan=0.0, posinf=0.0, neginf=0.0), np.float32)
    lit = [light for light in shot.lights if light.on and light.power > 0]
    lamps = np.array([lamp_row(light) for light in lit], np.float32).reshape(-1, LAMP)
    areas = np.array([number for number, light in enumerate(lit) if light.shape in AREAS], np.int32)
    rows, columns, density, mean = _distribution(picture)
    power = np.array([mean * 4 * pi * pi * radius * radius, *[_sent(light, radius) for light in lit]])
    sent = float(power.sum())
    if len(lit) and power[0] > 0:  # an even split wastes little and never starves the weaker of the two
        share = power / power.sum()
        split = np.concatenate([[0.5], 0.5 * power[1:] / power[1:].sum()])
        power = 0.5 * share + 0.5 * split
    total = power.sum()
    chance = (power / total if total > 0 else power).astype(np.float32)
    return Lights(
        picture,
        rows,
        columns,
        density,
        radians(environment.rotation),
        lamps,
        areas,
        chance,
        environment.visible and shot.backdrop is None,
        np.array([group_number(shot, name) for name in (environment.group, *(each.group for each in lit))], np.int32),
        ("", *(each.name for each in shot.light_groups)),
        sent,
        PEAK * mean,
    )


def _surroundings(environment: Environment, files: Files) -> Array:
    """The picture of the surroundings, before its tint: a made sky, a file, or plain white."""
    if environment.sky is not None:
        return sky_picture(environment.sky)
    return np.ones((2, 4, 3), np.float32) if environment.image is None else files.image(environment.image)


def group_number(shot: Shot, name: str | None) -> int:
    """A light group's place, counted from 1; 0 for none, or one that the shot lacks."""
    names = [each.name for each in shot.light_groups]
    return names.index(name) + 1 if name in names else 0


def _sent(light: Light, radius: float) -> float:
    """About how much light a lamp sends into a scene of some radius, watts."""
    wide = pi * radius * radius if light.shape == "sun" else 1.0
    return max(light.power * max(light.colour) * wide, 1e-9)


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
def environment_uv(dx: Float, dy: Float, dz: Float, rotation: Float) -> tuple[Float, Float]:
    """Where a direction lies in the picture, 0…1 from the top left."""
    u = 0.5 + (atan2(dx, -dz) - rotation) / (2.0 * pi)
    return u - np.floor(u), acos(min(max(dy, -1.0), 1.0)) / pi


@inlined
def environment_radiance(picture: Array, u: Float, v: Float) -> tuple[Float, Float, Float]:
    """Bilinear, wrapping around sideways."""
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
    """Chance per steradian of choosing the direction at a place."""
    height, width = density.shape[0], density.shape[1]
    return density[min(int(v * height), height - 1), min(int(u * width), width - 1)]


@inlined
def find_interval(cumulative: Array, x: Float) -> Int:
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
    """A direction, its place in the picture, and its chance per steradian."""
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
    """Radiance `(3, n)` from each direction `(3, n)`."""
    for i in range(direction.shape[1]):
        u, v = environment_uv(direction[0, i], direction[1, i], direction[2, i], rotation)
        out[0, i], out[1, i], out[2, i] = environment_radiance(picture, u, v)
