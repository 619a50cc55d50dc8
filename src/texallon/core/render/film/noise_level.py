"""How noisy parts of a picture still are.

The difference between all samples and half of them, over the root of the light: H. Dammertz, J. Hanika, A. Keller and H. Lensch, "A
Hierarchical Automatic Stopping Condition for Monte Carlo Global Illumination", WSCG 2010, on even tiles.
"""

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Integers

TILE = 16
"""Pixels along a tile's side."""


def tile_errors(sums: Array, half: Array, counts: Integers, size: tuple[int, int]) -> npt.NDArray[np.float64]:
    """Error of each tile, relative to the root of its light.

    `sums (3, n)` of all `counts (n,)` samples, `half (3, n)` of every second one; `size` is height and width. A tile's error falls as
    the root of its samples.

    Parameters
    ----------
    sums : Array
        `(3, pixels)` light added up.
    half : Array
        `(3, pixels)` of every second sample.
    counts : Integers
        `(pixels,)` samples.
    size : tuple
        `(height, width)`.
    """
    height, width = size
    number = np.maximum(counts, 1)
    whole = (sums / number).sum(axis=0, dtype=np.float64)
    part = (half / np.maximum(counts // 2, 1)).sum(axis=0, dtype=np.float64)
    error = np.abs(whole - part) / np.sqrt(np.maximum(whole, 1e-4))
    rows, columns = -(-height // TILE), -(-width // TILE)
    padded = np.full((rows * TILE, columns * TILE), np.nan)
    padded[:height, :width] = np.where(counts > 0, error, np.nan).reshape(height, width)
    with np.errstate(invalid="ignore"):
        tiles = padded.reshape(rows, TILE, columns, TILE)
        filled = np.isfinite(tiles).sum(axis=(1, 3))
        errors: npt.NDArray[np.float64] = np.nansum(tiles, axis=(1, 3)) / np.maximum(filled, 1)
    return errors
