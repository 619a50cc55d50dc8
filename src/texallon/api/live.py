"""The live connection of a window: what the person does goes in, pictures and measurements come out.

Text messages are JSON; pictures are binary: four bytes with the length of a JSON head (little-endian), the head, a JPEG.
"""

import json
import struct
import threading
import uuid
from typing import Any, Literal

from flask import Flask, current_app, request
from flask_sock import Sock
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from simple_websocket import ConnectionClosed, Server

from texallon.api.windows import Window, Windows
from texallon.store.shots import NotFoundError, ShotStore


class _Message(BaseModel):
    model_config = ConfigDict(extra="ignore")
    serial: int = Field(0, ge=0)


class ViewMessage(_Message):
    """What the stage shows, how large, and which recipe lies open."""

    do: Literal["view"]
    width: int = Field(ge=16, le=4096)
    height: int = Field(ge=16, le=4096)
    show: dict[str, Any] = {}
    bench: dict[str, Any] = {}
    frame: int | None = Field(None, ge=-(10**6), le=10**6)
    viewing: dict[str, Any] = {}


class PreviewMessage(_Message):
    """A change that is being tried, not yet saved."""

    do: Literal["preview"]
    patch: list[dict[str, Any]] = Field(max_length=200)


class CameraMessage(_Message):
    """A camera being moved by hand, as shares of the stage since the drag began."""

    do: Literal["camera"]
    move: Literal["orbit", "pan", "dolly", "fly"]
    across: float = Field(0, allow_inf_nan=False)
    down: float = Field(0, allow_inf_nan=False)
    end: bool = False


class ReadMessage(_Message):
    """Read the point under a place of the stage (0…1 from its top left), or stop reading."""

    do: Literal["read"]
    across: float | None = Field(None, ge=0, le=1)
    down: float | None = Field(None, ge=0, le=1)


FORMS: dict[str, type[_Message]] = {
    "view": ViewMessage,
    "preview": PreviewMessage,
    "camera": CameraMessage,
    "read": ReadMessage,
}


def register_live(app: Flask, store: ShotStore, windows: Windows) -> None:
    """The WebSocket route."""
    app.config["SOCK_SERVER_OPTIONS"] = {"ping_interval": 25, "max_message_size": 2_000_000}
    sock = Sock(app)

    @app.before_request
    def send_uncompressed() -> None:
        """Refuse the connection's own compression: it takes 17 ms for a picture of 640×360, and JPEG gets a hundredth smaller by it."""
        request.environ.pop("HTTP_SEC_WEBSOCKET_EXTENSIONS", None)

    @sock.route("/api/live/<int:shot_id>")  # type: ignore[untyped-decorator]
    def live(ws: Server, shot_id: int) -> None:
        window = Window(uuid.uuid4().hex, shot_id)
        windows.add(window)  # first, so that a change saved from here on is heard of
        try:
            current = store.current(shot_id)
        except NotFoundError as error:
            windows.remove(window)
            ws.send(json.dumps({"kind": "error", "detail": str(error)}))
            return
        windows.link.open(window.session, current.document, current.revision, window.push)
        window.push({"kind": "hello", "session": window.session, "revision": current.revision})
        sender = threading.Thread(target=_send, args=(ws, window), daemon=True, name="window send")
        sender.start()
        try:
            while True:
                _take(ws.receive(), window, windows)
        except ConnectionClosed:
            pass
        finally:
            windows.link.close(window.session)
            windows.remove(window)


def _take(text: str | bytes | None, window: Window, windows: Windows) -> None:
    try:
        data = json.loads(text or "")
        form = FORMS[data["do"]].model_validate(data)
    except (ValueError, KeyError, TypeError, ValidationError) as error:
        current_app.logger.info("a window sent something unknown: %s", str(error)[:200])
        window.push({"kind": "error", "detail": "the last message was not understood"})
        return
    windows.link.tell(window.session, form.model_dump())


def _send(ws: Server, window: Window) -> None:
    try:
        while True:
            message = window.next(30)
            if message is None:
                continue
            head, body = message
            text = json.dumps(head, separators=(",", ":"))
            if body:
                encoded = text.encode()
                ws.send(struct.pack("<I", len(encoded)) + encoded + body)
            else:
                ws.send(text)
    except (ConnectionClosed, EOFError, OSError):
        pass
