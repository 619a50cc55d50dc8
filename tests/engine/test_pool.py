"""Which render process works for which shot: one each, up to a number and a budget, and none that is not needed."""

import gc
import os
import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from texallon.engine import pool as pool_module
from texallon.engine.link import EngineLink, EngineUnavailableError
from texallon.engine.pool import IDLE, LEAST_MEMORY, EnginePool
from texallon.messages.from_page import HereMessage
from texallon.messages.to_engine import NewDocument, OpenSession, Ping


class Link(EngineLink):
    """A link that notes what is passed on, and runs nothing."""

    def __init__(self, memory: int, kept: int) -> None:
        self.memory, self.kept = memory, kept
        self.sessions: dict[str, int] = {}
        self.awake, self.restarts, self.stopped = False, 0, False
        self.heard: list[Any] = []

    def start(self) -> None:
        pass

    def wake(self) -> None:
        self.awake = True

    def stop(self) -> None:
        self.stopped = True

    @property
    def process_id(self) -> int | None:
        return id(self) if self.awake else None

    def open(self, message: OpenSession, listener: Any) -> None:
        self.sessions[message.session] = message.shot

    def said(self, session: str, what: Any) -> None:
        self.wake()
        self.heard.append((session, what))

    def new_document(self, message: NewDocument) -> None:
        self.heard.append((message.session, message))

    def close(self, session: str) -> None:
        del self.sessions[session]

    def ask(self, question: Callable[[int], Any], seconds: float = 20.0) -> tuple[dict[str, Any], bytes]:
        return {"of": id(self)}, b""


class Tried:
    """A pool of such links."""

    def __init__(self, most: int, memory: int = 0) -> None:
        self.links: list[Link] = []

        def make(store: Path, share: int, kept: int) -> EngineLink:
            self.links.append(Link(share, kept))
            return self.links[-1]

        self.pool = EnginePool(Path("/nowhere"), most, memory or most * LEAST_MEMORY, make)
        self.pool.start()

    def open(self, session: str, shot: int) -> None:
        self.pool.open(
            OpenSession(do="open", session=session, shot=shot, document={}, revision=1), lambda head, body: None
        )

    def where(self, session: str) -> list[int]:
        return [number for number, link in enumerate(self.links) if session in link.sessions]


@pytest.fixture
def tried(request: pytest.FixtureRequest) -> Any:
    made = Tried(getattr(request, "param", 3))
    yield made
    made.pool.stop()


def test_each_shot_has_a_process_of_its_own_and_windows_on_one_share_it(tried: Tried) -> None:
    for session, shot in (("a", 1), ("b", 2), ("c", 1), ("d", 3)):
        tried.open(session, shot)
    assert [tried.where(session) for session in "abcd"] == [[0], [1], [0], [2]]


def test_beyond_the_number_the_process_with_fewest_shots_is_shared(tried: Tried) -> None:
    for shot in range(5):
        tried.open(f"window {shot}", shot)
    tried.open("another of 0", 0)
    assert len(tried.links) == 3
    assert sorted(len(set(link.sessions.values())) for link in tried.links) == [1, 2, 2]
    tried.open("one more", 9)
    assert sorted(len(set(link.sessions.values())) for link in tried.links) == [2, 2, 2]


@pytest.mark.parametrize("tried", [1], indirect=True)
def test_where_only_one_is_allowed_all_share_it(tried: Tried) -> None:
    for shot in range(20):
        tried.open(str(shot), shot)
    assert len(tried.links) == 1


def test_a_process_is_started_when_a_window_says_something(tried: Tried) -> None:
    for shot in range(3):
        tried.open(str(shot), shot)
    assert [link.awake for link in tried.links] == [True, False, False], "the first is there for the first window"
    tried.pool.said("2", HereMessage(do="here"))
    assert [link.awake for link in tried.links] == [True, False, True]
    assert tried.pool.process_ids == [id(tried.links[0]), id(tried.links[2])]
    assert tried.pool.all_run


def test_one_without_a_shot_is_kept_a_minute_and_then_ended(tried: Tried, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(pool_module.time, "monotonic", lambda: 100.0)
    for shot in range(3):
        tried.open(str(shot), shot)
    tried.links[2].restarts = 2
    tried.pool.close("2")
    tried.pool.close("0")
    tried.pool.end_idle(100.0 + IDLE - 1)
    assert not any(link.stopped for link in tried.links)
    tried.open("back", 7)
    assert tried.where("back") == [0], "one with nothing to do comes before a new one"
    tried.pool.close("back")
    tried.pool.end_idle(100.0 + IDLE + 1)
    assert [link.stopped for link in tried.links] == [False, False, True], "the first stays"
    assert tried.pool.restarts == 2, "what has happened is still told"
    for shot in range(3):
        tried.open(f"{shot} again", shot)
    assert len(tried.links) == 4


def test_the_budget_is_shared_out_and_bounds_the_number() -> None:
    made = Tried(8, 5 * LEAST_MEMORY + 7)
    for shot in range(9):
        made.open(str(shot), shot)
    made.pool.stop()
    assert len(made.links) == 5
    assert {link.memory for link in made.links} == {LEAST_MEMORY + 1}
    assert sum(link.kept for link in made.links) <= made.links[0].kept * 5
    small = Tried(8, 1_000)
    small.pool.stop()
    assert (small.pool.most, small.pool.share) == (1, 1_000), "one there is always"


def test_what_is_asked_of_a_window_that_has_gone_is_told(tried: Tried) -> None:
    tried.open("a", 1)
    assert tried.pool.ask("a", lambda reply: Ping(do="ping", reply=reply))[0] == {"of": id(tried.links[0])}
    tried.pool.close("a")
    with pytest.raises(EngineUnavailableError, match="not open any more"):
        tried.pool.ask("a", lambda reply: Ping(do="ping", reply=reply))
    tried.pool.said("a", HereMessage(do="here"))
    tried.pool.close("a")
    assert tried.links[0].heard == []


def test_a_link_that_is_dropped_leaves_no_file_open(tmp_path: Path) -> None:
    gc.collect()  # what other tests have left
    before = len(os.listdir("/proc/self/fd"))
    links = [EngineLink(tmp_path) for _ in range(20)]
    assert len(os.listdir("/proc/self/fd")) == before + 20
    links.clear()
    gc.collect()
    assert len(os.listdir("/proc/self/fd")) == before


def test_after_any_openings_and_closings_no_shot_lies_in_two_processes() -> None:
    chance = random.Random(4)
    made = Tried(4)
    opened: list[str] = []
    for step in range(600):
        if opened and chance.random() < 0.48:
            made.pool.close(opened.pop(chance.randrange(len(opened))))
        else:
            opened.append(str(step))
            made.open(opened[-1], chance.randrange(9))
        made.pool.end_idle(chance.choice([0.0, 1e12]))
        live = [link for link in made.links if not link.stopped]
        assert len(live) <= 4
        assert sorted(session for link in live for session in link.sessions) == sorted(opened)
        shots = [shot for link in live for shot in set(link.sessions.values())]
        assert len(shots) == len(set(shots))
    made.pool.stop()
