"""The server's front: an event loop that holds all connections, and hands whole requests to Flask.

A request reaches one of Flask's threads only when all of it is here, so that one that comes slowly, or never, holds no thread; and those that may take
long have threads of their own. Live connections are tasks of the loop. `/api/status` is answered by the loop itself, from what was looked up
within the last second.
"""

import asyncio
import json
import logging
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import IO, Any

from a2wsgi import WSGIMiddleware
from flask import Flask

from texallon.api.live import Live, Receive, Scope, Send
from texallon.api.problems import problem
from texallon.api.render_queue import RenderQueue
from texallon.api.security import SMALL_BODY, Gate, plain_headers
from texallon.engine.pool import EnginePool
from texallon.formats.mesh_file import LARGEST_FILE
from texallon.packing.manifest import LARGEST_PACK

QUICK, SLOW = 8, 16
"""Threads for what takes milliseconds, and for what may take seconds."""

STATUS_AGE = 1.0
"""Seconds between looks at how everything is."""

UPKEEP_PAUSE = 3600.0
"""Seconds between times at which old drafts are thinned."""

PORTRAIT_PAUSE = 15.0
"""Seconds between looks at which shots have no picture."""

CHUNK_TIME, BODY_TIME = 20.0, 600.0
"""Seconds that a piece of a body may take to come, and all of it."""

LARGE_BODY = LARGEST_FILE + 1_000_000
HELD = 1_000_000
"""Bytes of a body that are held in memory; more lie in a file."""

_log = logging.getLogger("texallon.requests")


class _RefusedError(Exception):
    """A request that is answered before it is whole."""

    def __init__(self, status: int, title: str, detail: str) -> None:
        super().__init__(title)
        self.answer = (status, title, detail)


class Front:
    """The application that the web server runs (ASGI 3)."""

    def __init__(
        self,
        app: Flask,
        live: Live,
        gate: Gate,
        pool: EnginePool,
        find_status: Callable[[], dict[str, Any]],
        base_path: str = "",
        upkeep: Callable[[], object] = int,
        restored: Callable[[], object] = int,
        draw_next: Callable[[], bool] = bool,
        frames: RenderQueue | None = None,
    ) -> None:
        self.live, self.gate, self.pool, self.base_path = live, gate, pool, base_path
        self._quick, self._slow = WSGIMiddleware(app, QUICK), WSGIMiddleware(app, SLOW)
        self._find_status, self._upkeep, self._restored = find_status, upkeep, restored
        self._draw_next, self._frames = draw_next, frames
        self._status: dict[str, Any] = {}
        self._looking = ThreadPoolExecutor(1, "status")
        self._tasks: list[asyncio.Task[None]] = []

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._live_through(receive, send)
            return
        if self.base_path and scope["type"] == "http" and scope["path"] == self.base_path:
            # What the page names is named from where it lies.
            await send(
                {
                    "type": "http.response.start",
                    "status": 308,
                    "headers": [(b"location", self.base_path.encode() + b"/")],
                }
            )
            await send({"type": "http.response.body", "body": b""})
            return
        if self.base_path and scope["path"].startswith(self.base_path + "/"):
            # A proxy may pass on the whole path, or only what is ours of it.
            path = scope["path"].removeprefix(self.base_path)
            scope = {**scope, "path": path, "raw_path": path.encode()}
        if scope["type"] == "websocket":
            await self.live(scope, receive, send)
        else:
            await self._answer(scope, receive, send)

    async def _live_through(self, receive: Receive, send: Send) -> None:
        """Begin and end with the server."""
        await receive()
        self.pool.start()
        if self._frames is not None:
            self._frames.start()
        loop = asyncio.get_running_loop()
        self._status = await loop.run_in_executor(self._looking, self._find_status)
        self._tasks = [
            loop.create_task(self._look()),
            loop.create_task(self.live.windows.send_presence()),
            loop.create_task(self._keep_up()),
            loop.create_task(self._draw_portraits()),
        ]
        await send({"type": "lifespan.startup.complete"})
        await receive()
        for task in self._tasks:
            task.cancel()
        if self._frames is not None:
            await loop.run_in_executor(self._looking, self._frames.close)
        self.pool.stop()
        await send({"type": "lifespan.shutdown.complete"})

    async def _look(self) -> None:
        loop = asyncio.get_running_loop()
        restored = self._restored()
        while True:
            self._status = await loop.run_in_executor(self._looking, self._find_status)
            if self._restored() != restored and self._status["database"]:
                restored = self._restored()
                await loop.run_in_executor(self._looking, self.live.reopen)
            await asyncio.sleep(STATUS_AGE)

    async def _keep_up(self) -> None:
        """Tidy the database now and then, in a thread of its own."""
        loop = asyncio.get_running_loop()
        thread = ThreadPoolExecutor(1, "upkeep")
        while True:
            await asyncio.sleep(UPKEEP_PAUSE)
            try:
                await loop.run_in_executor(thread, self._upkeep)
            except Exception:
                # The database may be away, and is asked again later.
                _log.exception("old drafts could not be thinned")

    async def _draw_portraits(self) -> None:
        """Make small pictures of shots that have none, one after the other, in a thread that waits for another process."""
        loop = asyncio.get_running_loop()
        thread = ThreadPoolExecutor(1, "portraits")
        while True:
            await asyncio.sleep(PORTRAIT_PAUSE)
            try:
                while await loop.run_in_executor(thread, self._draw_next):
                    pass
            except Exception:
                _log.exception("small pictures could not be made")

    async def _answer(self, scope: Scope, receive: Receive, send: Send) -> None:
        begun, status = time.monotonic(), [0]

        async def noted(message: Any) -> None:
            if message["type"] == "http.response.start":
                status[0] = message["status"]
            await send(message)

        try:
            if scope["path"] == "/api/status" and scope["method"] == "GET":
                await self._tell_status(scope, noted)
            else:
                await self._pass_on(scope, receive, noted)
        except _RefusedError as refused:
            await _send_problem(noted, *refused.answer)
        except (asyncio.IncompleteReadError, ConnectionError):
            pass
        finally:
            _log.info(
                "request", extra={"method": scope["method"], "path": scope["path"], "status": status[0],
                "ms": round(1000 * (time.monotonic() - begun), 1)},
            )  # fmt: skip

    async def _tell_status(self, scope: Scope, send: Send) -> None:
        found = self.gate.refuses(plain_headers(scope["headers"]))
        if found is not None:
            raise _RefusedError(*found)
        # The render process may have died since it was last looked.
        running = self.pool.process_ids
        known = {**self._status, "engine": running[0] if running else None, "engines": running}
        known |= {"restarts": self.pool.restarts, "ready": bool(self._status["ready"] and self.pool.all_run)}
        await _send_json(send, 200, known, "application/json")

    async def _pass_on(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Wait for the whole request, then hand it to one of Flask's threads."""
        try:
            scope["query_string"].decode("ascii")
        except UnicodeDecodeError as error:
            raise _RefusedError(400, "Bad request", "The address holds bytes that are no ASCII.") from error
        path = scope["path"].rstrip("/")
        unpacking = scope["method"] == "POST" and path == "/api/packs"
        upload = unpacking or (
            scope["method"] == "POST"
            and (path.endswith("/mesh") or path in ("/api/pictures", "/api/meshes", "/api/meshes/line"))
        )
        slow = (
            upload
            or path.startswith("/api/packs")
            or (scope["method"] == "POST" and path.endswith("/snapshots"))
            or path.endswith(("/attributes", "/frames.zip", "/video.mp4", "/renders", "/render-estimates"))
        )
        most = LARGEST_PACK if unpacking else LARGE_BODY if upload else SMALL_BODY
        with tempfile.SpooledTemporaryFile(HELD) as body:
            await _read_body(receive, body, most)
            await (self._slow if slow else self._quick)(scope, _from_file(body), send)


async def _read_body(receive: Receive, body: IO[bytes], most: int) -> None:
    """Take in a whole body; raises `_RefusedError` for one that is too large, or comes too slowly."""
    total, begun = 0, time.monotonic()
    while True:
        try:
            message = await asyncio.wait_for(receive(), CHUNK_TIME)
        except TimeoutError as error:
            raise _RefusedError(408, "Request timeout", "The request did not come to its end.") from error
        if message["type"] == "http.disconnect":
            raise ConnectionError
        total += len(message.get("body", b""))
        if total > most:
            raise _RefusedError(413, "Request too large", f"At most {most / 1e6:.0f} MB are taken.")
        if time.monotonic() - begun > BODY_TIME:
            raise _RefusedError(408, "Request timeout", "The request took too long.")
        body.write(message.get("body", b""))
        if not message.get("more_body", False):
            body.seek(0)
            return


def _from_file(body: IO[bytes]) -> Receive:
    async def receive() -> Any:
        piece = body.read(HELD)
        return {"type": "http.request", "body": piece, "more_body": len(piece) == HELD}

    return receive


async def _send_json(send: Send, status: int, value: Any, kind: str) -> None:
    data = json.dumps(value).encode()
    headers = [
        (b"content-type", kind.encode()), (b"content-length", str(len(data)).encode()), (b"cache-control", b"no-store"),
        (b"x-content-type-options", b"nosniff"), (b"cross-origin-resource-policy", b"same-origin"),
    ]  # fmt: skip
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": data})


async def _send_problem(send: Send, status: int, title: str, detail: str) -> None:
    answer = problem(status, title, detail)
    await _send_json(send, status, json.loads(answer.get_data()), "application/problem+json")
