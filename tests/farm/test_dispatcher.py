"""What is sent to workers, and taken back, against a cluster that is made up: every kind of end in any order, none lost and none made in vain."""

import random
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from types import SimpleNamespace
from typing import Any

import pytest
from distributed.scheduler import KilledWorker

from texallon.core.derived import Interrupted
from texallon.farm import dispatcher as dispatching
from texallon.farm.cluster import FarmError
from texallon.farm.code_state import OtherCodeError, code_state
from texallon.farm.dispatcher import AHEAD, Dispatcher
from texallon.farm.ledger import LOSSES, TRIES, FramesInMemory, WantedFrame
from texallon.farm.remote import CODE, TOPIC
from texallon.farm.task import FrameReport, FrameTask
from texallon.frame_files import Order

SOON = 60.0


def frames(count: int, **members: Any) -> list[WantedFrame]:
    picture = Order((64, 36), 128, 1, 1)
    return [
        WantedFrame(f"f{number}", FrameTask("memory://v", "d", picture, f"S.{number:04d}", {}, **members))
        for number in range(count)
    ]


class MadeFuture:
    """What stands for a task: whoever plays the cluster says how it ends."""

    def __init__(self, key: str, task: Any, workers: list[str] | None) -> None:
        self.key, self.task, self.workers = key, task, workers
        self.status = "pending"
        self._end: Any = None
        self._told: list[Callable[[Any], None]] = []
        self._over = threading.Event()

    def add_done_callback(self, act: Callable[[Any], None]) -> None:
        self._told.append(act)

    def end(self, status: str, value: Any = None) -> None:
        if self.status == "pending":
            self.status, self._end = status, value
            self._over.set()
            for act in self._told:
                act(self)

    def result(self, timeout: float) -> Any:
        assert self._over.wait(SOON)
        if isinstance(self._end, Exception):
            raise self._end
        return self._end

    def exception(self, timeout: float) -> Any:
        return self._end


@dataclass
class MadeCluster:
    """A scheduler and workers that are made up."""

    workers: int = 2
    stale: int = 0
    status: str = "running"
    sent: list[MadeFuture] = field(default_factory=list)
    hear: Callable[[Any], None] = lambda event: None
    refuses: bool = False

    def scheduler_info(self, n_workers: int) -> dict[str, Any]:
        assert n_workers == -1, "all of them, not the first few"
        fresh = {f"tcp://w{n}": self._worker(f"w{n}", code_state()) for n in range(self.workers)}
        return {"workers": fresh | {f"tcp://s{n}": self._worker(f"s{n}", "0" * 64) for n in range(self.stale)}}

    @staticmethod
    def _worker(name: str, code: str) -> dict[str, Any]:
        return {"name": name, "host": "10.0.0.1", "memory_limit": 1 << 30, CODE: code}

    def subscribe_topic(self, topic: str, hear: Callable[[Any], None]) -> None:
        assert topic == TOPIC
        self.hear = hear

    def submit(self, function: Any, *given: Any, key: str = "", workers: Any = None, **how: Any) -> MadeFuture:
        if self.refuses:
            raise RuntimeError("the connection is closed")
        assert self.pending < self.workers + AHEAD or not key, "no more than are wanted ahead"
        self.sent.append(MadeFuture(key, given[0], workers))
        return self.sent[-1]

    def cancel(self, futures: list[MadeFuture], force: bool = False) -> None:
        for each in futures:
            each.end("cancelled")

    def close(self, timeout: float) -> None:
        self.status = "closed"

    @property
    def pending(self) -> int:
        return sum(each.status == "pending" for each in self.sent)

    def under_way(self) -> list[MadeFuture]:
        return [each for each in self.sent if each.status == "pending"]


def report(name: str) -> FrameReport:
    return FrameReport(1.0, 100.0, name, ("S.exr",), b"")


class Played:
    """A dispatcher on its way with made-up clusters: a new one each time that it connects."""

    def __init__(self, ledger: FramesInMemory, **members: Any) -> None:
        self.ledger, self.members = ledger, members
        self.clusters: list[MadeCluster] = []
        self.down = False
        self.dispatcher = Dispatcher(ledger, self._connect)  # type: ignore[arg-type]

    def _connect(self) -> MadeCluster:
        if self.down:
            raise FarmError("the farm does not answer")
        self.clusters.append(MadeCluster(**self.members))
        return self.clusters[-1]

    @property
    def cluster(self) -> MadeCluster:
        return self.clusters[-1]

    def __enter__(self) -> "Played":
        self.dispatcher.start()
        return self

    def __exit__(self, *error: object) -> None:
        self.ledger.stop()
        self.dispatcher.close()

    def until(self, true: Callable[[], bool], what: str) -> None:
        """Wait until something holds; looked after every few milliseconds."""
        pause, begun = threading.Event(), time.monotonic()
        while not true():
            self.dispatcher.look()
            assert time.monotonic() - begun < SOON, what
            pause.wait(0.005)

    def sent(self, count: int) -> list[MadeFuture]:
        self.until(lambda: bool(self.clusters) and self.cluster.pending >= count, f"{count} frames are on their way")
        return self.cluster.under_way()


@pytest.fixture(autouse=True)
def at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(dispatching, "AGAIN_AFTER", 0.01)


class AwayError(Exception):
    """The list can't be reached."""


class FlakyLedger(FramesInMemory):
    """A list that now and then can't be reached, as a database that begins anew."""

    passing = (AwayError,)

    def __init__(self, wanted: list[WantedFrame], chance: random.Random, share: float) -> None:
        super().__init__(wanted)
        self._chance, self.share = chance, share

    def _reach(self) -> None:
        if self._chance.random() < self.share:
            raise AwayError

    def take(self) -> WantedFrame | None:
        self._reach()
        return super().take()

    def unwanted(self, running: Sequence[str]) -> list[str]:
        self._reach()
        return list(super().unwanted(running))

    def done(self, frame: str, report: FrameReport) -> None:
        self._reach()
        assert self.entries[frame].state == "running", "a frame that is done is entered once"
        super().done(frame, report)

    def failed(self, frame: str, why: str, lost: bool) -> None:
        self._reach()
        super().failed(frame, why, lost)

    def put_back(self, frame: str) -> None:
        self._reach()
        super().put_back(frame)


@pytest.mark.parametrize("share", [0.0, 0.3])
@pytest.mark.parametrize("seed", range(6))
def test_whatever_ends_in_whatever_way_every_frame_is_done_or_says_why(seed: int, share: float) -> None:
    chance = random.Random(seed)
    ledger = FlakyLedger(frames(24), random.Random(seed), share)
    with Played(ledger, workers=3) as played:
        while not ledger.over:
            played.until(lambda: ledger.over or bool(played.clusters and played.cluster.under_way()), "something runs")
            if ledger.over:
                break
            each = chance.choice(played.cluster.under_way())
            fate = chance.random()
            if fate < 0.5:
                each.end("finished", report("w0"))
            elif fate < 0.6:
                each.end("error", ValueError("the mesh has no faces"))
            elif fate < 0.72:
                each.end("error", KilledWorker("task", SimpleNamespace(address="tcp://w1"), 1))  # type: ignore[arg-type]
            elif fate < 0.8:
                each.end("error", Interrupted())
            elif fate < 0.86:
                each.end("finished", OSError("its worker has just ended"))
            elif fate < 0.92:
                each.end("lost")
            elif fate < 0.96:
                played.cluster.status = "closed"  # the scheduler, with all that was on its way
                before = len(played.clusters)
                played.until(lambda n=before: len(played.clusters) > n or ledger.over, "it connects again")
            else:
                played.cluster.refuses = True
                each.end("lost")
                played.cluster.refuses = False
    entries = list(ledger.entries.values())
    assert all(each.state in ("done", "failed") for each in entries)
    for each in entries:
        if each.state == "failed":
            assert each.tries == TRIES or each.losses == LOSSES
            assert each.why and len(each.log) == each.tries + each.losses
        else:
            assert each.tries < TRIES and each.losses < LOSSES and each.report is not None
    assert sum(each.state == "done" for each in entries) >= 16


def test_no_more_is_sent_than_workers_and_one_ahead() -> None:
    ledger = FramesInMemory(frames(10))
    with Played(ledger, workers=4) as played:
        played.sent(4 + AHEAD)
        played.sent(4 + AHEAD)[0].end("finished", report("w1"))
        played.until(lambda: played.cluster.pending == 4 + AHEAD, "the next goes out")
        assert len(played.cluster.sent) == 6


def test_what_is_wanted_no_more_is_taken_back() -> None:
    ledger = FramesInMemory(frames(3))
    with Played(ledger, workers=2) as played:
        first = played.sent(3)[0]
        ledger.entries["f0"].state = "stopped"
        played.until(lambda: first.status == "cancelled", "it is taken back")
        assert ledger.entries["f0"].state == "stopped" and ledger.entries["f1"].state == "running"


def test_a_farm_that_does_not_answer_is_said_and_tried_again() -> None:
    ledger = FramesInMemory(frames(1))
    played = Played(ledger)
    played.down = True
    with played:
        played.until(lambda: played.dispatcher.trouble != "", "it is said")
        assert played.dispatcher.trouble == "the farm does not answer"
        played.down = False
        played.sent(1)[0].end("finished", report("w0"))
        played.until(lambda: ledger.over, "the frame is done")
        assert played.dispatcher.trouble == ""


def test_workers_of_other_code_are_named_and_left_out() -> None:
    ledger = FramesInMemory(frames(4))
    with Played(ledger, workers=2, stale=1) as played:
        assert all(each.workers == ["tcp://w0", "tcp://w1"] for each in played.sent(3))
        assert played.dispatcher.refused == ("s0",) and sorted(played.dispatcher.workers) == ["w0", "w1"]
        played.cluster.stale = 0
        played.cluster.under_way()[0].end("error", OtherCodeError("it came unannounced"))
        played.until(lambda: len(played.cluster.sent) > 3, "the next goes out")
        assert played.cluster.sent[-1].workers is None
        assert played.dispatcher.refused == () and ledger.entries["f0"].tries == 0


def test_a_farm_of_other_code_alone_is_a_trouble_that_is_said() -> None:
    ledger = FramesInMemory(frames(1))
    with Played(ledger, workers=0, stale=6) as played:
        played.until(lambda: played.dispatcher.trouble != "", "it is said")
        assert played.dispatcher.trouble == "no worker runs this state of the code, only others: s0, s1, s2, s3"
        assert not played.cluster.sent
        played.cluster.workers = 1
        played.sent(1)
        assert played.dispatcher.trouble == ""


def test_progress_is_summed_over_the_shares_of_a_frame_and_others_are_ignored() -> None:
    ledger = FramesInMemory(frames(1, shares=2))
    with Played(ledger, workers=2) as played:
        shares = [each for each in played.sent(3) if not each.key.endswith("whole")]
        assert len(shares) == 2
        for each, done, by in zip(shares, (16, 64), ("w0", "w1"), strict=True):
            played.cluster.hear(("now", {"key": each.key, "done": done, "total": 64, "by": by, "memory": 300.0}))
        for strange in ("nothing", {}, {"key": "of another server", "done": 1, "total": 2, "by": "x", "memory": 1.0}):
            played.cluster.hear(("now", strange))
        entry = ledger.entries["f0"]
        played.until(lambda: entry.progress is not None and entry.progress.worker == "w0, w1", "both are heard")
        assert entry.progress is not None
        # A quarter of one half and all of the other, of 128 samples.
        assert (entry.progress.done, entry.progress.total, entry.progress.memory) == (80, 128, 300.0)


def test_other_work_goes_between_frames_and_its_errors_come_back() -> None:
    ledger = FramesInMemory(frames(2))
    with Played(ledger, workers=1) as played:
        played.sent(2)
        found: list[Any] = []

        def ask() -> None:
            try:
                found.append(played.dispatcher.run_all(print, [("a",), ("b",)]))
            except ValueError as error:
                found.append(error)

        for ends in (("finished", 7), ("error", ValueError("no frame is there"))):
            thread = threading.Thread(target=ask)
            thread.start()
            played.until(lambda: sum(not each.key for each in played.cluster.under_way()) == 2, "both are asked for")
            for each in played.cluster.under_way():
                if not each.key:
                    each.end(*ends)
            thread.join(SOON)
        assert found[0] == [7, 7] and str(found[1]) == "no frame is there"
