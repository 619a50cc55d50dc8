"""The live connection of a window: what the person does goes in, pictures and measurements come out.

Text messages are JSON; pictures are binary: four bytes with the length of a JSON head (little-endian), the head, a JPEG.

Each connection is a task of the event loop: a thousand that say nothing cost next to nothing. Whatever may wait, such as the database, is asked
in a thread.
"""

import asyncio
import json
import logging
import re
import struct
import uuid
from collections import Counter
from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from pydantic import TypeAdapter, ValidationError
from sqlalchemy.exc import SQLAlchemyError

from texallon.api.security import Gate, plain_headers
from texallon.api.windows import Window, Windows
from texallon.messages.from_page import FromPage, HereMessage
from texallon.messages.to_engine import OpenSession
from texallon.messages.to_page import ErrorMessage, Hello
from texallon.store.records import NotFoundError
from texallon.store.shots import ShotStore

_from_page: TypeAdapter[FromPage] = TypeAdapter(FromPage)
_log = logging.getLogger("texallon.live")

Scope, Receive, Send = dict[str, Any], Callable[[], Awaitable[Any]], Callable[[Any], Awaitable[None]]

TRY_AGAIN_LATER = 1013
"""Close code of a server that has too much to do (IANA's registry of WebSocket close codes)."""


class Live:
    """The live connections of all windows."""

    def __init__(self, store: ShotStore, windows: Windows, gate: Gate, most_of_one: int = 2_000) -> None:
        self.store, self.windows, self.gate = store, windows, gate
        self._asking = ThreadPoolExecutor(4, "live")
        self.most_of_one = most_of_one
        """Live connections of one client."""
        self._of_client: Counter[str] = Counter()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one connection until it ends."""
        await receive()  # that it wants to be connected
        client = self.gate.client((scope.get("client") or ("",))[0], scope["headers"])
        shot = re.fullmatch(r"/api/live/([0-9]{1,9})", scope["path"])
        if shot is None or self.gate.refuses_live(scope["headers"]):
            await send({"type": "websocket.close", "code": 1008})
            return
        if self._of_client[client] >= self.most_of_one:
            await send({"type": "websocket.close", "code": TRY_AGAIN_LATER})
            return
        self._of_client[client] += 1
        try:
            await send({"type": "websocket.accept"})
            await self._serve(int(shot[1]), self.gate.user(plain_headers(scope["headers"])), receive, send)
        finally:
            self._of_client[client] -= 1

    def reopen(self) -> None:
        """Tell all windows that a backup was brought back."""
        try:
            self.windows.reopen(self.store.current)
        except SQLAlchemyError as error:
            _log.warning("windows did not hear of a restored backup: %s", str(error).split("\n")[0][:200])

    async def _serve(self, shot_id: int, user: str | None, receive: Receive, send: Send) -> None:
        loop = asyncio.get_running_loop()
        window = Window(uuid.uuid4().hex, shot_id, loop, user)
        self.windows.add(window)  # first, so that a change saved from here on is heard of
        sender = None
        try:
            try:
                current = await loop.run_in_executor(self._asking, self.store.current, shot_id)
            except (NotFoundError, SQLAlchemyError) as error:
                # The page asks again after a pause; a database that is being started answers then.
                detail = str(error) if isinstance(error, NotFoundError) else "the database does not answer"
                await send(
                    {"type": "websocket.send", "text": ErrorMessage(shot=shot_id, detail=detail).model_dump_json()}
                )
                await send({"type": "websocket.close", "code": 1011})
                return
            opened = OpenSession(
                do="open", session=window.session, shot=shot_id, document=current.document, revision=current.revision
            )
            self.windows.pool.open(opened, window.push)
            window.send(Hello(session=window.session, shot=shot_id, revision=current.revision))
            sender = loop.create_task(_send_all(window, send))
            while (message := await receive())["type"] == "websocket.receive":
                self._take(message.get("text") or message.get("bytes"), window)
        finally:
            if sender is not None:
                sender.cancel()
            self.windows.pool.close(window.session)
            self.windows.remove(window)

    def _take(self, text: str | bytes | None, window: Window) -> None:
        try:
            message = _from_page.validate_json(text or "")
        except ValidationError as error:
            _log.info("a window sent something unknown: %s", str(error)[:200])
            window.send(ErrorMessage(shot=window.shot_id, detail="the last message was not understood"))
            return
        if isinstance(message, HereMessage):
            self.windows.says_where(window, message)
        else:
            self.windows.pool.said(window.session, message)


async def _send_all(window: Window, send: Send) -> None:
    """Send what comes for a window, until the connection ends."""
    while True:
        head, body = await window.next()
        text = json.dumps(head, separators=(",", ":"))
        if body:
            encoded = text.encode()
            await send({"type": "websocket.send", "bytes": struct.pack("<I", len(encoded)) + encoded + body})
        else:
            await send({"type": "websocket.send", "text": text})
