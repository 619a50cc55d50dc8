"""What rounds the join of two values where they are nearly the same."""

import numpy as np

from texallon.core.kernel import Array


def rounding(a: Array, b: Array, soft: float) -> Array:
    """By how much the lower (or higher) of two values lies lower (higher) where they differ by less than `soft`: a quarter of it where they are the same.

    Parameters
    ----------
    a, b : Array
        Of shapes that go together.
    soft : float
        Above 0.

    Returns
    -------
    Array
        0…`soft` / 4; 0 where either is not finite.
    """
    with np.errstate(invalid="ignore"):
        near = np.maximum(np.float32(1) - np.abs(a - b) / np.float32(soft), np.float32(0))
    made: Array = np.nan_to_num(near, nan=0.0) ** 2 * np.float32(soft / 4)
    return made
