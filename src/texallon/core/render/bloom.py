"""Spreading bright light over its surroundings, in scene-linear light, so that none is gained or lost.

The spread falls off as 1 / (1 + (r / s)²)^1.5, whose long tail is that of scattering in an eye or lens (after G. Spencer et al.,
"Physically-Based Glare Effects for Digital Images", SIGGRAPH 1995); it adds up to 1. What would leave the picture leaves it.
"""

from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from texallon.core.document.bloom import Bloom
from texallon.core.kernel import Array

SUPPORT = 6
"""Radii of the glow after which its tail is cut off."""


def bloomed(picture: Array, bloom: Bloom, rough: bool = False) -> Array:
    """The picture `(height, width, 3)` with its glow; the picture itself where there is none.

    `rough` spreads the light at half the size, for a picture that is about to be followed by a better one.
    """
    if bloom.intensity <= 0:
        return picture
    # Channel by channel: several times as fast as a maximum along the short last axis.
    brightness = np.maximum(np.maximum(picture[:, :, 0], picture[:, :, 1]), picture[:, :, 2])[:, :, None]
    # The part above the threshold, in the light's own colour.
    above = np.clip(1 - bloom.threshold / np.maximum(brightness, 1e-20), 0, 1)
    bright: Array = np.asarray(
        np.nan_to_num(picture * above, nan=0.0, posinf=0.0, neginf=0.0) * np.float32(bloom.intensity), np.float32
    )
    if not bright.any():
        return picture
    radius = bloom.size * picture.shape[1]
    around = halved_spread(bright, radius) if rough else spread(bright, radius)
    result: Array = (picture - bright + around).astype(np.float32)
    return result


def halved_spread(light: Array, radius: float) -> Array:
    """As `spread`, over blocks of two by two pixels; no light is gained or lost by that."""
    height, width, _ = light.shape
    whole = np.zeros((height + height % 2, width + width % 2, 3), np.float32)
    whole[:height, :width] = light
    small = (whole[::2, ::2] + whole[1::2, ::2] + whole[::2, 1::2] + whole[1::2, 1::2]) * np.float32(0.25)
    spread_out = spread(small, radius / 2)
    blocks: Array = np.asarray(np.repeat(np.repeat(spread_out, 2, axis=0), 2, axis=1)[:height, :width], np.float32)
    return blocks


def spread(light: Array, radius: float) -> Array:
    """Light `(height, width, 3)` convolved with the glow of a radius in pixels, by Fourier transform."""
    height, width, _ = light.shape
    reach = int(np.ceil(min(radius * SUPPORT, max(height, width))))
    # Half of what a whole convolution needs: what wraps round falls on the margin that is cut away.
    shape = quick_length(height + reach), quick_length(width + reach)
    transformed = transformed_glow(radius, reach, shape)

    def one(channel: int) -> Array:
        plane = np.fft.rfft2(np.ascontiguousarray(light[:, :, channel], np.float32), shape)
        full = np.fft.irfft2(plane * transformed, shape)
        part: Array = np.asarray(full[reach : reach + height, reach : reach + width], np.float32)
        return part

    with ThreadPoolExecutor(3) as pool:
        planes = list(pool.map(one, range(3)))
    out: Array = np.asarray(np.maximum(np.stack(planes, axis=2), 0), np.float32)
    return out


@lru_cache(maxsize=8)
def transformed_glow(radius: float, reach: int, shape: tuple[int, int]) -> npt.NDArray[np.complex64]:
    """The glow's Fourier transform over a picture of some shape."""
    size = 2 * reach + 1
    wrapped = np.zeros(shape, np.float32)
    kernel = glow(radius, reach).astype(np.float32)
    rows, columns = np.arange(size) % shape[0], np.arange(size) % shape[1]
    np.add.at(wrapped, (rows[:, None], columns[None]), kernel)
    transformed: npt.NDArray[np.complex64] = np.fft.rfft2(wrapped).astype(np.complex64)
    return transformed


def quick_length(least: int) -> int:
    """The next length whose factors are 2, 3 and 5 only, which transforms quickly."""
    length = least
    while True:
        rest = length
        for factor in (2, 3, 5):
            while rest % factor == 0:
                rest //= factor
        if rest == 1:
            return length
        length += 1


def glow(radius: float, reach: int) -> npt.NDArray[np.float64]:
    """The spread of one pixel's light, `(2 reach + 1)` squared, adding up to 1."""
    line = np.arange(-reach, reach + 1)
    away2 = (line[:, None] ** 2 + line[None, :] ** 2) / max(radius, 0.25) ** 2
    kernel: npt.NDArray[np.float64] = (1 + away2) ** -1.5
    kernel /= kernel.sum()
    return kernel
