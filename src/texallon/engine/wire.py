"""Messages between the server and the render process: a JSON head and some bytes, over a local socket."""

import json
import socket
import struct
from threading import Lock
from typing import Any

LARGEST = 512_000_000


class Wire:
    """One end of the connection. Sending is safe from several threads; receiving is for one."""

    def __init__(self, end: socket.socket) -> None:
        self._socket = end
        self._sending = Lock()

    def send(self, head: dict[str, Any], body: bytes = b"") -> None:
        """Send a message; raises `OSError` when the other end is gone."""
        text = json.dumps(head, separators=(",", ":")).encode()
        with self._sending:
            self._socket.sendall(struct.pack("<II", len(text), len(body)) + text + body)

    def receive(self) -> tuple[dict[str, Any], bytes] | None:
        """The next message, or nothing when the other end is gone."""
        sizes = self._exactly(8)
        if sizes is None:
            return None
        head_size, body_size = struct.unpack("<II", sizes)
        if head_size + body_size > LARGEST:
            return None
        head = self._exactly(head_size)
        body = self._exactly(body_size) if body_size else b""
        if head is None or body is None:
            return None
        return json.loads(head), body

    def close(self) -> None:
        try:
            self._socket.shutdown(socket.SHUT_RDWR)
        except OSError:
            pass
        self._socket.close()

    def _exactly(self, count: int) -> bytes | None:
        parts = bytearray()
        while len(parts) < count:
            try:
                part = self._socket.recv(min(count - len(parts), 1 << 20))
            except OSError:
                return None
            if not part:
                return None
            parts += part
        return bytes(parts)
