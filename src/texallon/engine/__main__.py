"""The render process: `python -m texallon.engine FD STORE`.

One thread takes in messages; one renders, for the window touched last first, and then the others in turn.
"""

import os
import socket
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from texallon.engine.session import Session
from texallon.engine.wire import Wire
from texallon.formats.shot_files import ShotFiles
from texallon.warm_up import warm_up


class Renderer:
    """The sessions, and the thread that works on them."""

    def __init__(self, wire: Wire, store: Path) -> None:
        self.wire = wire
        self.files = ShotFiles(store=store)
        self.pool = ThreadPoolExecutor(os.cpu_count() or 2)
        self.sessions: dict[str, Session] = {}
        self.lock = threading.Lock()
        self.news = threading.Condition(self.lock)

    def take(self, message: dict[str, Any]) -> None:
        """Act on one message from the server."""
        kind = message["do"]
        if kind == "ping":
            self.wire.send({"kind": "pong", "reply": message["reply"]})
            return
        name = message["session"]
        with self.news:
            if kind == "close":
                self.sessions.pop(name, None)
                return
            if kind == "open" and name not in self.sessions:
                self.sessions[name] = Session(name, self.files, self.pool, self._emit)
            session = self.sessions.get(name)
            if session is None:
                return
            if kind == "snapshot":
                self._snapshot(session, message)
                return
            session.change({**message, "do": "document"} if kind == "open" else message)
            self.news.notify()

    def _snapshot(self, session: Session, message: dict[str, Any]) -> None:
        made = session.snapshot()
        if made is None:
            self.wire.send({"kind": "snapshot", "reply": message["reply"], "ready": False})
            return
        data, revision, samples = made
        head = {"kind": "snapshot", "reply": message["reply"], "ready": True, "revision": revision, "samples": samples}
        self.wire.send(head, data)

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
        """Work for ever; a window that was touched comes before those that only refine."""
        turn = 0
        while True:
            with self.news:
                while not (waiting := self._ready()):
                    self.news.wait(self._rest())
                fresh = [session for session in waiting if session.fresh]
                turn += 1
                session = max(fresh, key=lambda each: each.touched) if fresh else waiting[turn % len(waiting)]
            started = time.monotonic()

            def preempted(mine: Session = session, since: float = started) -> bool:
                others = list(self.sessions.values())
                return any(other is not mine and other.touched > since and not other.idle for other in others)

            session.advance(preempted)


def main() -> None:
    end = socket.socket(fileno=int(sys.argv[1]))
    wire = Wire(end)
    renderer = Renderer(wire, Path(sys.argv[2]))

    def render() -> None:
        try:
            warm_up()  # before the first window opens, where it can
            renderer.run()
        except BaseException:
            # A renderer without its thread would look alive and do nothing: end, and be started again.
            import traceback

            traceback.print_exc()
            os._exit(70)

    threading.Thread(target=render, daemon=True, name="render").start()
    wire.send({"kind": "ready"})
    while True:
        received = wire.receive()
        if received is None:
            os._exit(0)
        renderer.take(received[0])


if __name__ == "__main__":
    main()
