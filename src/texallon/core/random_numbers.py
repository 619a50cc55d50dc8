"""Counter-based random numbers: four from a pixel, a sample, a dimension and a seed, always the same four.

PCG4D from M. Jarzynski and M. Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020.
"""

import numpy as np

from texallon.core.kernel import Float, Int, inlined

TO_UNIT = np.float32(2.0**-32)
BELOW_ONE = np.float32(1.0 - 2.0**-24)


@inlined
def pcg4d(x: Int, y: Int, z: Int, w: Int) -> tuple[Int, Int, Int, Int]:
    """Four well-mixed 32-bit numbers from four.

    Parameters
    ----------
    x, y, z, w : int
        A 32-bit integer.
    """
    a, b, m = np.uint32(1664525), np.uint32(1013904223), np.uint32(16)
    x = np.uint32(np.uint32(x) * a + b)
    y = np.uint32(np.uint32(y) * a + b)
    z = np.uint32(np.uint32(z) * a + b)
    w = np.uint32(np.uint32(w) * a + b)
    x = np.uint32(x + np.uint32(y * w))
    y = np.uint32(y + np.uint32(z * x))
    z = np.uint32(z + np.uint32(x * y))
    w = np.uint32(w + np.uint32(y * z))
    x = np.uint32(x ^ (x >> m))
    y = np.uint32(y ^ (y >> m))
    z = np.uint32(z ^ (z >> m))
    w = np.uint32(w ^ (w >> m))
    x = np.uint32(x + np.uint32(y * w))
    y = np.uint32(y + np.uint32(z * x))
    z = np.uint32(z + np.uint32(x * y))
    w = np.uint32(w + np.uint32(y * z))
    return x, y, z, w


@inlined
def uniform4(pixel: Int, sample: Int, dimension: Int, seed: Int) -> tuple[Float, Float, Float, Float]:
    """Four float32 numbers in [0, 1).

    Parameters
    ----------
    pixel : int
        Number of the pixel.
    sample : int
        Number of the sample.
    dimension : int
        Which of a sample's random numbers.
    seed : int
        Of the random numbers.
    """
    x, y, z, w = pcg4d(pixel, sample, dimension, seed)
    return (
        min(np.float32(x) * TO_UNIT, BELOW_ONE),
        min(np.float32(y) * TO_UNIT, BELOW_ONE),
        min(np.float32(z) * TO_UNIT, BELOW_ONE),
        min(np.float32(w) * TO_UNIT, BELOW_ONE),
    )
