"""Light groups added up, each in its own strength and colour."""

import numpy as np

from texallon.core.kernel import Array, kernel
from texallon.core.render.workers import workers

ROWS = 64
"""Rows of a picture that one thread takes at a time."""


def mix_light_groups(pictures: Array, weights: Array) -> Array:
    """The sum `(height, width, 3)` of light groups `(groups, height, width, 3)`, weighted by `weights (groups, 3)`.

    Parameters
    ----------
    pictures : Array
        `(groups, height, width, 3)`.
    weights : Array
        `(groups, 3)` of light groups, red, green and blue.

    Returns
    -------
    Array
        `(groups, height, width, 3)`.
    """
    groups, height, width, _ = pictures.shape
    lines, out = pictures.reshape(groups, height, -1), np.zeros((height, width * 3), np.float32)
    along = np.tile(weights, (1, width))

    def one(start: int) -> None:
        add_up(lines[:, start : start + ROWS], along, out[start : start + ROWS])

    for _ in workers().map(one, range(0, height, ROWS)):
        pass
    return out.reshape(height, width, 3)


@kernel
def add_up(lines: Array, weights: Array, out: Array) -> None:
    """Add weighted lines `(groups, height, n)`, `weights (groups, n)`: along a line, so that whole vectors are added.

    Parameters
    ----------
    lines : Array
        `(groups, height, n)`.
    weights : Array
        `(groups, 3)` of light groups, red, green and blue.
    out : Array
        `(height, n)`, added to.
    """
    for y in range(out.shape[0]):
        for group in range(lines.shape[0]):
            for x in range(out.shape[1]):
                out[y, x] += lines[group, y, x] * weights[group, x]
