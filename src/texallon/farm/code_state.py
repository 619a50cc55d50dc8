"""What tells one state of the code from another, as far as frames depend on it: workers that differ in it would make frames that don't fit together."""

import hashlib
from functools import cache
from importlib.metadata import version
from pathlib import Path

import texallon

LIBRARIES = ("numpy", "numba", "llvmlite", "embreex", "scipy", "opencolorio", "OpenEXR", "OpenImageIO", "openvdb")
"""Whose numbers end up in pictures."""


class OtherCodeError(RuntimeError):
    """A worker was given a task of another state of the code."""


@cache
def code_state() -> str:
    """A digest of the package's code and the versions of the libraries that frames depend on; the machine is no part of it."""
    digest = hashlib.sha256()
    root = Path(texallon.__path__[0])
    for path in sorted(root.rglob("*.py")):
        digest.update(path.relative_to(root).as_posix().encode() + b"\0" + path.read_bytes() + b"\0")
    for name in LIBRARIES:
        digest.update(f"{name} {_version(name)}\0".encode())
    return digest.hexdigest()


def _version(name: str) -> str:
    try:
        return version(name)
    except ModuleNotFoundError:  # not from the registry: its own digest is no part of this
        return ""


def check_code(wanted: str) -> None:
    """Raise `OtherCodeError` where a task was made by another state of the code than this process runs.

    Parameters
    ----------
    wanted : str
        As the task says; empty for any.
    """
    if wanted and wanted != code_state():
        raise OtherCodeError("this worker runs another state of the code than whoever sent the task")
