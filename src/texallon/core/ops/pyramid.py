"""A picture with its ever smaller copies (mip map), and looking values up in it between pixels and between copies.

Each level is the average of the 2 × 2 pixels of the one before that each of its pixels covers (L. Williams, "Pyramidal Parametrics", SIGGRAPH 1983).
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Float, Int, inlined, kernel

EDGES = {"repeat": 0, "mirror": 1, "hold": 2}


@dataclass(frozen=True)
class Pyramid:
    """`pixels (p, channels)` of all levels, the largest first; `levels (l, 3)`: where each starts, its width, its height."""

    pixels: Array
    levels: npt.NDArray[np.int64]

    @property
    def width(self) -> int:
        return int(self.levels[0, 1])

    @property
    def height(self) -> int:
        return int(self.levels[0, 2])

    @property
    def channels(self) -> int:
        return int(self.pixels.shape[1])


def make_pyramid(picture: Array) -> Pyramid:
    """The pyramid of a picture `(height, width, channels)`, its first row at the top.

    Parameters
    ----------
    picture : Array
        `(height, width, channels)`.
    """
    level = np.ascontiguousarray(picture, np.float32)
    levels, rows, start = [], [], 0
    while True:
        height, width, channels = level.shape
        levels.append((start, width, height))
        rows.append(level.reshape(-1, channels))
        start += width * height
        if width == 1 and height == 1:
            break
        level = halved(halved(level, 0), 1)
    return Pyramid(np.concatenate(rows).astype(np.float32), np.array(levels, np.int64))


def halved(level: Array, axis: int) -> Array:
    """Half as many pixels along an axis, rounded up, each the mean of the part of the picture that it covers.

    Where the number is odd pixels count by the share of them that is covered, so that every level has the picture's mean.

    Parameters
    ----------
    level : Array
        The value at which it splits; of a picture one level of its pyramid.
    axis : int
        Along which.
    """
    size = level.shape[axis]
    if size == 1:
        return level
    count = (size + 1) // 2
    summed = np.zeros((size + 1, *np.delete(level.shape, axis)), np.float64)
    np.cumsum(np.moveaxis(level, axis, 0), axis=0, dtype=np.float64, out=summed[1:])
    edges = np.linspace(0, size, count + 1)
    first = np.minimum(edges.astype(int), size - 1)
    part = (edges - first).reshape(-1, *([1] * (level.ndim - 1)))
    at = summed[first] + part * (summed[first + 1] - summed[first])
    made: Array = np.moveaxis(np.diff(at, axis=0) * (count / size), 0, axis).astype(np.float32)
    return np.ascontiguousarray(made)


@inlined
def within(k: Int, size: Int, edge: Int) -> Int:
    """A pixel's number brought into the picture: repeated, mirrored, or held at the edge.

    Parameters
    ----------
    k : int
        Number of the pixel.
    size : int
        Pixels.
    edge : int
        What happens beyond the edges, by its number.
    """
    if edge == 0:
        k = k % size
    elif edge == 1:
        k = k % (2 * size)
        k = 2 * size - 1 - k if k >= size else k
    return min(max(k, 0), size - 1)


@inlined
def between_pixels(pixels: Array, start: Int, width: Int, height: Int, c: Int, u: Float, v: Float, edge: Int) -> Float:
    """Bilinear interpolation in one level; `u` goes right and `v` up.

    Parameters
    ----------
    pixels : Array
        `(p, channels)` of all levels.
    start : int
        Where the level starts in `pixels`.
    width : int
        Pixels across.
    height : int
        Pixels down.
    c : int
        Channel.
    u : float
        To the right, 0…1.
    v : float
        Up, 0…1.
    edge : int
        What happens beyond the edges, by its number.
    """
    x = u * np.float32(width) - np.float32(0.5)
    y = (np.float32(1) - v) * np.float32(height) - np.float32(0.5)
    fx, fy = np.floor(x), np.floor(y)
    tx, ty = x - fx, y - fy
    left, right = within(np.int64(fx), width, edge), within(np.int64(fx) + 1, width, edge)
    top, bottom = within(np.int64(fy), height, edge), within(np.int64(fy) + 1, height, edge)
    a, b = pixels[start + top * width + left, c], pixels[start + top * width + right, c]
    d, e = pixels[start + bottom * width + left, c], pixels[start + bottom * width + right, c]
    upper, lower = a + tx * (b - a), d + tx * (e - d)
    return upper + ty * (lower - upper)


@kernel
def look_up(
    pixels: Array, levels: Any, u: Array, v: Array, width: Array, edge: Int, first: Int, weight: Array, out: Array
) -> None:
    """Add `weight (n,)` times the picture at `u`, `v` `(n,)` to `out (channels, n)`, the channels from `first` on.

    `width (n,)` is the sample's width as a share of the picture; the two nearest levels are mixed. NaN coordinates give NaN.

    Parameters
    ----------
    pixels : Array
        `(p, channels)` of all levels.
    levels : object
        `(l, 3)` start, width and height of each level.
    u : Array
        `(n,)` to the right.
    v : Array
        `(n,)` up.
    width : Array
        `(n,)` sample's width as a share of the picture.
    edge : int
        What happens beyond the edges, by its number.
    first : int
        First of the channels.
    weight : Array
        `(n,)`.
    out : Array
        `(width, n)`, filled.
    """
    last = levels.shape[0] - 1
    largest = np.float32(max(levels[0, 1], levels[0, 2]))
    zero = np.float32(0)
    for i in range(out.shape[1]):
        if not (abs(u[i]) < np.float32(1e9) and abs(v[i]) < np.float32(1e9)):
            if weight[i] != zero:
                for c in range(out.shape[0]):
                    out[c, i] = np.float32(np.nan)
            continue
        level = np.log2(max(width[i] * largest, np.float32(1)))
        level = min(level, np.float32(last)) if level == level else np.float32(last)
        fine = np.int64(level)
        t = level - np.float32(fine)
        coarse = min(fine + 1, last)
        for c in range(out.shape[0]):
            a = between_pixels(pixels, levels[fine, 0], levels[fine, 1], levels[fine, 2], first + c, u[i], v[i], edge)
            if t > zero:
                b = between_pixels(
                    pixels, levels[coarse, 0], levels[coarse, 1], levels[coarse, 2], first + c, u[i], v[i], edge
                )
                a += t * (b - a)
            out[c, i] += weight[i] * a
