"""Where the copies of an array stand, in the space of their object."""

import numpy as np

from texallon.core.document.array import GridArray, RingArray
from texallon.core.geometry.geometry import Matrix4


def array_places(array: GridArray | RingArray | None) -> list[Matrix4]:
    """A `(4, 4)` matrix for each copy, always in the same order: along x first, then y, then z; or around.

    Parameters
    ----------
    array : GridArray or RingArray, optional
        Of an object; of none it stands where it stands.
    """
    if array is None:
        return [np.eye(4)]
    if isinstance(array, RingArray):
        return [_around(array, 2 * np.pi * number / array.count) for number in range(array.count)]
    found = []
    middle = (np.array(array.counts) - 1) / 2
    for z in range(array.counts[2]):
        for y in range(array.counts[1]):
            for x in range(array.counts[0]):
                made = np.eye(4)
                # Level by level upwards; about its place along the others.
                made[:3, 3] = (np.array([x, y, z]) - [middle[0], 0, middle[2]]) * array.spacing
                found.append(made)
    return found


def _around(array: RingArray, angle: float) -> Matrix4:
    cos, sin = np.cos(angle), np.sin(angle)
    made = np.eye(4)
    if array.turned:
        made[:3, :3] = [[cos, 0, sin], [0, 1, 0], [-sin, 0, cos]]
    made[:3, 3] = [array.radius * sin, 0.0, array.radius * cos]
    return made
