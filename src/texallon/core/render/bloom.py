"""Spreading bright light over its surroundings, in scene-linear light, so that none is gained or lost.

The spread falls off as 1 / (1 + (r / s)²)^1.5, whose long tail is that of scattering in an eye or lens (after G. Spencer et al.,
"Physically-Based Glare Effects for Digital Images", SIGGRAPH 1995); it adds up to 1. What would leave the picture leaves it.
"""

import numpy as np
import numpy.typing as npt

from texallon.core.document.bloom import Bloom
from texallon.core.kernel import Array

SUPPORT = 6
"""Radii of the glow after which its tail is cut off."""


def bloomed(picture: Array, bloom: Bloom) -> Array:
    """The picture `(height, width, 3)` with its glow; the picture itself where there is none."""
    if bloom.intensity <= 0:
        return picture
    brightness = picture.max(axis=2, keepdims=True)
    # The part above the threshold, in the light's own colour.
    above = np.clip(1 - bloom.threshold / np.maximum(brightness, 1e-20), 0, 1)
    bright = np.nan_to_num(picture * above, nan=0.0, posinf=0.0, neginf=0.0) * np.float32(bloom.intensity)
    if not bright.any():
        return picture
    result: Array = (picture - bright + spread(bright, bloom.size * picture.shape[1])).astype(np.float32)
    return result


def spread(light: Array, radius: float) -> npt.NDArray[np.float64]:
    """Light `(height, width, 3)` convolved with the glow of a radius in pixels, by Fourier transform."""
    height, width, _ = light.shape
    reach = int(np.ceil(min(radius * SUPPORT, max(height, width))))
    kernel = glow(radius, reach)
    shape = (height + 2 * reach, width + 2 * reach)
    transformed = np.fft.rfft2(kernel, shape)
    out = np.empty(light.shape)
    for c in range(3):
        full = np.fft.irfft2(np.fft.rfft2(light[:, :, c], shape) * transformed, shape)
        out[:, :, c] = full[reach : reach + height, reach : reach + width]
    lit: npt.NDArray[np.float64] = np.maximum(out, 0)
    return lit


def glow(radius: float, reach: int) -> npt.NDArray[np.float64]:
    """The spread of one pixel's light, `(2 reach + 1)` squared, adding up to 1."""
    line = np.arange(-reach, reach + 1)
    away2 = (line[:, None] ** 2 + line[None, :] ** 2) / max(radius, 0.25) ** 2
    kernel: npt.NDArray[np.float64] = (1 + away2) ** -1.5
    kernel /= kernel.sum()
    return kernel
