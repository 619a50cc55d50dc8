"""How far light comes in what is about a lamp."""

import numpy as np

from texallon.core.derived import Cost, derived
from texallon.core.kernel import Array
from texallon.core.ops.points import transform_points
from texallon.core.render.light.lamps import CENTRE, KIND, LAMP, SUN
from texallon.core.render.volume.inside import inside
from texallon.core.render.volume.quantities import ABSORPTION, DENSITY, SCATTERING
from texallon.core.render.volume.volumes import Container, MediumSource

RADII = np.array([0.0, 0.05, 0.15, 0.4, 1.0, 2.5, 6.0, 15.0, 40.0], np.float32)
"""Metres from a lamp at which what is about it is looked at."""

DEPTH = 1.5
"""Optical depth at which what a lamp sends out is mostly scattered already."""

WAYS = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], np.float32).T


@derived("about lamps", cost=Cost.INSTANT)
def extinction_about(source: MediumSource, container: Container, lamps: Array) -> Array:
    """What a volume takes of light about lamps, per metre, on average at some distances.

    Parameters
    ----------
    source : MediumSource
        What fills it.
    container : Container
        Where.
    lamps : Array
        `(l, LAMP)` the table of lamps.

    Returns
    -------
    Array
        `(l, RADII)`.
    """
    centres = lamps[:, CENTRE : CENTRE + 3]
    places = centres[:, :, None, None] + RADII[None, None, :, None] * WAYS[None, :, None, :]
    world = np.ascontiguousarray(places.transpose(1, 0, 2, 3).reshape(3, -1), np.float32)
    full = np.vstack([container.matrix, [0, 0, 0, 1]]).astype(np.float64)
    own = np.empty_like(world)
    transform_points(np.linalg.inv(full)[:3].astype(np.float32), world, own)
    there = np.flatnonzero(inside(container, own))
    taken = np.zeros(world.shape[1], np.float32)
    if len(there):
        made = source.quantities(np.ascontiguousarray(own[:, there]), float(RADII[1]))
        both = made[SCATTERING : SCATTERING + 3] + made[ABSORPTION : ABSORPTION + 3]
        taken[there] = (made[DENSITY] * both).max(axis=0)
    mean: Array = taken.reshape(len(centres), len(RADII), -1).mean(axis=2)
    return mean


def reach_of_lamps(lamps: Array, extinction: Array) -> Array:
    """Metres about each lamp, `(l,)`, in which what it sends out is mostly scattered; 0 for suns, infinite where little is in its way.

    Parameters
    ----------
    lamps : Array
        `(l, LAMP)` the table of lamps.
    extinction : Array
        `(l, RADII)` of all volumes together.
    """
    step = np.diff(RADII)
    depth = np.cumsum(0.5 * (extinction[:, 1:] + extinction[:, :-1]) * step, axis=1)
    reach = np.full(len(lamps), np.inf, np.float32)
    for k in np.flatnonzero(depth[:, -1] > DEPTH):
        reach[k] = np.interp(DEPTH, np.concatenate([[0], depth[k]]), RADII)
    reach[lamps.reshape(-1, LAMP)[:, KIND] == SUN] = 0
    return reach
