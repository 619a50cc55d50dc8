"""Equi-angular sampling: points of a ray through a volume at which a lamp's light is sampled, uniform in the angle that the lamp sees them under.

What a small lamp sends to a point falls with the square of the distance. Points where a path is scattered are not drawn by that, and those close to a lamp
would be far too bright (C. Kulla and M. Fajardo, "Importance Sampling Techniques for Path Tracing in Participating Media", CGF 31(4), 2012). About each lamp lies a
ball, of about the mean free path: within it the lamp is sampled at such points only, outside only where a path is scattered, so that all light is counted once.
"""

from math import atan, sqrt, tan
from typing import NamedTuple

from texallon.core.kernel import Float, Int, inlined
from texallon.core.render.light.emitters import Emitters
from texallon.core.render.light.lamps import CENTRE, KIND, POINT, SIDE_U, SIDE_V, SPOT
from texallon.core.render.volume.tables import Line

LEAST = 1e-6
"""Metres that a lamp is at least taken to lie beside a ray."""


class EquiangularSample(NamedTuple):
    """A point of a ray at which a lamp's light is sampled: the lamp's number (−1 for none), metres along the ray, and the probability density per metre of both choices."""

    lamp: Int
    distance: Float
    pdf: Float


@inlined
def no_equiangular_sample() -> EquiangularSample:
    """No lamp is sampled."""
    return EquiangularSample(-1, 2e30, 0.0)


@inlined
def within_reach(emitters: Emitters, k: Int, px: Float, py: Float, pz: Float) -> bool:
    """Whether a point lies in a lamp's ball.

    Parameters
    ----------
    emitters : Emitters
        All light sources.
    k : int
        Number of the lamp.
    px, py, pz : float
        Of the place, metres.
    """
    lamp = emitters.lamps[k]
    x, y, z = px - lamp[CENTRE], py - lamp[CENTRE + 1], pz - lamp[CENTRE + 2]
    near: bool = x * x + y * y + z * z < emitters.reach[k] * emitters.reach[k]
    return near


@inlined
def skip_lamps_in_reach(emitters: Emitters, px: Float, py: Float, pz: Float, pick: Float) -> tuple[Float, Float]:
    """A random number for `sample_light` that chooses none of the lamps in whose balls a place lies, and the chance that this leaves: what is drawn is denser by 1 over it.

    Parameters
    ----------
    emitters : Emitters
        All light sources.
    px, py, pz : float
        Of the place, metres.
    pick : float
        Random number in [0, 1).
    """
    left = 1.0
    for k in range(emitters.lamps.shape[0]):
        if within_reach(emitters, k, px, py, pz):
            left -= emitters.chance[k + 1]
    left = max(left, 0.0)
    chosen = pick * left
    begin = 1.0 * emitters.chance[0]
    for k in range(emitters.lamps.shape[0]):
        if chosen >= begin and within_reach(emitters, k, px, py, pz):
            chosen += emitters.chance[k + 1]
        begin += emitters.chance[k + 1]
    return min(chosen, 0.9999999), left


@inlined
def _subtended(emitters: Emitters, k: Int, line: Line, begin: Float, end: Float) -> tuple[Float, Float, Float, Float]:
    """Of the part of a ray that lies in a lamp's ball: metres to where it is closest to the lamp, how far the lamp lies beside it, and from which angle to which it is passed
    (none where it is not)."""
    lamp = emitters.lamps[k]
    cx, cy, cz = lamp[CENTRE] - line.ox, lamp[CENTRE + 1] - line.oy, lamp[CENTRE + 2] - line.oz
    middle = cx * line.dx + cy * line.dy + cz * line.dz
    bx, by, bz = cx - middle * line.dx, cy - middle * line.dy, cz - middle * line.dz
    beside2 = bx * bx + by * by + bz * bz
    reach2 = emitters.reach[k] * emitters.reach[k] - beside2
    if reach2 <= 0.0:
        return 0.0, 1.0, 0.0, 0.0
    half = sqrt(reach2)
    a, b = max(begin, middle - half) - middle, min(end, middle + half) - middle
    if not a < b:
        return 0.0, 1.0, 0.0, 0.0
    # A lamp of some size is no brighter on the way past than at its edge.
    if int(lamp[KIND]) not in (POINT, SPOT):
        for axis in range(3):
            beside2 += 0.25 * (lamp[SIDE_U + axis] * lamp[SIDE_U + axis] + lamp[SIDE_V + axis] * lamp[SIDE_V + axis])
    beside = sqrt(beside2) + LEAST
    return middle, beside, atan(a / beside), atan(b / beside)


@inlined
def sample_equiangular(
    emitters: Emitters, line: Line, begin: Float, end: Float, pick: Float, u: Float
) -> EquiangularSample:
    """Choose a lamp whose ball a ray passes through, by how much light it brings there, and a point on that way.

    Parameters
    ----------
    emitters : Emitters
        All light sources.
    line : Line
        The ray in the world.
    begin, end : float
        Metres between which it is in volumes.
    pick, u : float
        Random numbers in [0, 1): which lamp, and where.
    """
    chosen: Int = -1
    total = mine = 0.0
    left = pick
    middle, beside, first, last = 0.0, 1.0, 0.0, 0.0
    for k in range(emitters.lamps.shape[0]):
        if emitters.reach[k] <= 0.0 or emitters.chance[k + 1] <= 0.0:
            continue
        m, away, a, b = _subtended(emitters, k, line, begin, end)
        if not a < b:
            continue
        weight = emitters.chance[k + 1] * (b - a) / away
        total += weight
        # Each takes the place of the last with the chance that its share of all so far gives it.
        share = weight / total
        if left < share:
            left = left / share
            chosen, mine = k, weight
            middle, beside, first, last = m, away, a, b
        else:
            left = (left - share) / (1.0 - share)
    distance, pdf = 2e30, 0.0
    if chosen >= 0:
        along = beside * tan(first + u * (last - first))
        pdf = mine / total * beside / ((last - first) * (beside * beside + along * along))
        distance = min(max(middle + along, begin), end)
    return EquiangularSample(chosen, distance, pdf)
