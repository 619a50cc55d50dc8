"""Smoothing the noise of early pictures with Open Image Denoise, tile by tile so that it can be interrupted."""

from collections.abc import Callable
from threading import Lock

import numpy as np
import pyoidn

from texallon.core.kernel import Array

TILE = 192
MARGIN = 24
"""Pixels around a tile that it is denoised with, so that tiles meet without a seam."""

_one_at_a_time = Lock()


def denoise(
    picture: Array, albedo: Array, normal: Array, check: Callable[[], None] = lambda: None, tile: int = TILE
) -> Array:
    """A smoothed copy of scene-linear light; all arrays `(height, width, 3)`. `check` is called before every tile."""
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
                smooth = pyoidn.denoise(piece[0], albedo=piece[1], normal=piece[2], hdr=True, quality="fast")
            out[top:bottom, left:right] = smooth[top - t : bottom - t, left - s : right - s]
    return out
