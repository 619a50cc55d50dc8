"""How much memory values hold: each array counted once, however many values share it."""

import dataclasses
from collections.abc import Iterator, Mapping
from mmap import mmap
from typing import Any

import numpy as np

SMALL = 256
"""Bytes that a value of no arrays counts for."""


def buffers(value: Any) -> dict[int, int]:
    """The blocks of memory that a value keeps alive.

    Parameters
    ----------
    value : Any
        Arrays, dataclasses, tuples, lists and mappings of these; others count by their `nbytes`, if they have it. An array that lies in
        a mapped file takes disk, and memory only as long as nobody else needs it: it counts as small.

    Returns
    -------
    dict
        Bytes by an identity of the block, the same for all views of one array.

    Examples
    --------
    >>> a = np.zeros(10, np.float32)
    >>> sum(buffers((a, a[2:4])).values())
    40
    """
    found: dict[int, int] = {}
    for identity, size in _walk(value, set()):
        found[identity] = max(found.get(identity, 0), size)
    return found


def _walk(value: Any, seen: set[int]) -> Iterator[tuple[int, int]]:
    if isinstance(value, np.ndarray):
        base: Any = value
        while isinstance(base.base, np.ndarray):
            base = base.base
        owner = base.base.obj if isinstance(base.base, memoryview) else base.base
        yield id(base), SMALL if isinstance(owner, mmap) else base.nbytes
        return
    if value is None or isinstance(value, (bool, int, float, str, type)) or id(value) in seen:
        return
    seen.add(id(value))
    own = getattr(value, "nbytes", None)
    if isinstance(own, int):
        yield id(value), own
    elif isinstance(value, bytes):
        yield id(value), len(value)
    elif isinstance(value, Mapping):
        for each in value.values():
            yield from _walk(each, seen)
    elif isinstance(value, (tuple, list)):
        for each in value:
            yield from _walk(each, seen)
    elif dataclasses.is_dataclass(value):
        for field in dataclasses.fields(value):
            yield from _walk(getattr(value, field.name), seen)
    elif hasattr(value, "__dict__"):
        for each in vars(value).values():
            if isinstance(each, (np.ndarray, Mapping, tuple, list)) or dataclasses.is_dataclass(each):
                yield from _walk(each, seen)
