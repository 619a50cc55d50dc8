"""When a compiled kernel on disk may no longer be used: after a change to its own file, or to any that its file builds on.

The compiler itself looks at a kernel's own file only, and would go on using kernels into which older functions were merged.
"""

import ast
import hashlib
import sys
from functools import cache
from pathlib import Path
from typing import Any

from numba.core.caching import InTreeCacheLocator, UserWideCacheLocator

OURS = ("texallon", "tests", "bench")
"""Packages whose files are followed; others change with their version, which the compiler's own stamp knows."""


@cache
def _used_by(path: str) -> tuple[str, ...]:
    """Files of ours that a file imports from."""
    try:
        tree = ast.parse(Path(path).read_text(encoding="utf-8"))
    except (OSError, SyntaxError, ValueError):
        return ()
    names: set[str] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            names |= {each.name for each in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
            names |= {node.module, *(f"{node.module}.{each.name}" for each in node.names)}
    files = {getattr(sys.modules.get(name), "__file__", None) for name in names if name.split(".")[0] in OURS}
    return tuple(sorted(each for each in files if each))


@cache
def _digest(path: str) -> bytes:
    return hashlib.sha256(Path(path).read_bytes()).digest()


def sources_stamp(path: str) -> str:
    """Changes with the text of a file, and of every file of ours that it imports from, near or far."""
    seen: set[str] = set()
    waiting = [path]
    while waiting:
        current = waiting.pop()
        if current not in seen:
            seen.add(current)
            waiting += _used_by(current)
    total = hashlib.sha256()
    for each in sorted(seen):
        total.update(each.encode())
        total.update(_digest(each))
    return total.hexdigest()


class BesideSources(InTreeCacheLocator):
    """Kernels kept beside their sources."""

    def get_source_stamp(self) -> Any:
        return sources_stamp(self._py_file)


class InHome(UserWideCacheLocator):
    """Kernels kept in the user's cache, where the sources' folder can't be written to."""

    def get_source_stamp(self) -> Any:
        return sources_stamp(self._py_file)
