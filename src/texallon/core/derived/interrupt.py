"""Giving up work that is no longer wanted: asked for from the outside, noticed between pieces of work."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar


class Interrupted(Exception):  # noqa: N818 - not an error
    """The value is no longer wanted."""


def _always() -> bool:
    return True


_wanted: ContextVar[Callable[[], bool]] = ContextVar("wanted", default=_always)


@contextmanager
def interruptible(wanted: Callable[[], bool]) -> Iterator[None]:
    """Within this block work may end early.

    Parameters
    ----------
    wanted : callable
        Says whether the work is still wanted; asked often, so it must be quick, and from several threads.
    """
    token = _wanted.set(wanted)
    try:
        yield
    finally:
        _wanted.reset(token)


def checkpoint() -> Callable[[], None]:
    """A function to call between pieces of work, in any thread.

    Returns
    -------
    callable
        Raises `Interrupted` when the work of this block is no longer wanted.
    """
    wanted = _wanted.get()

    def check() -> None:
        if not wanted():
            raise Interrupted

    return check
