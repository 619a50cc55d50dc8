"""Spores that hang together in clumps, as particles: each with a radius and how ripe it is."""

import numpy as np

from texallon.core.geometry.mesh import Mesh, make_points

CLUMPS = 5
EACH = 46


def spore_cloud() -> Mesh:
    """Five clumps of spores, the outer ones smaller and riper. Carries `radius` in metres and `ripe`, 0…1."""
    random = np.random.default_rng(170)
    places, radii, ripe = [], [], []
    for number in range(CLUMPS):
        turn = 2 * np.pi * number / CLUMPS + 0.5
        middle = np.array([0.2 * np.cos(turn), 0.13 + 0.05 * (number % 3), 0.12 * np.sin(turn)])
        way = random.normal(size=(EACH, 3))
        away = random.uniform(0, 1, EACH) ** 0.55
        places.append(middle + way / np.linalg.norm(way, axis=1, keepdims=True) * away[:, None] * [0.075, 0.09, 0.075])
        radii.append(0.021 - 0.012 * away + random.uniform(-0.002, 0.002, EACH))
        ripe.append(np.clip(away + random.uniform(-0.15, 0.15, EACH), 0, 1))
    return make_points(np.concatenate(places), {"radius": np.concatenate(radii), "ripe": np.concatenate(ripe)})
