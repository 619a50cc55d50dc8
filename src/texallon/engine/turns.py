"""Whose turn it is: a window that was just touched first, else the one that has had the least of the processors' time."""

from collections.abc import Iterable
from typing import Protocol, TypeVar


class Touched(Protocol):
    """What a window says of when it was last touched."""

    @property
    def touched(self) -> float: ...


class Waiting(Protocol):
    """A session that has something to do."""

    seconds: float
    """Of the processors' time that it has had."""

    @property
    def fresh(self) -> bool: ...

    @property
    def window(self) -> Touched: ...


W = TypeVar("W", bound=Waiting)


def next_turn(waiting: Iterable[W]) -> W:
    """The session to work on next; of several that were touched, the one touched last.

    Raises
    ------
    ValueError
        Where none waits.
    """
    sessions = list(waiting)
    fresh = [each for each in sessions if each.fresh]
    return max(fresh, key=lambda each: each.window.touched) if fresh else min(sessions, key=lambda each: each.seconds)


def seconds_to_begin_with(others: Iterable[Waiting]) -> float:
    """The time that a new session counts as having had: as the one that has had the least, or it would have the processors to itself."""
    return min((each.seconds for each in others), default=0.0)
