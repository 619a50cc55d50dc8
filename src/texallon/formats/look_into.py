"""Looking into a stranger's file in a process of its own, which may break without harm."""

import json
import resource
import subprocess
import sys
import tempfile
from threading import BoundedSemaphore
from typing import Any

AT_ONCE = BoundedSemaphore(2)
"""Files that are looked into at one time: each reader may take a gigabyte. Others wait their turn."""

READER_MEMORY = 4_000_000_000
"""Bytes that a reader may take (setrlimit(2))."""


class UnusableFileError(ValueError):
    """A file that can't be used, in words for a person."""


def _limit() -> None:
    resource.setrlimit(resource.RLIMIT_DATA, (READER_MEMORY, READER_MEMORY))


def look_into_file(module: str, data: bytes, kind: str, seconds: float) -> dict[str, Any]:
    """The JSON that `python -m MODULE FILE KIND` prints about some bytes; raises `UnusableFileError` whatever they did to it."""
    with AT_ONCE, tempfile.NamedTemporaryFile(suffix=f".{kind}") as file:
        file.write(data)
        file.flush()
        command = [sys.executable, "-m", module, file.name, kind]
        try:
            done = subprocess.run(
                command, capture_output=True, text=True, timeout=seconds, check=False, preexec_fn=_limit
            )
        except subprocess.TimeoutExpired as error:
            raise UnusableFileError("the file takes too long to read") from error
    try:
        facts: dict[str, Any] = json.loads(done.stdout.splitlines()[-1])
    except (ValueError, IndexError) as error:
        raise UnusableFileError("the file broke its reader: it is damaged or far too complicated") from error
    if "error" in facts:
        raise UnusableFileError(facts["error"])
    return facts
