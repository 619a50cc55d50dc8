"""Random numbers that stay with the members of a simulation."""

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, allocating
from texallon.core.random_numbers import uniform4


@allocating
def _fill(numbers: npt.NDArray[np.int64], dimension: int, seed: int, out: Array) -> None:
    for k in range(len(numbers)):
        low = np.uint32(numbers[k] & 0xFFFFFFFF)
        high = np.uint32((numbers[k] >> 32) & 0xFFFFFFFF)
        out[k, 0], out[k, 1], out[k, 2], out[k, 3] = uniform4(low, high, np.uint32(dimension), np.uint32(seed))


def chances(numbers: npt.NDArray[np.int64], dimension: int, seed: int) -> Array:
    """Four numbers in [0, 1) for each member, `(k, 4)`, the same whenever it is asked.

    Parameters
    ----------
    numbers : Integers
        `(k,)` of the members.
    dimension : int
        Which of their random numbers.
    seed : int
        Of the simulation.
    """
    out = np.empty((len(numbers), 4), np.float32)
    _fill(np.ascontiguousarray(numbers, np.int64), dimension, seed, out)
    return out
