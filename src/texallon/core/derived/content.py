"""Keys by content: equal values have equal keys, in every process and on every machine."""

import dataclasses
import hashlib
import struct
from collections.abc import Mapping
from enum import Enum
from typing import Any

import numpy as np
from pydantic import BaseModel

BYTES = 16
"""Length of a key: two different values share one with a chance below 10⁻²⁰ even among 10⁹ of them."""


def content_key(value: Any) -> str:
    """A hash of what a value holds.

    Parameters
    ----------
    value : Any
        Numbers, strings, bytes, arrays, models of the document, dataclasses, tuples, lists, sets and mappings of these, or anything
        with a `content_key` of its own (derived values, meshes, plans).

    Returns
    -------
    str
        32 hexadecimal digits.

    Raises
    ------
    TypeError
        For a value whose content can't be read, such as a function or an open file.

    Examples
    --------
    >>> content_key((1, "a")) == content_key((1, "a"))
    True
    >>> content_key(1) == content_key(1.0)
    False
    """
    digest = hashlib.blake2b(digest_size=BYTES)
    _feed(digest, value)
    return digest.hexdigest()


def _feed(digest: Any, value: Any) -> None:
    """Put a value into a digest. Every kind opens with a letter of its own, and every run of bytes with its length."""
    own = getattr(value, "content_key", None)
    if isinstance(own, str):
        _put(digest, b"k", own.encode())
    elif value is None or isinstance(value, (bool, np.bool_)):
        _put(digest, b"b", repr(value).encode())
    elif isinstance(value, Enum):
        _put(digest, b"e", f"{type(value).__name__}.{value.name}".encode())
    elif isinstance(value, (int, np.integer)):
        _put(digest, b"i", str(int(value)).encode())
    elif isinstance(value, (float, np.floating)):
        _put(digest, b"f", struct.pack("<d", float(value)))
    elif isinstance(value, str):
        _put(digest, b"s", value.encode())
    elif isinstance(value, bytes):
        _put(digest, b"y", value)
    elif isinstance(value, np.ndarray):
        _put(digest, b"a", f"{value.dtype.str}{value.shape}".encode())
        digest.update(np.ascontiguousarray(value).data)
    elif isinstance(value, BaseModel):
        _put(digest, b"m", type(value).__name__.encode())
        # As what its members are, not as what they are declared to be: a member's subclass may hold more.
        _put(digest, b"j", value.model_dump_json(serialize_as_any=True).encode())
    elif isinstance(value, (tuple, list)):
        _put(digest, b"t", str(len(value)).encode())
        for each in value:
            _feed(digest, each)
    elif isinstance(value, (set, frozenset)):
        _feed(digest, tuple(sorted(content_key(each) for each in value)))
    elif isinstance(value, Mapping):
        _put(digest, b"d", str(len(value)).encode())
        for key in sorted(value, key=str):
            _feed(digest, key)
            _feed(digest, value[key])
    elif dataclasses.is_dataclass(value) and not isinstance(value, type):
        _put(digest, b"c", type(value).__name__.encode())
        for field in dataclasses.fields(value):
            _feed(digest, getattr(value, field.name))
    else:
        raise TypeError(f"{type(value).__name__} has no content to be identified by, so nothing can be derived from it")


def _put(digest: Any, kind: bytes, data: bytes) -> None:
    digest.update(kind)
    digest.update(struct.pack("<q", len(data)))
    digest.update(data)
