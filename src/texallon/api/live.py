"""The live connection of a window: what the person does goes in, pictures and measurements come out.

Text messages are JSON; pictures are binary: four bytes with the length of a JSON head (little-endian), the head, a JPEG.
"""

import json
import struct
import threading
import uuid

from flask import Flask, current_app, request
from flask_sock import Sock
from pydantic import TypeAdapter, ValidationError
from simple_websocket import ConnectionClosed, Server
from sqlalchemy.exc import SQLAlchemyError

from texallon.api.windows import Window, Windows
from texallon.messages.from_page import FromPage, HereMessage
from texallon.messages.to_engine import OpenSession
from texallon.messages.to_page import ErrorMessage, Hello
from texallon.store.records import NotFoundError
from texallon.store.shots import ShotStore

_from_page: TypeAdapter[FromPage] = TypeAdapter(FromPage)


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
        except (NotFoundError, SQLAlchemyError) as error:
            windows.remove(window)
            # The page asks again after a pause; a database that is being started answers then.
            told = str(error) if isinstance(error, NotFoundError) else "the database does not answer"
            ws.send(ErrorMessage(shot=shot_id, detail=told).model_dump_json())
            return
        opened = OpenSession(
            do="open", session=window.session, shot=shot_id, document=current.document, revision=current.revision
        )
        windows.link.open(opened, window.push)
        window.tell(Hello(session=window.session, shot=shot_id, revision=current.revision))
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
        message = _from_page.validate_json(text or "")
    except ValidationError as error:
        current_app.logger.info("a window sent something unknown: %s", str(error)[:200])
        window.tell(ErrorMessage(shot=window.shot_id, detail="the last message was not understood"))
        return
    if isinstance(message, HereMessage):
        windows.says_where(window, message)
    else:
        windows.link.said(window.session, message)


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
