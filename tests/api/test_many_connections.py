"""Many windows that say nothing and many requests that never end: the others are answered all the same."""

import json
import socket
from collections.abc import Iterator
from contextlib import ExitStack, closing

import pytest
import websocket

from tests.conftest import Server

WINDOWS, HALF_SENT = 150, 150


@pytest.fixture
def crowded(server: Server, fresh_shot: int) -> Iterator[Server]:
    with ExitStack() as open_ones:
        for _ in range(WINDOWS):
            made = websocket.create_connection(
                f"ws://127.0.0.1:{server.port}/api/live/{fresh_shot}", origin=server.address, timeout=30
            )
            open_ones.callback(made.close)
            assert json.loads(made.recv())["kind"] in ("hello", "presence")
        head = f"PATCH /api/shots/{fresh_shot} HTTP/1.1\r\nHost: 127.0.0.1:{server.port}\r\n"
        for number in range(HALF_SENT):
            connection = open_ones.enter_context(closing(socket.create_connection(("127.0.0.1", server.port))))
            # Half of them stop within the head, half within the body.
            rest = "If-Match: " if number % 2 else 'If-Match: "1"\r\nContent-Length: 1000\r\n\r\n{'
            connection.sendall((head + rest).encode())
        yield server


def test_others_are_answered_beside_many_idle_windows_and_half_sent_requests(crowded: Server, fresh_shot: int) -> None:
    assert crowded.ask("GET", "/api/status").json["ready"] is True
    assert crowded.ask("GET", f"/api/shots/{fresh_shot}").status == 200
    assert crowded.edit(fresh_shot, 1, {"op": "replace", "path": "/title", "value": "all the same"}).status == 200
    assert crowded.ask("GET", "/").status == 200


def test_a_body_that_is_too_large_is_refused_before_it_is_read(server: Server, fresh_shot: int) -> None:
    answer = server.ask("PATCH", f"/api/shots/{fresh_shot}", b"x" * 5_000_000, {"If-Match": '"1"'})
    assert (answer.status, answer.json["status"]) == (413, 413)


def test_foreign_hosts_get_no_status(server: Server) -> None:
    assert server.ask("GET", "/api/status", headers={"Host": "evil.example"}).status == 421
    assert server.ask("GET", "/api/status", headers={"Origin": "http://evil.example"}).status == 403
