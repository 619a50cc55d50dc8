"""The open windows: each has a live connection, and hears of every change to its shot."""

import asyncio
import threading
from collections import OrderedDict, deque
from collections.abc import Callable
from typing import Any

from pydantic import BaseModel

from texallon.core.document.base import Vector
from texallon.engine.pool import EnginePool
from texallon.messages.from_page import HereMessage
from texallon.messages.to_engine import NewDocument, RestQuestion, SnapshotQuestion
from texallon.messages.to_page import ErrorMessage, OtherWindow, PresenceMessage, RevisionMessage
from texallon.store.records import Current, NotFoundError

MOST_OTHERS = 20
"""Other windows that are listed."""

PRESENCE_PAUSE = 0.25
"""Seconds before others hear that somebody came or left."""

Message = tuple[dict[str, Any], bytes]


class NoPictureYetError(RuntimeError):
    """A window's picture is still coming in."""


class Window:
    """One page's outgoing messages. A slow page skips pictures; it never misses anything else.

    Messages are put in line from any thread, and taken out by a task of the event loop.
    """

    def __init__(self, session: str, shot_id: int, loop: asyncio.AbstractEventLoop, user: str | None = None) -> None:
        self.session, self.shot_id, self.user = session, shot_id, user
        self.here = HereMessage(do="here")
        self._loop, self._news = loop, asyncio.Event()
        self._lock = threading.Lock()
        self._latest: OrderedDict[str, Message] = OrderedDict()
        self._queue: deque[Message] = deque()
        self._closed = False

    def send(self, message: BaseModel) -> None:
        """Put a message without a body in line."""
        self.push(message.model_dump(mode="json"))

    def push(self, head: dict[str, Any], body: bytes = b"") -> None:
        """Put a message in line; an unsent picture or measurement is replaced by a newer one."""
        kind = head.get("kind", "")
        with self._lock:
            if self._closed:
                return
            if kind in ("picture", "bench", "reading", "advice", "loading", "working", "memory", "presence", "fault"):
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
        try:
            self._loop.call_soon_threadsafe(self._news.set)
        except RuntimeError:
            pass  # the loop has ended, and the window with it

    async def next(self) -> Message:
        """The next message to send, as soon as there is one."""
        while True:
            await self._news.wait()
            self._news.clear()
            message = self.take()
            if message is not None:
                self._news.set()  # there may be more
                return message

    def take(self) -> Message | None:
        """The next message to send, where there is one."""
        with self._lock:
            if self._queue:
                return self._queue.popleft()
            return self._latest.popitem(last=False)[1] if self._latest else None

    def close(self) -> None:
        """Nothing more is put in line."""
        with self._lock:
            self._closed = True


class Windows:
    """All open windows by session."""

    def __init__(self, pool: EnginePool) -> None:
        self.pool = pool
        self._lock = threading.Lock()
        self._open: dict[str, Window] = {}
        self._moved: set[int] = set()
        """Shots in which somebody came, left or opened something else since others last heard of it."""

    def add(self, window: Window) -> None:
        with self._lock:
            self._open[window.session] = window
            self._moved.add(window.shot_id)

    def remove(self, window: Window) -> None:
        with self._lock:
            self._open.pop(window.session, None)
            self._moved.add(window.shot_id)
        window.close()

    def says_where(self, window: Window, message: HereMessage) -> None:
        """Somebody says who they are (a proxy's login is believed before that) and what lies open."""
        with self._lock:
            window.here = message.model_copy(update={"author": window.user[:80]}) if window.user else message
            self._moved.add(window.shot_id)

    async def send_presence(self) -> None:
        """Tell windows who else has their shot open, for ever: a little later, as many may come at once."""
        while True:
            await asyncio.sleep(PRESENCE_PAUSE)
            with self._lock:
                moved, self._moved = self._moved, set()
                concerned: dict[int, list[Window]] = {shot: [] for shot in moved}
                for window in self._open.values():
                    if window.shot_id in concerned:
                        concerned[window.shot_id].append(window)
            for shot, windows in concerned.items():
                named = [
                    (each, OtherWindow(window=each.here.window, author=each.here.author, place=each.here.place))
                    for each in windows[: MOST_OTHERS + 1]
                ]
                for window in windows:
                    others = [entry for each, entry in named if each is not window]
                    window.send(PresenceMessage(session=window.session, shot=shot, others=others[:MOST_OTHERS]))
                    await asyncio.sleep(0)  # others want the loop too

    def changed(self, shot_id: int, revision: int, document: dict[str, Any]) -> None:
        """Tell the engine and every window of a shot about its new revision."""
        with self._lock:
            concerned = [window for window in self._open.values() if window.shot_id == shot_id]
        for window in concerned:
            self.pool.new_document(
                NewDocument(do="document", session=window.session, document=document, revision=revision)
            )
            window.send(RevisionMessage(session=window.session, shot=shot_id, revision=revision))

    def reopen(self, current: Callable[[int], Current]) -> None:
        """Tell the engine and every window how its shot is now that a backup was brought back; `current` raises `NotFoundError` for one that is gone."""
        with self._lock:
            windows = list(self._open.values())
        for window in windows:
            try:
                found = current(window.shot_id)
            except NotFoundError as error:
                window.send(
                    ErrorMessage(
                        session=window.session,
                        shot=window.shot_id,
                        detail=f"{error}, in the backup that was brought back",
                    )
                )
                continue
            self.pool.new_document(
                NewDocument(do="document", session=window.session, document=found.document, revision=found.revision)
            )
            window.send(
                RevisionMessage(session=window.session, shot=window.shot_id, revision=found.revision, restored=True)
            )

    def picture(self, session: str, shot_id: int) -> tuple[dict[str, Any], bytes]:
        """What a window shows, as PNG, with its revision and samples.

        Raises `NotFoundError` where the window is not open with that shot, `NoPictureYetError` while its first picture is still coming in.
        """
        if not self.has(session, shot_id):
            raise NotFoundError("that window is no longer open")
        head, picture = self.pool.ask(
            session, lambda reply: SnapshotQuestion(do="snapshot", session=session, reply=reply)
        )
        if not head["ready"]:
            raise NoPictureYetError
        return head, picture

    def rest(self, session: str, shot_id: int, objects: list[str], at: Vector | None) -> dict[str, Any]:
        """How far objects of a window's shot, or a point, go down until they rest; raises `NotFoundError` where the window is not open."""
        if not self.has(session, shot_id):
            raise NotFoundError("that window is no longer open")
        head, _ = self.pool.ask(
            session, lambda reply: RestQuestion(do="rest", session=session, reply=reply, objects=objects, at=at)
        )
        return head

    def has(self, session: str, shot_id: int) -> bool:
        with self._lock:
            window = self._open.get(session)
            return window is not None and window.shot_id == shot_id
