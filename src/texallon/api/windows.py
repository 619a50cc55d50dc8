"""The open windows: each has a live connection, and hears of every change to its shot."""

import threading
from collections import OrderedDict, deque
from typing import Any

from pydantic import BaseModel

from texallon.engine.link import EngineLink
from texallon.messages.from_page import HereMessage
from texallon.messages.to_engine import NewDocument
from texallon.messages.to_page import OtherWindow, PresenceMessage, RevisionMessage

MOST_OTHERS = 50
"""Other windows that are told of."""

Message = tuple[dict[str, Any], bytes]


class Window:
    """One page's outgoing messages. A slow page skips pictures; it never misses anything else."""

    def __init__(self, session: str, shot_id: int) -> None:
        self.session, self.shot_id = session, shot_id
        self.here = HereMessage(do="here")
        self._ready = threading.Condition()
        self._latest: OrderedDict[str, Message] = OrderedDict()
        self._queue: deque[Message] = deque()
        self._closed = False

    def tell(self, message: BaseModel) -> None:
        """Put a message without a body in line."""
        self.push(message.model_dump(mode="json"))

    def push(self, head: dict[str, Any], body: bytes = b"") -> None:
        """Put a message in line; an unsent picture or measurement is replaced by a newer one."""
        kind = head.get("kind", "")
        with self._ready:
            if kind in ("picture", "bench", "reading", "advice", "loading", "memory", "presence", "fault"):
                self._latest[kind] = (head, body)
            elif kind == "sheet" and "sheet" in self._latest and self._latest["sheet"][0]["look"] == head["look"]:
                # Cells are sent only when they change, so unsent ones are joined, not dropped.
                older = self._latest["sheet"][0]
                cells = {**older["cells"], **head["cells"]}
                gone = [cell for cell in [*older["gone"], *head["gone"]] if cell not in cells]
                self._latest["sheet"] = ({**head, "cells": cells, "gone": gone}, b"")
            elif kind == "sheet":
                self._latest["sheet"] = (head, body)
            else:
                self._queue.append((head, body))
            self._ready.notify()

    def next(self, seconds: float) -> Message | None:
        """The next message to send, or nothing for a while; raises `EOFError` once closed."""
        with self._ready:
            self._ready.wait_for(lambda: self._queue or self._latest or self._closed, seconds)
            if self._closed:
                raise EOFError
            if self._queue:
                return self._queue.popleft()
            if self._latest:
                return self._latest.popitem(last=False)[1]
            return None

    def close(self) -> None:
        with self._ready:
            self._closed = True
            self._ready.notify_all()


class Windows:
    """All open windows by session."""

    def __init__(self, link: EngineLink) -> None:
        self.link = link
        self._lock = threading.Lock()
        self._open: dict[str, Window] = {}

    def add(self, window: Window) -> None:
        with self._lock:
            self._open[window.session] = window
        self._tell_presence(window.shot_id)

    def remove(self, window: Window) -> None:
        with self._lock:
            self._open.pop(window.session, None)
        window.close()
        self._tell_presence(window.shot_id)

    def says_where(self, window: Window, message: HereMessage) -> None:
        """Somebody says who they are and what lies open."""
        window.here = message
        self._tell_presence(window.shot_id)

    def _tell_presence(self, shot_id: int) -> None:
        """Tell all windows of a shot who else has it open."""
        with self._lock:
            concerned = [window for window in self._open.values() if window.shot_id == shot_id]
        for window in concerned:
            others = [
                OtherWindow(window=other.here.window, author=other.here.author, place=other.here.place)
                for other in concerned
                if other is not window
            ]
            window.tell(PresenceMessage(session=window.session, shot=shot_id, others=others[:MOST_OTHERS]))

    def changed(self, shot_id: int, revision: int, document: dict[str, Any]) -> None:
        """Tell the engine and every window of a shot about its new revision."""
        with self._lock:
            concerned = [window for window in self._open.values() if window.shot_id == shot_id]
        for window in concerned:
            self.link.new_document(
                NewDocument(do="document", session=window.session, document=document, revision=revision)
            )
            window.tell(RevisionMessage(session=window.session, shot=shot_id, revision=revision))

    def has(self, session: str, shot_id: int) -> bool:
        with self._lock:
            window = self._open.get(session)
            return window is not None and window.shot_id == shot_id
