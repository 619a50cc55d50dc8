"""Drops in the moment in which they meet the floor, as particles: where they fell, and how long ago."""

import numpy as np

from texallon.core.geometry.mesh import Mesh, make_points

FALLEN = ((-0.55, 0.30), (0.62, -0.25), (0.10, 0.55))


def rain_drops() -> Mesh:
    """Three drops, each followed by finer ones above it. Carries `radius` in metres."""
    random = np.random.default_rng(140)
    places, radii = [], []
    for x, z in FALLEN:
        places.append([x, 0.16, z])
        radii.append(0.035)
        for _ in range(9):
            places.append([x + random.normal(0, 0.05), 0.3 + random.uniform(0, 0.5), z + random.normal(0, 0.05)])
            radii.append(random.uniform(0.006, 0.014))
    return make_points(np.array(places), {"radius": np.array(radii)})
