"""The render processes: one for each shot in use, up to a number and a budget of memory; beyond that, shots share one.

Windows on one shot are always worked for by one process, which holds what they have in common once.
"""

import os
import threading
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from texallon.core.derived import DEFAULT_BUDGET
from texallon.engine.link import EngineLink, EngineUnavailableError, Listener
from texallon.memory import machine_limit
from texallon.messages.from_page import FromPage
from texallon.messages.to_engine import NewDocument, OpenSession

LEAST_MEMORY = 1_500_000_000
"""Bytes that a render process is given at least: there are fewer of them where the budget is too small for all."""

IDLE = 60.0
"""Seconds that a process without a shot is kept, in case its page was only loaded anew; the first stays for ever."""

LOOKS = 5.0
"""Seconds between looks which have nothing to do."""

Make = Callable[[Path, int, int], EngineLink]
"""Makes a link from the folder of files, the memory that its process may take, and what it may keep of derived values."""


class EnginePool:
    """The links to all render processes, by what is open in them.

    Parameters
    ----------
    store : Path
        The folder of files.
    most : int
        Processes at one time, at least one.
    memory : int
        Bytes that all of them together may take; 0 for nine tenths of the machine's.
    make : callable, optional
        Another way to make a link, for tests.
    """

    def __init__(self, store: Path, most: int = 1, memory: int = 0, make: Make | None = None) -> None:
        self.store = store
        total = memory or machine_limit()
        self.most = max(1, min(most, total // LEAST_MEMORY))
        self.share = total // self.most
        self._kept = int(os.environ.get("TEXALLON_MEMORY") or DEFAULT_BUDGET) // self.most
        self._make = make or _make_link
        self._lock = threading.RLock()
        self._links: list[EngineLink] = []
        self._of_session: dict[str, tuple[int, EngineLink]] = {}
        self._empty_since: dict[int, float] = {}
        """By a link's identity, since when nothing is open in it."""
        self._past_restarts = 0
        self._stopping = threading.Event()

    def start(self) -> None:
        """Start the first process, and a thread that ends those which are not needed any more."""
        self._begin().wake()
        threading.Thread(target=self._tidy, daemon=True, name="engine pool").start()

    def stop(self) -> None:
        """End all of them."""
        self._stopping.set()
        with self._lock:
            for link in self._links:
                link.stop()

    @property
    def process_ids(self) -> list[int]:
        """The numbers of the processes that run."""
        with self._lock:
            return [number for link in self._links if (number := link.process_id) is not None]

    @property
    def all_run(self) -> bool:
        """Whether every process that should run does."""
        with self._lock:
            return bool(self._links) and all(link.process_id is not None for link in self._links if link.awake)

    @property
    def restarts(self) -> int:
        """How often a process was started again after it had ended by itself."""
        with self._lock:
            return self._past_restarts + sum(link.restarts for link in self._links)

    def open(self, message: OpenSession, listener: Listener) -> None:
        """Begin a window's session in the process of its shot (see `EngineLink.open`)."""
        with self._lock:
            link = self._choose(message.shot)
            self._of_session[message.session] = (message.shot, link)
            self._empty_since.pop(id(link), None)
            link.open(message, listener)

    def new_document(self, message: NewDocument) -> None:
        """Tell a session that its document has another revision."""
        link = self._link_of(message.session)
        if link is not None:
            link.new_document(message)

    def said(self, session: str, what: FromPage) -> None:
        """Pass on what a window said."""
        link = self._link_of(session)
        if link is not None:
            link.said(session, what)

    def close(self, session: str) -> None:
        """End a window's session."""
        with self._lock:
            _, link = self._of_session.pop(session, (0, None))
            if link is None:
                return
            link.close(session)
            if all(other is not link for _, other in self._of_session.values()):
                self._empty_since[id(link)] = time.monotonic()

    def ask(
        self, session: str, question: Callable[[int], BaseModel], seconds: float = 20.0
    ) -> tuple[dict[str, Any], bytes]:
        """Ask the process that works for a session; raises `EngineUnavailableError` (see `EngineLink.ask`)."""
        link = self._link_of(session)
        if link is None:
            raise EngineUnavailableError("this window is not open any more")
        return link.ask(question, seconds)

    def _link_of(self, session: str) -> EngineLink | None:
        with self._lock:
            return self._of_session.get(session, (0, None))[1]

    def _choose(self, shot: int) -> EngineLink:
        """The process that has the shot already, else one with nothing to do, else a new one, else the one with fewest shots."""
        for other, link in self._of_session.values():
            if other == shot:
                return link
        shots = Counter(
            id(link) for _, link in {shot: (shot, link) for shot, link in self._of_session.values()}.values()
        )
        fewest = min(self._links, key=lambda link: shots[id(link)], default=None)
        if fewest is None or (shots[id(fewest)] and len(self._links) < self.most):
            return self._begin()
        return fewest

    def _begin(self) -> EngineLink:
        with self._lock:
            if not self._links or len(self._links) < self.most:
                self._links.append(self._make(self.store, self.share, self._kept))
                self._links[-1].start()
            return self._links[-1]

    def _tidy(self) -> None:
        while not self._stopping.wait(LOOKS):
            self.end_idle(time.monotonic())

    def end_idle(self, now: float) -> None:
        """End the processes, the first excepted, in which nothing has been open for a minute.

        Parameters
        ----------
        now : float
            Seconds of the monotonic clock.
        """
        with self._lock:
            for link in self._links[1:]:
                since = self._empty_since.get(id(link))
                if since is not None and now - since > IDLE:
                    link.stop()
                    self._links.remove(link)
                    self._empty_since.pop(id(link))
                    self._past_restarts += link.restarts


def _make_link(store: Path, memory: int, kept: int) -> EngineLink:
    return EngineLink(store, memory=memory, kept=kept)
