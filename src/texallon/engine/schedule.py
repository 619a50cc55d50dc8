"""In what order a window's tasks are done: by what they cost, and among equals by how much they are looked at.

What is instant comes at once: the first picture, then what else is on the screen. What is slow waits until the hand rests, so that it
is not in the way of the next move's picture.
"""

from collections.abc import Iterable
from enum import IntEnum
from typing import Protocol

from texallon.core.derived import Cost
from texallon.engine.work import Work

PAUSE = 0.15
"""Seconds that a hand must rest before anything slow is begun."""


class Importance(IntEnum):
    """How much what a task makes is looked at."""

    LOOKED_AT = 0
    ON_SCREEN = 1
    USEFUL = 2


class Task(Protocol):
    """One thing that a window shows."""

    @property
    def name(self) -> str: ...

    @property
    def cost(self) -> Cost: ...

    @property
    def importance(self) -> Importance: ...

    def pending(self, work: Work) -> bool:
        """Whether there is anything left to do."""

    def step(self, work: Work) -> None:
        """Do a piece, or all of it; raises `Interrupted` when it is no longer wanted."""


def next_task(tasks: Iterable[Task], work: Work) -> Task | None:
    """The task to do a piece of next; nothing when all are done."""
    waiting = [task for task in tasks if task.name not in work.done and task.pending(work)]
    return min(waiting, key=lambda task: (task.cost, task.importance), default=None)
