"""Telling how far long work is, to whoever waits for it."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

ReportProgress = Callable[[str, int, int], None]
"""What is being done, how many parts of it are, and of how many."""


def _nobody(_what: str, _done: int, _total: int) -> None:
    pass


_listener: ContextVar[ReportProgress] = ContextVar("listener", default=_nobody)


@contextmanager
def report_progress_to(listener: ReportProgress) -> Iterator[None]:
    """Within this block somebody hears how far long work is.

    Parameters
    ----------
    listener : callable
        Called often, perhaps from several threads, so it must be quick.
    """
    token = _listener.set(listener)
    try:
        yield
    finally:
        _listener.reset(token)


def progress_reporter() -> ReportProgress:
    """A function to call between parts of long work, in any thread.

    Returns
    -------
    callable
        Takes what is being done, how many parts are done, and how many there are.
    """
    return _listener.get()
