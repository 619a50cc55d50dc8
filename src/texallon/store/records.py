"""What the database answers with, and how it refuses."""

from dataclasses import dataclass
from typing import Any

from texallon.core.document import Problem
from texallon.core.document.merge import Conflict


class NotFoundError(LookupError):
    """There is no such thing; the message says what was looked for."""


class StaleError(RuntimeError):
    """A change made against a revision that is no longer the current one."""

    def __init__(self, based_on: int, current: int) -> None:
        super().__init__(f"the change was made against revision {based_on}, but the shot is at revision {current}")
        self.based_on, self.current = based_on, current


class ConflictError(RuntimeError):
    """A change to what another has changed since, or that does not go together with the other's (`problems`): nothing was changed."""

    def __init__(
        self, conflicts: tuple[Conflict, ...], current: int, document: Any, problems: tuple[Problem, ...] = ()
    ) -> None:
        super().__init__("somebody has changed the same meanwhile")
        self.conflicts, self.current, self.document, self.problems = conflicts, current, document, problems


class AskFirstError(RuntimeError):
    """Taking a change back would touch more than the window's own work: what others have changed since, or other shots."""

    def __init__(self, conflicts: tuple[Conflict, ...], touches: tuple["SignalUse", ...], document: Any) -> None:
        super().__init__("this would touch what is not only yours")
        self.conflicts, self.touches, self.document = conflicts, touches, document


class NothingToDoError(RuntimeError):
    """There is nothing to undo or redo."""


@dataclass(frozen=True)
class Who:
    """Who asks for a change: the window it comes from, and the name of the person at it."""

    window: str = ""
    author: str = ""


NOBODY = Who()
"""A window that does not say which it is, as a program that uses the server."""

NO_WINDOW = "-"
"""In the place of a window for what a change in another shot has added: nobody's undo takes that back."""


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
    """A shot in a list, which has them in their order."""

    id: int
    project_id: int
    project: str
    name: str
    title: str
    revision: int
    frames: int
    picture: str | None
    picture_revision: int
    binned: str | None
    created: str


@dataclass(frozen=True)
class ListedRevision:
    """A revision in a list: what it was called, what differs from the one before in words, who made it and when (ISO 8601)."""

    number: int
    label: str
    words: str
    author: str
    created: str
    snapshots: int


@dataclass(frozen=True)
class ListedProject:
    """A project in a list; `picture` is its first shot's, `put_away` and `created` are moments (ISO 8601)."""

    id: int
    name: str
    shots: int
    binned: int
    first_shot: int | None
    picture: str | None
    put_away: str | None
    created: str
