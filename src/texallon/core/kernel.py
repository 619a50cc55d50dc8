"""The one way kernels are compiled, and the array types they work on.

NaN and infinity keep their meaning: the fast-math flags that assume them away are left out.
"""

from collections.abc import Callable
from typing import Any, TypeAlias, TypeVar, cast

import numpy as np
import numpy.typing as npt
from numba import njit

Array: TypeAlias = npt.NDArray[np.float32]
"""float32, C-contiguous, structure of arrays: `(width, n)` with width 1 for a scalar and 3 for a colour or vector."""

Integers: TypeAlias = npt.NDArray[np.int32]

F = TypeVar("F", bound=Callable[..., Any])

KEPT_FAST_MATH = {"contract", "reassoc", "arcp", "nsz"}


def kernel(function: F) -> F:
    """Compile to vector code that runs without the interpreter's lock and is kept on disk between runs."""
    return cast(F, njit(nogil=True, cache=True, error_model="numpy", fastmath=KEPT_FAST_MATH)(function))


def inlined(function: F) -> F:
    """As `kernel`, and always merged into its caller: for the small functions of an inner loop."""
    compiled = njit(nogil=True, cache=True, error_model="numpy", fastmath=KEPT_FAST_MATH, forceinline=True)(function)
    return cast(F, compiled)
