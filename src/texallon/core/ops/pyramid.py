"""A picture with its ever smaller copies (mip map), and looking values up in it between pixels and between copies.

Each level is the average of the 2 × 2 pixels of the one before that each of its pixels covers (L. Williams, "Pyramidal Parametrics", SIGGRAPH 1983).

A pyramid is built from bands of rows, so that of a large picture never more than a band is held in memory beside the pyramid itself,
which may lie in a file (see `Room`).
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any, Protocol

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


class Room(Protocol):
    """Where the pixels of a pyramid are put: in memory, or in a file that is mapped into it."""

    pixels: Array

    def rest(self) -> None:
        """Nothing of it is wanted for the moment."""


class InMemory(Room):
    """Room in memory.

    Parameters
    ----------
    count : int
        Pixels of all levels.
    channels : int
        Numbers of each.
    """

    def __init__(self, count: int, channels: int) -> None:
        self.pixels = np.empty((count, channels), np.float32)

    def rest(self) -> None:
        pass


BAND = 1 << 20
"""Pixels of a band, about."""


def level_sizes(width: int, height: int) -> npt.NDArray[np.int64]:
    """Where the levels of a picture start, and their sizes.

    Parameters
    ----------
    width : int
        Pixels across.
    height : int
        Pixels down.

    Returns
    -------
    NDArray
        `(l, 3)` start, width and height of each level, the largest first.

    Examples
    --------
    >>> level_sizes(5, 2).tolist()
    [[0, 5, 2], [10, 3, 1], [13, 2, 1], [15, 1, 1]]
    """
    levels, start = [], 0
    while True:
        levels.append((start, width, height))
        start += width * height
        if width == 1 and height == 1:
            return np.array(levels, np.int64)
        width, height = (width + 1) // 2, (height + 1) // 2


def pixel_count(levels: npt.NDArray[np.int64]) -> int:
    """How many pixels all levels have together.

    Parameters
    ----------
    levels : NDArray
        `(l, 3)`, as `level_sizes` gives it.
    """
    return int(levels[-1, 0] + levels[-1, 1] * levels[-1, 2])


def make_pyramid(picture: Array) -> Pyramid:
    """The pyramid of a picture `(height, width, channels)`, its first row at the top.

    Parameters
    ----------
    picture : Array
        `(height, width, channels)`.
    """
    height, width, channels = picture.shape
    levels = level_sizes(width, height)
    return build_pyramid(levels, [picture], InMemory(pixel_count(levels), channels))


def build_pyramid(levels: npt.NDArray[np.int64], bands: Iterable[Array], room: Room) -> Pyramid:
    """The pyramid of a picture that comes in bands of rows, the first at the top.

    Parameters
    ----------
    levels : NDArray
        `(l, 3)`, as `level_sizes` gives it.
    bands : Iterable
        `(rows, width, channels)` each, together the picture.
    room : Room
        For the pixels of all levels.
    """
    pixels = room.pixels
    at = 0
    for band in bands:
        rows = band.reshape(-1, pixels.shape[1])
        pixels[at : at + len(rows)] = rows
        at += len(rows)
        room.rest()
    for level in range(1, len(levels)):
        start, width, height = levels[level - 1]
        larger = pixels[start : start + width * height].reshape(height, width, -1)
        at = int(levels[level, 0])
        for band in _smaller(larger):
            rows = band.reshape(-1, pixels.shape[1])
            pixels[at : at + len(rows)] = rows
            at += len(rows)
            room.rest()
    return Pyramid(pixels, levels)


def _smaller(level: Array) -> Iterator[Array]:
    """Half a level in both directions, in bands of rows."""
    rows = max(BAND // level.shape[1], 1)
    for band in _halved_rows(level, rows):
        yield halved(band, 1)


def _halved_rows(level: Array, rows: int) -> Iterator[Array]:
    """As `halved` along the first axis, in bands of about `rows` rows; the sum so far is carried from each to the next."""
    size = len(level)
    if size == 1:
        yield level
        return
    count = (size + 1) // 2
    edges = np.linspace(0, size, count + 1)
    first = np.minimum(edges.astype(int), size - 1)
    part = (edges - first).reshape(-1, *([1] * (level.ndim - 1)))
    before = np.zeros((1, *level.shape[1:]), np.float64)
    last = before[:0]
    for a in range(0, size, rows):
        summed = np.concatenate([before, level[a : a + rows]], dtype=np.float64)
        np.cumsum(summed, axis=0, out=summed)
        here = slice(*np.searchsorted(first, (a, a + rows)))
        k = first[here] - a
        at = np.concatenate([last, summed[k] + part[here] * (summed[k + 1] - summed[k])])
        yield (np.diff(at, axis=0) * (count / size)).astype(np.float32)
        before, last = summed[-1:].copy(), at[-1:]


def halved(level: Array, axis: int) -> Array:
    """Half as many pixels along an axis, rounded up, each the mean of the part of the picture that it covers.

    Where the number is odd pixels count by the share of them that is covered, so that every level has the picture's mean.

    Parameters
    ----------
    level : Array
        Of a picture one level of its pyramid.
    axis : int
        Along which.
    """
    turned = np.moveaxis(level, axis, 0)
    made: Array = np.moveaxis(np.concatenate(list(_halved_rows(turned, len(turned)))), 0, axis)
    return np.ascontiguousarray(made, np.float32)


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
