"""Spreading bright light over its surroundings, in scene-linear light, so that none is gained or lost.

The spread falls off as 1 / (1 + (r / s)²)^1.5, whose long tail is that of scattering in an eye or lens (after G. Spencer et al.,
"Physically-Based Glare Effects for Digital Images", SIGGRAPH 1995); it adds up to 1. What would leave the picture leaves it.
"""

import numpy as np
import numpy.typing as npt
from scipy.fft import next_fast_len

from texallon.core.derived import DerivedStore, derived
from texallon.core.document.bloom import Bloom
from texallon.core.kernel import Array, Float, Int, inlined, kernel
from texallon.core.render.workers import workers

BLOCK = 4
"""Width of the blocks by which a rough glow is spread."""

ROWS = 64
"""Rows of pixels that one thread takes at a time."""

SUPPORT, FADES = 6, 0.5
"""Radii of the glow at which its tail has ended, and the share of that from which on it fades."""


def bloomed(picture: Array, bloom: Bloom, rough: bool = False, store: DerivedStore | None = None) -> Array:
    """The picture `(height, width, 3)` with its glow; the picture itself where there is none.

    `rough` spreads the light over blocks of pixels, for a picture that is about to be followed by a better one.

    Parameters
    ----------
    picture : Array
        `(height, width, 3)` scene-linear light.
    bloom : Bloom
        Threshold, intensity and radius.
    rough : bool, optional
        Whether a quicker glow of the same light will do.
    store : DerivedStore, optional
        Where transformed glows are kept.

    Returns
    -------
    Array
        `(height, width, 3)`.
    """
    if bloom.intensity <= 0:
        return picture
    block = BLOCK if rough else 1
    light = light_above(picture, bloom, block)
    if not light.any():
        return picture
    around = spread(light, bloom.size * picture.shape[1] / block, store)
    if rough:
        around = interpolated(around, *picture.shape[:2])
    exchange(picture, bloom.threshold, bloom.intensity, around)
    return around


@inlined
def share_above(r: Float, g: Float, b: Float, threshold: Float, intensity: Float) -> Float:
    """The share of a pixel's light that is spread: of what its brightest channel has above the threshold.

    Parameters
    ----------
    r : float
        Red, linear.
    g : float
        Green, linear.
    b : float
        Blue, linear.
    threshold : float
        Light above which a pixel spreads any.
    intensity : float
        Share of what lies above that is spread.
    """
    most = max(r, g, b)
    # What is not a finite number is neither above nor below, and would spread over everything.
    if not (most > threshold and r - r == 0.0 and g - g == 0.0 and b - b == 0.0):
        return np.float32(0)
    return np.float32(intensity) * (np.float32(1) - np.float32(threshold) / most)


def light_above(picture: Array, bloom: Bloom, block: int = 1) -> Array:
    """The light that is spread, in its own colour, added up over blocks of pixels, `(blocks down, blocks across, 3)`.

    The last blocks of a row or column may be cut off.

    Parameters
    ----------
    picture : Array
        `(height, width, 3)` scene-linear light.
    bloom : Bloom
        Threshold, intensity and radius.
    block : int, optional
        Pixels along a side of a block.

    Returns
    -------
    Array
        `(blocks down, blocks across, 3)`.
    """
    height, width, _ = picture.shape
    out = np.zeros((-(-height // block), -(-width // block), 3), np.float32)
    rows = max(ROWS // block, 1)

    def one(start: int) -> None:
        above = picture[start * block : (start + rows) * block]
        gather(above, bloom.threshold, bloom.intensity, block, out[start : start + rows])

    for _ in workers().map(one, range(0, len(out), rows)):
        pass
    return out


@kernel
def gather(picture: Array, threshold: Float, intensity: Float, block: Int, out: Array) -> None:
    """Add up what is spread, by blocks of pixels.

    Parameters
    ----------
    picture : Array
        `(height, width, 3)` scene-linear light.
    threshold : float
        Light above which a pixel spreads any.
    intensity : float
        Share of what lies above that is spread.
    block : int
        Pixels along a side of a block.
    out : Array
        `(blocks down, blocks across, 3)`, filled.
    """
    for y in range(picture.shape[0]):
        for x in range(picture.shape[1]):
            r, g, b = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
            share = share_above(r, g, b, threshold, intensity)
            if share > 0.0:
                out[y // block, x // block, 0] += r * share
                out[y // block, x // block, 1] += g * share
                out[y // block, x // block, 2] += b * share


@kernel
def exchange(picture: Array, threshold: Float, intensity: Float, glow: Array) -> None:
    """Add to a glow what of the picture is not spread.

    Parameters
    ----------
    picture : Array
        `(height, width, 3)` scene-linear light.
    threshold : float
        Light above which a pixel spreads any.
    intensity : float
        Share of what lies above that is spread.
    glow : Array
        `(height, width, 3)`, added to in place.
    """
    for y in range(picture.shape[0]):
        for x in range(picture.shape[1]):
            r, g, b = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
            kept = np.float32(1) - share_above(r, g, b, threshold, intensity)
            glow[y, x, 0] += r * kept
            glow[y, x, 1] += g * kept
            glow[y, x, 2] += b * kept


def between(length: int, blocks: int) -> tuple[npt.NDArray[np.intp], Array]:
    """For pixels along a line the block `(length,)` whose centre comes before, and how far they are on the way to the next.

    Parameters
    ----------
    length : int
        Pixels.
    blocks : int
        Number of them, or their light `(down, across, 3)`.
    """
    place = np.clip((np.arange(length) + 0.5) / BLOCK - 0.5, 0, blocks - 1)
    before = np.minimum(place.astype(np.intp), max(blocks - 2, 0))
    return before, (place - before).astype(np.float32)


def interpolated(blocks: Array, height: int, width: int) -> Array:
    """Light of blocks spread over their pixels, with straight passages from centre to centre.

    None is gained or lost by that, but for what of a last block lies outside the picture.

    Parameters
    ----------
    blocks : Array
        Number of them, or their light `(down, across, 3)`.
    height : int
        Pixels down.
    width : int
        Pixels across.
    """
    out = np.empty((height, width, 3), np.float32)
    top, v = between(height, blocks.shape[0])
    left, u = between(width, blocks.shape[1])
    padded = np.pad(blocks * np.float32(1 / BLOCK**2), ((0, 1), (0, 1), (0, 0)), mode="edge")

    def one(start: int) -> None:
        part = slice(start, start + ROWS)
        fill_between(padded, top[part], v[part], left, u, out[part])

    for _ in workers().map(one, range(0, height, ROWS)):
        pass
    return out


@kernel
def fill_between(
    small: Array, top: npt.NDArray[np.intp], v: Array, left: npt.NDArray[np.intp], u: Array, out: Array
) -> None:
    """Bilinear interpolation at known places.

    Parameters
    ----------
    small : Array
        `(down, across, 3)` light of blocks.
    top : Array
        `(height,)` block above.
    v : Array
        `(height,)` 0…1.
    left : Array
        `(width,)` block to the left.
    u : Array
        `(width,)` 0…1.
    out : Array
        `(blocks down, blocks across, 3)`, filled.
    """
    one = np.float32(1)
    for y in range(out.shape[0]):
        t, q = top[y], v[y]
        for x in range(out.shape[1]):
            s, p = left[x], u[x]
            for c in range(3):
                above = small[t, s, c] * (one - p) + small[t, s + 1, c] * p
                below = small[t + 1, s, c] * (one - p) + small[t + 1, s + 1, c] * p
                out[y, x, c] = above * (one - q) + below * q


def spread(light: Array, radius: float, store: DerivedStore | None = None) -> Array:
    """Light `(height, width, 3)` convolved with the glow of a radius in pixels, by Fourier transform.

    Parameters
    ----------
    light : Array
        `(height, width, 3)`.
    radius : float
        Pixels.
    store : DerivedStore, optional
        Where transformed glows are kept.

    Returns
    -------
    Array
        `(height, width, 3)`.
    """
    height, width, _ = light.shape
    reach = int(np.ceil(min(radius * SUPPORT, max(height, width))))
    # Half of what a whole convolution needs: what wraps round falls on the margin that is cut away.
    shape = next_fast_len(height + reach, real=True), next_fast_len(width + reach, real=True)
    wanted = transformed_glow.of(radius, reach, shape)
    transformed = (DerivedStore() if store is None else store).value(wanted)
    out = np.empty(light.shape, np.float32)

    def one(channel: int) -> None:
        plane = np.fft.rfft2(np.ascontiguousarray(light[:, :, channel], np.float32), shape)
        full = np.fft.irfft2(plane * transformed, shape)
        np.maximum(full[reach : reach + height, reach : reach + width], 0, out=out[:, :, channel])

    for _ in workers().map(one, range(3)):
        pass
    return out


@derived("glow")
def transformed_glow(radius: float, reach: int, shape: tuple[int, int]) -> npt.NDArray[np.complex64]:
    """The glow's Fourier transform over a picture of some shape.

    Parameters
    ----------
    radius : float
        Pixels.
    reach : int
        Pixels to either side.
    shape : tuple
        `(height, width)` of what is transformed.
    """
    size = 2 * reach + 1
    wrapped = np.zeros(shape, np.float32)
    kernel = glow(radius, reach).astype(np.float32)
    rows, columns = np.arange(size) % shape[0], np.arange(size) % shape[1]
    np.add.at(wrapped, (rows[:, None], columns[None]), kernel)
    transformed: npt.NDArray[np.complex64] = np.fft.rfft2(wrapped).astype(np.complex64)
    return transformed


def glow(radius: float, reach: int) -> npt.NDArray[np.float64]:
    """The spread of one pixel's light, `(2 reach + 1)` squared, adding up to 1.

    Parameters
    ----------
    radius : float
        Pixels.
    reach : int
        Pixels to either side.

    Returns
    -------
    Array
        `(2 reach + 1)`.
    """
    line = np.arange(-reach, reach + 1)
    away2 = (line[:, None] ** 2 + line[None, :] ** 2) / max(radius, 0.25) ** 2
    # It ends in a circle, and gently: a bright light's glow would show the edge where it is cut off.
    left = np.clip((1 - np.sqrt(away2) / SUPPORT) / (1 - FADES), 0, 1)
    kernel: npt.NDArray[np.float64] = (1 + away2) ** -1.5 * left * left * (3 - 2 * left)
    kernel /= kernel.sum()
    return kernel
