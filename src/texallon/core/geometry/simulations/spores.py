"""Drifting spores."""

import numpy as np

from texallon.core.document.simulation import Spores
from texallon.core.geometry.mesh import Mesh, make_points
from texallon.core.geometry.simulations.chances import chances

BORDER = 0.08
"""Of the box along the wind: within it spores swell from nothing, so that none is seen to come or go."""


def make_spores(spores: Spores) -> Mesh:
    """All spores, as points.

    Parameters
    ----------
    spores : Spores
        At their moment.
    """
    numbers = np.arange(spores.count, dtype=np.int64)
    size = np.array([spores.width, spores.height, spores.depth])
    start, own = (
        chances(numbers, 0, spores.seed).astype(np.float64),
        chances(numbers, 1, spores.seed).astype(np.float64),
    )
    wind = np.array(spores.wind) / size
    share = (start[:, :3] + wind * spores.seconds) % 1.0
    within = np.minimum(share, 1 - share)
    blown = np.abs(wind) > 0
    swell = np.clip(within[:, blown] / BORDER, 0, 1).min(axis=1) if blown.any() else np.ones(spores.count)
    # Three slow swings and three quicker, smaller ones for each spore.
    turns = 2 * np.pi * (spores.seconds * spores.restless * np.array([[1.0], [1.9]]) * (0.6 + 0.8 * own[:, 3]))
    stray = np.sin(turns[0][:, None] + 2 * np.pi * own[:, :3]) + 0.5 * np.sin(
        turns[1][:, None] + 2 * np.pi * own[:, [1, 2, 0]]
    )
    at = (share - [0.5, 0.0, 0.5]) * size + stray * (spores.wavering / 1.5)
    radius = spores.radius * (0.5 + start[:, 3]) * swell
    return make_points(at, {"radius": radius, "number": numbers.astype(np.float64) % 2**20})
