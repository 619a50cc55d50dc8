"""When a compiled kernel on disk may no longer be used: after a change to its own file, or to any that its file builds on.

The compiler itself looks at a kernel's own file only, and would go on using kernels into which older functions were merged.
"""

import hashlib
import re
import sys
from functools import cache
from pathlib import Path
from typing import Any

from numba.core.caching import IndexDataCacheFile, InTreeCacheLocator, UserWideCacheLocator

OURS = ("texallon", "tests", "bench")
"""Packages whose files are followed; others change with their version, which the compiler's own stamp knows."""


IMPORTS = re.compile(r"^\s*(?:from ([\w.]+) import (\([^)]*\)|[^\n]*)|import ([\w., ]+))", re.MULTILINE)
"""Import statements. A parser would take half a second for all files, this 22 ms, at every start."""


@cache
def _read(path: str) -> tuple[bytes, tuple[str, ...]]:
    """A file's digest, and the files of ours that it imports from."""
    try:
        data = Path(path).read_bytes()
    except OSError:
        return b"", ()
    names: set[str] = set()
    for module, members, plain in IMPORTS.findall(data.decode("utf-8", "replace")):
        names |= {each.strip().split(" ")[0] for each in plain.split(",")}
        names |= {module, *(f"{module}.{each}" for each in re.findall(r"\w+", members))}
    files = {getattr(sys.modules.get(name), "__file__", None) for name in names if name.split(".")[0] in OURS}
    return hashlib.sha256(data).digest(), tuple(sorted(each for each in files if each))


def sources_stamp(path: str) -> str:
    """Changes with the text of a file, and of every file of ours that it imports from, near or far.

    Parameters
    ----------
    path : str
        Of a source file.
    """
    seen: set[str] = set()
    waiting = [path]
    while waiting:
        current = waiting.pop()
        if current not in seen:
            seen.add(current)
            waiting += _read(current)[1]
    total = hashlib.sha256()
    for each in sorted(seen):
        total.update(each.encode())
        total.update(_read(each)[0])
    return total.hexdigest()


class BesideSources(InTreeCacheLocator):
    """Kernels kept beside their sources."""

    def get_source_stamp(self) -> Any:
        return sources_stamp(self._py_file)


class InHome(UserWideCacheLocator):
    """Kernels kept in the user's cache, where the sources' folder can't be written to."""

    def get_source_stamp(self) -> Any:
        return sources_stamp(self._py_file)


def _forgive_moved_types() -> None:
    """Let an index that names types of modules which have since moved or gone count as stale; the compiler would fail on it."""
    kept: Any = IndexDataCacheFile
    load = kept._load_index

    def forgiving(self: Any) -> Any:
        try:
            return load(self)
        except (ImportError, AttributeError):
            return {}

    kept._load_index = forgiving


_forgive_moved_types()
