"""Steam as a voxel grid: puffs that rise, widen, thin out and are carried aside, as a small simulation might leave them."""

import numpy as np
import numpy.typing as npt

SIZE = (56, 96, 56)
VOXEL = 0.01
PUFFS = 150


def steam() -> tuple[npt.NDArray[np.float32], npt.NDArray[np.float64]]:
    """Density per metre, and `(3, 4)` from indices to metres: it rises from the origin."""
    random = np.random.default_rng(223)
    to_place = np.zeros((3, 4))
    to_place[:, :3] = np.eye(3) * VOXEL
    to_place[:, 3] = (-SIZE[0] / 2 * VOXEL, 0.0, -SIZE[2] / 2 * VOXEL)
    x, y, z = (np.indices(SIZE) * VOXEL + to_place[:, 3].reshape(3, 1, 1, 1)).astype(np.float32)
    density = np.zeros(SIZE, np.float32)
    for risen in np.sort(random.uniform(0, 1, PUFFS)) ** 0.8:
        wide = 0.018 + 0.055 * risen
        turn = 5.0 * risen + random.normal() * 0.7
        aside = 0.12 * risen**1.4
        middle = (aside * np.cos(turn), 0.02 + 0.86 * risen, aside * np.sin(turn))
        away = (x - middle[0]) ** 2 + ((y - middle[1]) / 1.3) ** 2 + (z - middle[2]) ** 2
        density += np.exp(-away / wide**2) * np.float32(9.0 * (1 - risen) ** 1.5 * (0.018 / wide) ** 0.8)
    edge = np.minimum.reduce([0.28 - np.abs(x), 0.95 - y, 0.28 - np.abs(z)])
    made: npt.NDArray[np.float32] = (density * np.clip(edge / 0.06, 0, 1)).astype(np.float32)
    made[made < 0.01] = 0
    return made, to_place
