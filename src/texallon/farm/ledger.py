"""The list of frames that are wanted, in memory: what `texallon shot` goes by. The server keeps its own in the database."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Literal, NamedTuple, Protocol

from texallon.farm.task import FrameReport, FrameTask, Progress

TRIES = 3
"""How often a frame is begun that ends with an error."""

LOSSES = 8
"""How often a frame is begun whose worker ends on the way: mostly that is no fault of the frame."""

State = Literal["waiting", "running", "done", "failed", "stopped"]


class WantedFrame(NamedTuple):
    """A frame and what tells it from all others; `shares` as in the task."""

    id: str
    task: FrameTask


class Ledger(Protocol):
    """Whoever knows which frames are wanted."""

    @property
    def passing(self) -> tuple[type[Exception], ...]:
        """Errors of the list itself that pass by themselves, as while a database starts again."""

    def waits(self) -> bool:
        """Whether any frame waits, so that a cluster is needed."""

    def take(self) -> WantedFrame | None:
        """The next frame that waits, which is running from now on."""

    def unwanted(self, running: Sequence[str]) -> Iterable[str]:
        """Those of some running frames that are wanted no more."""

    def progressed(self, frame: str, progress: Progress) -> None:
        """How far a frame is."""

    def done(self, frame: str, report: FrameReport) -> None:
        """A frame's files are there."""

    def failed(self, frame: str, why: str, lost: bool) -> None:
        """A frame ended with an error, or with its worker (`lost`): it waits again, or is given up."""

    def put_back(self, frame: str) -> None:
        """A frame was given up on the way, by no fault of its own: it waits again where it is still wanted."""


@dataclass
class Entry:
    """A frame of a ledger."""

    wanted: WantedFrame
    state: State = "waiting"
    tries: int = 0
    losses: int = 0
    why: str = ""
    log: list[str] = field(default_factory=list)
    progress: Progress | None = None
    report: FrameReport | None = None


def given_up(tries: int, losses: int) -> bool:
    """Whether a frame is not begun again.

    Parameters
    ----------
    tries : int
        That ended with an error.
    losses : int
        That ended with the worker.
    """
    return tries >= TRIES or losses >= LOSSES


def words_of(why: str, lost: bool) -> str:
    """Why a try came to nothing, in a line for a person.

    Parameters
    ----------
    why : str
        What the error said.
    lost : bool
        Whether the worker ended.
    """
    if lost:
        return (
            "the worker that rendered it ended; where that happens again, the frame may need more memory than there is"
        )
    return (why.strip().splitlines() or ["it ended without a word"])[-1][:300]


class FramesInMemory:
    """A ledger for frames that are all wanted now."""

    passing: tuple[type[Exception], ...] = ()

    def __init__(self, frames: Iterable[WantedFrame]) -> None:
        self.entries = {each.id: Entry(each) for each in frames}

    def waits(self) -> bool:
        return any(entry.state == "waiting" for entry in self.entries.values())

    def take(self) -> WantedFrame | None:
        waiting = [entry for entry in self.entries.values() if entry.state == "waiting"]
        if not waiting:
            return None
        # What ends workers holds up no others, and what was hit by chance is not hit again and again.
        entry = min(waiting, key=lambda each: each.losses)
        entry.state = "running"
        return entry.wanted

    def unwanted(self, running: Sequence[str]) -> Iterable[str]:
        return [each for each in running if self.entries[each].state != "running"]

    def progressed(self, frame: str, progress: Progress) -> None:
        self.entries[frame].progress = progress

    def done(self, frame: str, report: FrameReport) -> None:
        entry = self.entries[frame]
        entry.state, entry.report = "done", report

    def failed(self, frame: str, why: str, lost: bool) -> None:
        entry = self.entries[frame]
        entry.tries += not lost
        entry.losses += lost
        entry.why = words_of(why, lost)
        entry.log.append(entry.why)
        entry.state = "failed" if given_up(entry.tries, entry.losses) else "waiting"

    def put_back(self, frame: str) -> None:
        if self.entries[frame].state == "running":
            self.entries[frame].state = "waiting"

    def stop(self) -> None:
        """Want no frame more."""
        for entry in self.entries.values():
            if entry.state in ("waiting", "running"):
                entry.state = "stopped"

    @property
    def over(self) -> bool:
        """Whether no frame waits or runs."""
        return all(entry.state not in ("waiting", "running") for entry in self.entries.values())
