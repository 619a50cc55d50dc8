"""How the render process is watched from outside: whom it works for, and when it last looked up from its work."""

import os
import resource
import time
from collections.abc import Iterator
from contextlib import contextmanager

from texallon.memory import machine_limit

WIDTH = 64
"""Bytes of the shared place that holds the name of the session under work."""


class Watch:
    """Written by the render thread, read by others.

    Parameters
    ----------
    place : int
        File descriptor of `WIDTH` bytes that outlive this process, so that whoever it worked for is known when it has died.
    """

    def __init__(self, place: int) -> None:
        self._place = place
        self._seen = time.monotonic()
        self._working = False

    @contextmanager
    def working_for(self, session: str) -> Iterator[None]:
        """Within this block the render thread works for a session."""
        os.pwrite(self._place, session.encode()[:WIDTH].ljust(WIDTH, b"\0"), 0)
        self._working = True
        self.look_up()
        try:
            yield
        finally:
            self._working = False
            os.pwrite(self._place, b"\0" * WIDTH, 0)

    def look_up(self) -> None:
        """The render thread is still going forward."""
        self._seen = time.monotonic()

    def busy(self) -> float:
        """Seconds since the render thread has last looked up; 0 while it has nothing to do."""
        return time.monotonic() - self._seen if self._working else 0.0


def worked_for(place: int) -> str:
    """The session that a process which has died was working for; empty for none."""
    return os.pread(place, WIDTH, 0).rstrip(b"\0").decode("ascii", "replace")


def limit_memory() -> None:
    """Have the system refuse this process more memory than it is given: an allocation then fails in one window's work, in place of a
    kill that may hit any process (setrlimit(2))."""
    limit = machine_limit()
    resource.setrlimit(resource.RLIMIT_DATA, (limit, limit))
