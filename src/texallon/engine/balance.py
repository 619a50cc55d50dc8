"""A picture whose light groups are weighed under a moving hand: of few enough pixels to follow it."""

from math import ceil, sqrt

import numpy as np

from texallon.core.kernel import Array
from texallon.core.render.weigh import weighed

MOST_PIXELS = 80_000
"""Of the picture shown under a moving hand; the whole one follows when the hand rests."""


class Balance:
    """What was shown with some weights, and what a change of them adds to it."""

    def __init__(self, shown: Array, weights: Array, groups: Array) -> None:
        """`shown (height, width, 3)` with `weights (groups, 3)`, and the light groups themselves `(groups, height, width, 3)`."""
        height, width, _ = shown.shape
        block = max(ceil(sqrt(height * width / MOST_PIXELS)), 1)
        self._shown = shrunk(shown, block)
        self._weights = weights
        self._groups = np.stack([shrunk(group, block) for group in groups])

    def weighed(self, weights: Array) -> Array:
        """The picture with other weights, smaller by whole blocks of pixels."""
        return np.maximum(self._shown + weighed(self._groups, weights - self._weights), 0)


def shrunk(picture: Array, block: int) -> Array:
    """The mean of blocks of pixels; what is left of a block at the edges is left out."""
    if block == 1:
        return picture
    height, width, _ = picture.shape
    down, across = max(height // block, 1), max(width // block, 1)
    whole = picture[: down * block, : across * block].reshape(down, block, across, block, 3)
    mean: Array = np.asarray(whole.mean(axis=(1, 3)), np.float32)
    return mean
