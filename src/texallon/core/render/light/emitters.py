"""All light sources as arrays, and the choice of one direction in which a point may find light (next-event estimation)."""

from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Float, Int, Integers, inlined
from texallon.core.render.light.environment import environment_radiance, find_interval, sample_environment, turned_out
from texallon.core.render.light.lamps import sample_lamp
from texallon.core.render.light.volume_lights import VolumeLights, sample_volume

ENVIRONMENT, VOLUME = -2, -3
"""Stand in place of a shining face where the environment or a volume was asked; of a volume the number is the first barycentric."""


class Emitters(NamedTuple):
    """All light sources as arrays, for kernels; see `Lights` and `MeshLights`.

    `chance (l + 2,)`: of the environment, each lamp, and the surfaces that shine; what is left is that of `volumes`. `group (l + 1,)`: the light group of the
    first l + 1; `tilt (3, 3)` turns the environment's directions into the world's; surfaces have theirs by instance, `group_of (i,)`. `peak`: radiance above which the environment is too bright to be left
    to chance. `reach (l,)`: metres about each lamp within which rays through volumes sample its light by equi-angular sampling (see `equiangular`).
    """

    picture: Array
    rows: Array
    columns: Array
    pdf: Array
    rotation: float
    tilt: Array
    background: bool
    lamps: Array
    areas: Integers
    chance: Array
    group: Integers
    group_of: Integers
    cumulative: Array
    corners: Array
    per_area: Array
    first: Integers
    instance: Integers
    peak: float
    volumes: VolumeLights
    reach: Array


class LightSample(NamedTuple):
    """One direction `w` in which a point may find light: the metres to it, its density per steradian (0 for none), its radiance, whether
    the light has no extent, and its group; of a shining surface the face and the place on it `s`, `t` (else −1; `ENVIRONMENT`, `VOLUME`); the number of
    the lamp, −1 where it is none."""

    wx: Float
    wy: Float
    wz: Float
    far: Float
    pdf: Float
    r: Float
    g: Float
    b: Float
    bare: bool
    group: Int
    emissive_face: Int
    s: Float
    t: Float
    lamp: Int


@inlined
def volume_chance(emitters: Emitters) -> Float:
    """The chance that volumes are asked.

    Parameters
    ----------
    emitters : Emitters
        All light sources.
    """
    if emitters.volumes.volume.shape[0] == 0:
        return 0.0
    total: Float = 0.0
    for each in range(emitters.chance.shape[0]):
        total += emitters.chance[each]
    return max(1.0 - total, 0.0)


@inlined
def sample_light(
    emitters: Emitters, px: Float, py: Float, pz: Float, pick: Float, u: Float, v: Float, offset: Float
) -> LightSample:
    """Choose a light source, and a direction to it.

    Parameters
    ----------
    emitters : Emitters
        All light sources.
    px, py, pz : float
        Of the point, metres.
    pick : float
        Random number in [0, 1): which source.
    u : float
        In [0, 1), random or across the picture.
    v : float
        In [0, 1), random or down the picture.
    offset : float
        Metres that the shadow ray starts above its surface.
    """
    chance, cumulative = emitters.chance, emitters.cumulative
    last = chance.shape[0] - 1
    which = 0
    left = pick
    while which < last and left >= chance[which]:
        left -= chance[which]
        which += 1
    wx, wy, wz, far, p = 0.0, 1.0, 0.0, 1e30, 0.0
    r = g = b = 0.0
    bare = False
    emissive_face: Int = -1
    s = t = 0.0
    group: Int = 0
    lamp: Int = -1
    likely = 1.0 * chance[which]
    if left >= chance[last] and which == last and emitters.volumes.volume.shape[0] > 0:
        likely = volume_chance(emitters)
        again = min(max((left - chance[last]) / likely if likely > 0.0 else 0.5, 0.0), 0.9999999)
        k, wx, wy, wz, far, p = sample_volume(emitters.volumes, px, py, pz, again, u, v)
        r = g = b = float(emitters.volumes.along[k])
        group = emitters.volumes.group[k]
        far = max(far - 2.0 * offset, 0.0)
        emissive_face = VOLUME
        s = float(k)
    elif chance[which] > 0.0:
        if which == 0:
            wx, wy, wz, pu, pv, p = sample_environment(
                emitters.rows, emitters.columns, emitters.pdf, emitters.rotation, u, v
            )
            wx, wy, wz = turned_out(emitters.tilt, wx, wy, wz)
            r, g, b = environment_radiance(emitters.picture, pu, pv)
            group = emitters.group[0]
            emissive_face = ENVIRONMENT
        elif which < last:
            wx, wy, wz, far, p, r, g, b, bare = sample_lamp(emitters.lamps, which - 1, px, py, pz, u, v)
            # The ray starts an offset above the surface, and must end before the light it asks for.
            far = max(far * 0.9999 - 2.0 * offset, 0.0)
            group = emitters.group[which]
            lamp = which - 1
        else:
            emissive_face = find_interval(cumulative, u)
            span = cumulative[emissive_face + 1] - cumulative[emissive_face]
            root = np.sqrt((u - cumulative[emissive_face]) / span if span > 0.0 else 0.5)
            s, t = root * (1.0 - v), root * v  # even over the triangle (G. Turk, Graphics Gems, 1990)
            wx, wy, wz, far, p = _towards(emitters.corners, emitters.per_area, emissive_face, px, py, pz, s, t)
            far = max(far * 0.9999 - 2.0 * offset, 0.0)
            r = g = b = 1.0
            group = emitters.group_of[emitters.instance[emissive_face]]
    return LightSample(wx, wy, wz, far, p * likely, r, g, b, bare, group, emissive_face, s, t, lamp)


@inlined
def ask_lamp(emitters: Emitters, k: Int, px: Float, py: Float, pz: Float, u: Float, v: Float) -> LightSample:
    """A direction to one lamp from a place that no surface is at; its density does not count how likely the lamp was chosen.

    Parameters
    ----------
    emitters : Emitters
        All light sources.
    k : int
        Number of the lamp; −1 for none, which gives a density of 0.
    px, py, pz : float
        Of the place, metres.
    u, v : float
        Random numbers in [0, 1).
    """
    wx, wy, wz, far, p = 0.0, 1.0, 0.0, 1e30, 0.0
    r = g = b = 0.0
    bare = False
    group: Int = 0
    if k >= 0:
        wx, wy, wz, far, p, r, g, b, bare = sample_lamp(emitters.lamps, k, px, py, pz, u, v)
        group = emitters.group[k + 1]
    return LightSample(wx, wy, wz, far * 0.9999, p, r, g, b, bare, group, -1, 0.0, 0.0, k)


@inlined
def _towards(
    corners: Array, per_area: Array, face: Int, px: Float, py: Float, pz: Float, s: Float, t: Float
) -> tuple[Float, Float, Float, Float, Float]:
    """Direction, distance and density of a place on a shining face."""
    ex, ey, ez = (
        corners[face, 3] - corners[face, 0],
        corners[face, 4] - corners[face, 1],
        corners[face, 5] - corners[face, 2],
    )
    fx, fy, fz = (
        corners[face, 6] - corners[face, 0],
        corners[face, 7] - corners[face, 1],
        corners[face, 8] - corners[face, 2],
    )
    wx = corners[face, 0] + s * ex + t * fx - px
    wy = corners[face, 1] + s * ey + t * fy - py
    wz = corners[face, 2] + s * ez + t * fz - pz
    away2 = max(wx * wx + wy * wy + wz * wz, 1e-12)
    far = np.sqrt(away2)
    wx, wy, wz = wx / far, wy / far, wz / far
    nx, ny, nz = ey * fz - ez * fy, ez * fx - ex * fz, ex * fy - ey * fx
    length = np.sqrt(nx * nx + ny * ny + nz * nz)
    facing = abs(wx * nx + wy * ny + wz * nz) / length if length > 0.0 else 0.0
    return wx, wy, wz, far, (per_area[face] * away2 / facing if facing > 1e-6 else 0.0)
