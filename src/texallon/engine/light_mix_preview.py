"""A picture whose light groups are weighted under a moving hand: of few enough pixels to follow it."""

from math import ceil, sqrt

import numpy as np
from scipy.ndimage import uniform_filter

from texallon.core.kernel import Array
from texallon.core.render.film.light_mix import mix_light_groups

MOST_PIXELS = 80_000
"""Of the picture shown under a moving hand; the whole one follows when the hand rests."""


QUIET = 32
"""Samples from which a light group is shown as it is; before, it is too noisy to be added to what was smoothed."""

REACH = 4
"""Pixels to either side over which noisy groups are spread out, twice."""


class LightMixPreview:
    """What was shown with some weights, and what a change of them makes of it.

    Of noisy groups only the change of light over an area is taken, by which what was smoothed is multiplied: it keeps its detail.
    """

    def __init__(self, shown: Array, weights: Array, groups: Array, noisy: bool = False) -> None:
        """`shown (height, width, 3)` with `weights (groups, 3)`, and the light groups themselves `(groups, height, width, 3)`."""
        height, width, _ = shown.shape
        block = max(ceil(sqrt(height * width / MOST_PIXELS)), 1)
        small = (downsampled(group, block) for group in groups)
        self._shown = downsampled(shown, block)
        self._weights = weights
        self._groups = np.stack([blurred(group, REACH) if noisy else group for group in small])
        self._before = mix_light_groups(self._groups, weights) if noisy else None

    def mix_light_groups(self, weights: Array) -> Array:
        """The picture with other weights, smaller by whole blocks of pixels."""
        if self._before is None:
            return np.maximum(self._shown + mix_light_groups(self._groups, weights - self._weights), 0)
        after = mix_light_groups(self._groups, weights)
        # Where nothing was seen there is nothing to multiply: what stands there, outside a region, stays.
        dark = np.float32(1e-6)
        change = after / np.maximum(self._before, dark)
        return np.where(self._before > dark, self._shown * change, self._shown + after)


def blurred(picture: Array, reach: int) -> Array:
    """Means over squares of `2 reach + 1` pixels, taken twice; beyond the edges a picture goes on as it ends."""
    size = (2 * reach + 1, 2 * reach + 1, 1)
    once = uniform_filter(picture.astype(np.float64), size, mode="nearest")
    return np.asarray(uniform_filter(once, size, mode="nearest"), np.float32)


def downsampled(picture: Array, block: int) -> Array:
    """The mean of blocks of pixels; what is left of a block at the edges is left out."""
    if block == 1:
        return picture
    height, width, _ = picture.shape
    down, across = max(height // block, 1), max(width // block, 1)
    whole = picture[: down * block, : across * block].reshape(down, block, across, block, 3)
    mean: Array = np.asarray(whole.mean(axis=(1, 3)), np.float32)
    return mean
