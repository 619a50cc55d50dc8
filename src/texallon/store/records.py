"""What the database answers with, and how it refuses."""

from dataclasses import dataclass
from typing import Any


class NotFoundError(LookupError):
    """There is no such thing; the message says what was looked for."""


class StaleError(RuntimeError):
    """A change made against a revision that is no longer the current one."""

    def __init__(self, based_on: int, current: int) -> None:
        super().__init__(f"the change was made against revision {based_on}, but the shot is at revision {current}")
        self.based_on, self.current = based_on, current


class NothingToDoError(RuntimeError):
    """There is nothing to undo or redo."""


@dataclass(frozen=True)
class Current:
    """A shot as it stands."""

    shot_id: int
    project: str
    revision: int
    document: dict[str, Any]
    can_undo: bool
    can_redo: bool
    undo_label: str
    redo_label: str
    also: tuple[int, ...] = ()
    """Other shots that the change added a revision to."""


@dataclass(frozen=True)
class SignalUse:
    """Where a shared signal is used: a shot, a look (empty within another signal), a recipe's address, and what people call that."""

    shot_id: int
    shot: str
    look: str
    address: str
    where: str


@dataclass(frozen=True)
class Listed:
    """A shot in a list."""

    id: int
    project: str
    name: str
    title: str
    revision: int
