"""What tells one state of the core's code, its compiler and the processor from another."""

import hashlib
from functools import cache
from pathlib import Path

import llvmlite.binding as llvm
import numba

import texallon.core


@cache
def code_digest() -> str:
    """Changes whenever compiled kernels, or values computed before, may no longer fit."""
    digest = hashlib.sha256(f"{numba.__version__} {llvm.get_host_cpu_name()}".encode())
    for path in sorted(Path(texallon.core.__path__[0]).rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()
