"""Smoothing the noise of early pictures with Open Image Denoise, tile by tile so that it can be interrupted."""

from collections.abc import Callable
from threading import Lock
from typing import Literal

import numpy as np
import pyoidn

from texallon.core.kernel import Array, Float, allocating

TILE = 192
MARGIN = 24
"""Pixels around a tile that it is denoised with, so that tiles meet without a seam."""

_one_at_a_time = Lock()


def denoise(
    picture: Array,
    albedo: Array,
    normal: Array,
    check: Callable[[], None] = lambda: None,
    tile: int = TILE,
    quality: Literal["fast", "high"] = "fast",
) -> Array:
    """A smoothed copy of scene-linear light; all arrays `(height, width, 3)`. `check` is called before every tile.

    Bright points do not grow: no pixel becomes brighter than its noisy neighbours, nor a block of pixels with bright points in it than
    it was on the whole.

    Parameters
    ----------
    picture : Array
        `(height, width, 3)` scene-linear light.
    albedo, normal : Array
        `(height, width, 3)` of what is seen first.
    check : callable, optional
        Called between pieces of work; may raise `Interrupted`.
    tile : int, optional
        Pixels along a side of what is smoothed at once.
    quality : str, optional
        `high` for finished pictures.

    Returns
    -------
    Array
        `(height, width, 3)`.
    """
    height, width, _ = picture.shape
    if not np.isfinite(picture).all():
        picture = np.nan_to_num(picture, nan=0.0, posinf=0.0, neginf=0.0)
    out = np.empty_like(picture)
    rows = max(1, round(height / tile))
    columns = max(1, round(width / tile))
    for j in range(rows):
        for i in range(columns):
            check()
            top, bottom = height * j // rows, height * (j + 1) // rows
            left, right = width * i // columns, width * (i + 1) // columns
            t, b = max(top - MARGIN, 0), min(bottom + MARGIN, height)
            s, e = max(left - MARGIN, 0), min(right + MARGIN, width)
            piece = [np.ascontiguousarray(array[t:b, s:e]) for array in (picture, albedo, normal)]
            with _one_at_a_time:
                smooth = pyoidn.denoise(piece[0], albedo=piece[1], normal=piece[2], hdr=True, quality=quality)
            out[top:bottom, left:right] = smooth[top - t : bottom - t, left - s : right - s]
    keep_energy(np.ascontiguousarray(picture, np.float32), out, quality == "high")
    return out


NEAR, BLOCK, GLINT = 2, 32, 12.0
"""Pixels around one that it is held by; the side of blocks; and how many times brighter than its block a pixel is a bright point."""


@allocating
def keep_energy(noisy: Array, smooth: Array, give_back: bool) -> None:
    """Hold a smoothed picture to the noisy one, in place; both `(height, width, 3)`.

    `give_back` what smoothing took from bright points: in finished pictures they are light, in early ones mostly chance.

    Parameters
    ----------
    noisy : Array
        `(height, width, 3)`.
    smooth : Array
        `(height, width, 3)`, changed in place.
    give_back : bool
        Whether light that was lost is given back.
    """
    height, width = noisy.shape[0], noisy.shape[1]
    rows, columns = (height + BLOCK - 1) // BLOCK, (width + BLOCK - 1) // BLOCK
    factor = np.ones((rows, columns), np.float32)
    for y in range(height):
        for x in range(width):
            for c in range(3):
                most: Float = np.float32(0)
                for v in range(max(y - NEAR, 0), min(y + NEAR + 1, height)):
                    for u in range(max(x - NEAR, 0), min(x + NEAR + 1, width)):
                        most = max(most, noisy[v, u, c])
                smooth[y, x, c] = min(max(smooth[y, x, c], np.float32(0)), most)
    for j in range(rows):
        for i in range(columns):
            before, after, brightest = 0.0, 0.0, 0.0
            top, left = j * BLOCK, i * BLOCK
            bottom, right = min(top + BLOCK, height), min(left + BLOCK, width)
            for y in range(top, bottom):
                for x in range(left, right):
                    light = noisy[y, x, 0] + noisy[y, x, 1] + noisy[y, x, 2]
                    before += light
                    after += smooth[y, x, 0] + smooth[y, x, 1] + smooth[y, x, 2]
                    brightest = max(brightest, light)
            mean = before / ((bottom - top) * (right - left))
            if not brightest > GLINT * mean:
                continue
            if after > before:
                factor[j, i] = np.float32(before / after)
            elif give_back:
                taken = 0.0
                for y in range(top, bottom):
                    for x in range(left, right):
                        if noisy[y, x, 0] + noisy[y, x, 1] + noisy[y, x, 2] > GLINT * mean:
                            for c in range(3):
                                taken += max(noisy[y, x, c] - smooth[y, x, c], np.float32(0))
                share = np.float32(min((before - after) / taken, 1.0)) if taken > 0.0 else np.float32(0)
                for y in range(top, bottom):
                    for x in range(left, right):
                        if noisy[y, x, 0] + noisy[y, x, 1] + noisy[y, x, 2] > GLINT * mean:
                            for c in range(3):
                                smooth[y, x, c] += share * max(noisy[y, x, c] - smooth[y, x, c], np.float32(0))
    for y in range(height):
        for x in range(width):
            scale = factor[y // BLOCK, x // BLOCK]
            if scale < np.float32(1):
                for c in range(3):
                    smooth[y, x, c] *= scale
