"""The server's end of one render process: starts it, restarts it when it dies or hangs, and gives its pictures to the windows."""

import itertools
import logging
import os
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from queue import SimpleQueue
from typing import Any

from pydantic import BaseModel

from texallon.engine.watch import WIDTH, worked_for
from texallon.engine.wire import Wire
from texallon.messages.from_page import BudgetMessage, FromPage, ReadMessage, ViewMessage
from texallon.messages.to_engine import CloseSession, NewDocument, OpenSession, Ping, Said
from texallon.messages.to_page import EngineState

_log = logging.getLogger("texallon.engine")

Listener = Callable[[dict[str, Any], bytes], None]

HANGS = 30.0
"""Seconds without an answer after which the render process counts as hung."""

LOOKS = 10.0
"""Seconds between looks whether it is alive."""

STUCK = 120.0
"""Seconds without looking up from one piece of work after which its render thread counts as hung."""

MOST_ENDS = 3
"""After so many ends of the process in a row while it worked for one window, that window is set aside until something is changed in it."""

LONGEST_PAUSE = 10.0
"""Seconds before a process that ends again and again is started anew, at most."""


class EngineUnavailableError(RuntimeError):
    """The render process did not answer in time."""


class EngineLink:
    """A render process, whatever becomes of it. Windows hear of a restart and are opened again in it.

    Parameters
    ----------
    store : Path
        The folder of files.
    program : str, optional
        Module that is run in its place, for tests.
    memory : int, optional
        Bytes that it may take; 0 for nine tenths of the machine's.
    kept : int, optional
        Bytes that it may keep of derived values; 0 for what the environment or the store of derived values says.
    """

    def __init__(self, store: Path, program: str = "texallon.engine", memory: int = 0, kept: int = 0) -> None:
        self.store, self.program = store, program
        self._environment = dict(os.environ)
        if memory:
            self._environment["TEXALLON_RENDER_LIMIT"] = str(memory)
        if kept:
            self._environment["TEXALLON_MEMORY"] = str(kept)
        # Closed with this object: a pool makes and drops links for as long as the server runs.
        self._place = os.fdopen(os.memfd_create("texallon-watch"), "r+b", buffering=0)
        self._place.truncate(WIDTH)
        self._ends: dict[str, int] = {}
        """By session, how often the process has ended in a row while it worked for it."""
        self._aside: set[str] = set()
        self._spoken: set[str] = set()
        """Sessions whose window has said something: the render process knows only these."""
        self._failures = 0
        self._lock = threading.RLock()
        self._process: subprocess.Popen[bytes] | None = None
        self._wire: Wire | None = None
        self._listeners: dict[str, Listener] = {}
        self._state: dict[str, dict[str, BaseModel]] = {}
        self._replies: dict[int, tuple[threading.Event, list[Any]]] = {}
        self._numbers = itertools.count(1)
        self._line: SimpleQueue[tuple[Wire, BaseModel] | None] = SimpleQueue()
        self._stopping = False
        self._started = 0.0
        self.awake = False
        """Whether its process should run."""
        self.restarts = 0

    def start(self) -> None:
        """Be ready; the process itself is started when the first window says something, or by `wake`."""
        threading.Thread(target=self._write, daemon=True, name="engine write").start()

    def wake(self) -> None:
        """Start the process where it has not been, and a thread that looks after it."""
        with self._lock:
            if self.awake or self._stopping:
                return
            self.awake = True
            self._spawn()
        threading.Thread(target=self._watch, daemon=True, name="engine watch").start()

    def stop(self) -> None:
        with self._lock:
            self._stopping = True
            self._line.put(None)
            if self._wire is not None:
                self._wire.close()
            if self._process is not None:
                self._process.terminate()

    @property
    def process_id(self) -> int | None:
        """The render process's number, while it runs."""
        process = self._process
        return process.pid if process is not None and process.poll() is None else None

    def open(self, message: OpenSession, listener: Listener) -> None:
        """Begin a window's session; `listener` is called with everything the engine makes for it.

        The render process hears of it when the window says something: one that says nothing costs nothing.
        """
        with self._lock:
            self._listeners[message.session] = listener
            self._state[message.session] = {"open": message}

    def new_document(self, message: NewDocument) -> None:
        """Tell a session that its document has another revision."""
        with self._lock:
            state = self._state.get(message.session)
            if state is None:
                return
            opened = state["open"]
            assert isinstance(opened, OpenSession)
            state["open"] = opened.model_copy(update={"document": message.document, "revision": message.revision})
            if message.session in self._aside:
                # Something is changed in it: it is tried once more.
                self._aside.discard(message.session)
                self._ends[message.session] = MOST_ENDS - 1
                for each in state.values():
                    self._send(each)
                return
            if message.session not in self._spoken:
                return
        self._send(message)

    def said(self, session: str, what: FromPage) -> None:
        """Pass on what a window said."""
        message = Said(do="said", session=session, what=what)
        with self._lock:
            state = self._state.get(session)
            if state is None:
                return
            self.wake()
            if session not in self._spoken:
                self._spoken.add(session)
                if session not in self._aside:
                    self._send(state["open"])
            if isinstance(what, ViewMessage):  # a successor of the process begins with nothing sent
                fresh = what.model_copy(update={"fresh": True})
                state["view"] = message.model_copy(update={"what": fresh})
            elif isinstance(what, (ReadMessage, BudgetMessage)):
                state[what.do] = message
            if session in self._aside:
                return
        self._send(message)

    def close(self, session: str) -> None:
        with self._lock:
            self._listeners.pop(session, None)
            self._state.pop(session, None)
            self._ends.pop(session, None)
            self._aside.discard(session)
            self._spoken.discard(session)
        self._send(CloseSession(do="close", session=session))

    def ask(self, question: Callable[[int], BaseModel], seconds: float = 20.0) -> tuple[dict[str, Any], bytes]:
        """Send a question, made for the number of its reply, and wait for the answer; raises `EngineUnavailableError`."""
        number = next(self._numbers)
        event: threading.Event = threading.Event()
        reply: list[Any] = []
        with self._lock:
            self._replies[number] = (event, reply)
        self._send(question(number))
        arrived = event.wait(seconds)
        with self._lock:
            self._replies.pop(number, None)
        if not arrived:
            raise EngineUnavailableError("the render process does not answer; it is being restarted")
        return reply[0]

    def _spawn(self) -> None:
        ours, theirs = socket.socketpair()
        place = self._place.fileno()
        os.pwrite(place, b"\0" * WIDTH, 0)
        command = [sys.executable, "-m", self.program, str(theirs.fileno()), str(self.store), str(place)]
        process = subprocess.Popen(
            command, pass_fds=[theirs.fileno(), place], stdin=subprocess.DEVNULL, env=self._environment
        )
        self._started = time.monotonic()
        theirs.close()
        wire = Wire(ours)
        with self._lock:
            self._process, self._wire = process, wire
            state = [
                message
                for session, each in self._state.items()
                if session in self._spoken - self._aside
                for message in each.values()
            ]
        threading.Thread(target=self._listen, args=(wire,), daemon=True, name="engine listen").start()
        for message in state:
            self._send(message)

    def _send(self, message: BaseModel) -> None:
        """Put a message in line: nobody waits for a render process that does not take it."""
        if self._wire is not None:
            self._line.put((self._wire, message))

    def _write(self) -> None:
        while (item := self._line.get()) is not None:
            wire, message = item
            try:
                wire.send(message.model_dump(mode="json"))
            except OSError:
                pass  # it died: the watcher opens every session again in its successor

    def _listen(self, wire: Wire) -> None:
        while (received := wire.receive()) is not None:
            head, body = received
            number = head.get("reply")
            if number is not None:
                with self._lock:
                    waiting = self._replies.get(number)
                if waiting is not None:
                    waiting[1].append((head, body))
                    waiting[0].set()
                continue
            listener = self._listeners.get(head.get("session", ""))
            if listener is not None:
                listener(head, body)

    def _watch(self) -> None:
        checked_at = time.monotonic()
        while not self._stopping:
            process = self._process
            assert process is not None
            try:
                process.wait(timeout=0.25)
            except subprocess.TimeoutExpired:
                if time.monotonic() - checked_at > LOOKS:
                    checked_at = time.monotonic()
                    threading.Thread(target=self._check_alive, args=(process,), daemon=True).start()
                continue
            if self._stopping:
                return
            self.restarts += 1
            if self._wire is not None:
                self._wire.close()
            self._blame(worked_for(self._place.fileno()), process.returncode)
            for session, listener in list(self._listeners.items()):
                state = "set aside" if session in self._aside else "restarting"
                listener(EngineState(state=state, session=session).model_dump(mode="json"), b"")
            # One that ends as soon as it has begun is not started without a pause.
            self._failures = self._failures + 1 if time.monotonic() - self._started < LONGEST_PAUSE else 0
            time.sleep(min(0.25 * 2**self._failures, LONGEST_PAUSE) if self._failures else 0)
            if not self._stopping:
                self._spawn()

    def _blame(self, session: str, status: int | None) -> None:
        """Put down for which window the process has worked when it ended; after three times in a row that one is set aside."""
        with self._lock:
            if session not in self._state:
                return
            self._ends = {session: self._ends.get(session, 0) + 1}
            if self._ends[session] >= MOST_ENDS:
                self._aside.add(session)
        _log.error(
            "the render process has ended with status %s while it worked for session %s (%s)", status, session,
            "set aside" if session in self._aside else "tried again",
        )  # fmt: skip

    def _check_alive(self, process: subprocess.Popen[bytes]) -> None:
        """End a process that does not answer, or whose render thread does not go forward."""
        try:
            head, _ = self.ask(lambda reply: Ping(do="ping", reply=reply), HANGS)
            hung = head.get("busy", 0) > STUCK
        except EngineUnavailableError:
            hung = True
        if hung and self._process is process and not self._stopping:
            process.kill()
