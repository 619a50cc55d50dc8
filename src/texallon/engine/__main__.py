"""The render process: `python -m texallon.engine FD STORE`.

One thread takes in messages; one renders: a window that was just touched first, else the one that has had the least of the
processors' time.
"""

import logging
import os
import socket
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from texallon.core.derived import DEFAULT_BUDGET, DerivedStore
from texallon.core.document import DocumentError
from texallon.core.geometry.mesh import MeshError
from texallon.engine.session import Session
from texallon.engine.turns import next_turn, seconds_to_begin_with
from texallon.engine.watch import Watch, limit_memory
from texallon.engine.wire import Wire
from texallon.formats.disk_cache import KEPT, DiskCache
from texallon.formats.shot_files import ShotFiles
from texallon.messages.from_page import BudgetMessage
from texallon.messages.to_engine import (
    CloseSession,
    NewDocument,
    OpenSession,
    Ping,
    RestQuestion,
    Said,
    SnapshotQuestion,
    to_engine,
)
from texallon.warm_up import warm_up

log = logging.getLogger("texallon.engine")

BUDGET = int(os.environ.get("TEXALLON_MEMORY", DEFAULT_BUDGET))
"""Bytes that derived values may take, unless a window sets another number."""


class Renderer:
    """The sessions, and the thread that works on them."""

    def __init__(self, wire: Wire, files: Path, watch: Watch) -> None:
        self.wire = wire
        self.files = ShotFiles(store=files, scratch=files)
        self.store = DerivedStore(BUDGET, DiskCache(files.parent / KEPT))
        self.pool = ThreadPoolExecutor(os.cpu_count() or 2)
        self.sessions: dict[str, Session] = {}
        self.lock = threading.Lock()
        self.news = threading.Condition(self.lock)
        self.watch = watch

    def take(self, data: dict[str, Any]) -> None:
        """Act on one message from the server; raises `ValidationError` for one that is none."""
        message = to_engine.validate_python(data)
        if isinstance(message, Ping):
            self.wire.send({"kind": "pong", "reply": message.reply, "busy": self.watch.busy()})
            return
        with self.news:
            if isinstance(message, CloseSession):
                self.sessions.pop(message.session, None)
                return
            if isinstance(message, OpenSession) and message.session not in self.sessions:
                self.sessions[message.session] = self._new_session(message.session, message.shot)
            session = self.sessions.get(message.session)
            if session is None:
                if isinstance(message, SnapshotQuestion | RestQuestion):
                    self.wire.send({"kind": message.do, "reply": message.reply, "ready": False})
                return
            if isinstance(message, RestQuestion):
                threading.Thread(target=self._rests, args=(session, message), daemon=True).start()
                return
            if isinstance(message, SnapshotQuestion):
                self._snapshot(session, message.reply)
                return
            if isinstance(message, (OpenSession, NewDocument)):
                session.new_document(message.document, message.revision)
            elif isinstance(message, Said) and isinstance(message.what, BudgetMessage):
                self.store.budget = message.what.bytes
                for each in self.sessions.values():
                    each.do_again("memory")
            elif isinstance(message, Said):
                session.said(message.what)
            self.news.notify()

    def take_safely(self, data: dict[str, Any]) -> None:
        """As `take`; what goes wrong is put down, and is nobody's but the window's whose message it was."""
        try:
            self.take(data)
        except ValidationError as error:
            log.warning("a message was not understood: %s", str(error)[:400])
        except Exception as error:
            session = self.sessions.get(str(data.get("session", "")))
            if session is None:
                log.exception("a message could not be acted on")
            else:
                session.fault(session.window.epoch, error)

    def _new_session(self, name: str, shot: int) -> Session:
        made = Session(name, shot, self.files, self.store, self.pool, self._emit)
        made.seconds = seconds_to_begin_with(self.sessions.values())
        return made

    def _snapshot(self, session: Session, reply: int) -> None:
        made = session.snapshot()
        if made is None:
            self.wire.send({"kind": "snapshot", "reply": reply, "ready": False})
            return
        data, revision, samples = made
        head = {"kind": "snapshot", "reply": reply, "ready": True, "revision": revision, "samples": samples}
        self.wire.send(head, data)

    def _rests(self, session: Session, question: RestQuestion) -> None:
        """Answer how far down things rest: in a thread of its own, as meshes may have to be read."""
        head: dict[str, Any] = {"kind": "rest", "reply": question.reply, "ready": True, "found": False}
        try:
            found = session.rest(frozenset(question.objects), question.at)
        except (DocumentError, MeshError, FileNotFoundError, ValueError) as error:
            found, head["ready"], head["detail"] = None, False, str(error)
        if found is not None:
            head |= {"found": True, "metres": found.metres, "normal": list(found.normal)}
        self.wire.send(head)

    def _emit(self, head: dict[str, Any], body: bytes) -> None:
        self.wire.send(head, body)

    def _ready(self) -> list[Session]:
        now = time.monotonic()
        return [each for each in self.sessions.values() if not each.idle and each.not_before <= now]

    def _rest(self) -> float | None:
        """Seconds until a session that pauses is ready, or nothing where none does."""
        ends = [each.not_before for each in self.sessions.values() if not each.idle]
        return max(min(ends) - time.monotonic(), 0.001) if ends else None

    def run(self) -> None:
        """Work for ever; a window that was touched comes before those that only refine, which share the time evenly."""
        while True:
            with self.news:
                while not (waiting := self._ready()):
                    self.news.wait(self._rest())
                session = next_turn(waiting)
            started = time.monotonic()

            def preempted(mine: Session = session, since: float = started) -> bool:
                self.watch.look_up()
                others = list(self.sessions.values())
                return any(other is not mine and other.window.touched > since and not other.idle for other in others)

            with self.watch.working_for(session.name):
                session.advance(preempted)


def main() -> None:
    """Render until the other end is gone."""
    logging.basicConfig(format="%(asctime)s %(levelname)s %(message)s", stream=sys.stderr)
    end = socket.socket(fileno=int(sys.argv[1]))
    wire = Wire(end)
    renderer = Renderer(wire, Path(sys.argv[2]), Watch(int(sys.argv[3])))
    limit_memory()

    def render() -> None:
        try:
            warm_up()  # before the first window opens, where it can
            renderer.run()
        except BaseException:
            # A renderer without its thread would look alive and do nothing: end, and be started again.
            log.exception("the render thread has ended")
            os._exit(70)

    threading.Thread(target=render, daemon=True, name="render").start()
    wire.send({"kind": "ready"})
    while True:
        received = wire.receive()
        if received is None:
            os._exit(0)
        renderer.take_safely(received[0])


if __name__ == "__main__":
    main()
