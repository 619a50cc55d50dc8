"""The one way kernels are compiled, and the array types they work on.

NaN and infinity keep their meaning: the fast-math flags that assume them away are left out.
"""

from collections.abc import Callable
from typing import Any, TypeAlias, TypeVar, cast

import llvmlite.binding as llvm
import numba
import numpy as np
import numpy.typing as npt
from numba import njit


def _use_whole_vectors() -> None:
    """Let kernels use 512-bit vectors where the processor has them; the compiler would stop at 256.

    Gradient noise runs 1.5 times as fast so, and nothing was found that runs slower (docs/performance.md).
    """
    features = llvm.get_host_cpu_features()
    settings: Any = numba.config  # its members come from the environment, unseen by the type checker
    if features.get("avx512f") and not settings.CPU_FEATURES:
        settings.CPU_NAME = llvm.get_host_cpu_name()
        settings.CPU_FEATURES = f"{features.flatten()},-prefer-256-bit"


_use_whole_vectors()


def _notice_changed_sources() -> None:
    """Let compiled kernels on disk be used only while nothing that was merged into them has changed."""
    settings: Any = numba.config
    if not settings.CACHE_LOCATOR_CLASSES:
        settings.CACHE_LOCATOR_CLASSES = "texallon.core.kernel_cache.BesideSources,texallon.core.kernel_cache.InHome"


_notice_changed_sources()

Array: TypeAlias = npt.NDArray[np.float32]
"""float32, C-contiguous, structure of arrays: `(width, n)` with width 1 for a scalar and 3 for a colour or vector."""

Integers: TypeAlias = npt.NDArray[np.int32]

Float: TypeAlias = Any
"""A number inside a kernel. Callers pass Python's and NumPy's numbers alike, and their mixed arithmetic, which Numba types
by rules of its own, is beyond the type checker."""

Int: TypeAlias = Any
"""A whole number inside a kernel, likewise."""

_compile: Any = njit  # `_nrt` is named in the compiler's manual, not in its types

TINY = 1e-30
"""A range narrower than this counts as none: its reciprocal would not be a number that can be counted on."""

F = TypeVar("F", bound=Callable[..., Any])

KEPT_FAST_MATH = {"contract", "reassoc", "arcp", "nsz"}
SETTINGS: dict[str, Any] = {"nogil": True, "cache": True, "error_model": "numpy", "fastmath": KEPT_FAST_MATH}


def kernel(function: F) -> F:
    """Compile to vector code that runs without the interpreter's lock and is kept on disk between runs.

    It can't make arrays (see `allocating`), and therefore counts no references, which are atomic operations: where many small
    functions hand arrays to each other those take as long as the work itself (docs/performance.md).

    Parameters
    ----------
    function : F
        To be compiled.
    """
    return cast(F, _compile(_nrt=False, **SETTINGS)(function))


def allocating(function: F) -> F:
    """As `kernel`, for those that make arrays of their own.

    Parameters
    ----------
    function : F
        To be compiled.
    """
    return cast(F, _compile(**SETTINGS)(function))


def inlined(function: F) -> F:
    """As `kernel`, and always merged into its caller: for the small functions of an inner loop.

    Parameters
    ----------
    function : F
        To be compiled.
    """
    return cast(F, _compile(_nrt=False, forceinline=True, **SETTINGS)(function))
