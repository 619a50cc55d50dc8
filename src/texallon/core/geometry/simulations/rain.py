"""Falling drops."""

import numpy as np

from texallon.core.document.simulation import Rain
from texallon.core.geometry.mesh import Mesh, make_points
from texallon.core.geometry.simulations.chances import chances

NUMBERED = 2**20
"""Numbers of members as attributes stay below this, so that single precision holds them."""


def make_rain(rain: Rain) -> Mesh:
    """The drops that are in the air or have just hit, as points.

    Parameters
    ----------
    rain : Rain
        At its moment.
    """
    first = int(np.floor((rain.seconds - rain.rests) * rain.rate)) - 1
    last = int(np.ceil((rain.seconds + rain.height / rain.speed) * rain.rate)) + 1
    numbers = np.arange(first, last + 1, dtype=np.int64)
    place = chances(numbers, 0, rain.seed)
    hits = (numbers + place[:, 3].astype(np.float64)) / max(rain.rate, 1e-12)
    age = rain.seconds - hits
    high = np.maximum(-age, 0) * rain.speed
    seen = (age <= rain.rests) & (high <= rain.height) & (rain.rate > 0)
    at = np.stack([(place[:, 0] - 0.5) * rain.width, high, (place[:, 1] - 0.5) * rain.depth], axis=1)
    radius = np.where(seen, rain.radius * (0.5 + place[:, 2]), 0.0)
    if not seen.any():
        # Particles are never none; what has no size is left out.
        return make_points([[0.0, 0.0, 0.0]], {"radius": [0.0], "age": [0.0], "number": [0.0]})
    carried = {"radius": radius, "age": age, "number": (numbers % NUMBERED).astype(np.float64)}
    return make_points(at[seen], {name: each[seen] for name, each in carried.items()})
