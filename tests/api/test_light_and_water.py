"""Wetness taken apart, pictures shown, saved views and backdrops, over the server's own interface; and how the live connection speaks."""

import io
import json
import struct
import time
from typing import Any

import numpy as np
import pytest
import websocket
from PIL import Image

from tests.api.test_pictures_and_signals import png, send
from tests.conftest import Server

STONE = {"look": "basin stone", "layer": "wet"}


def write_aovs(server: Server, shot: int, revision: int, body: Any) -> Any:
    return server.ask("POST", f"/api/shots/{shot}/wetness/apart", body, {"If-Match": f'"{revision}"'})


def test_wetness_is_taken_apart_in_one_step_that_can_be_undone(server: Server, fresh_shot: int) -> None:
    before = server.ask("GET", f"/api/shots/{fresh_shot}").json["document"]
    answer = write_aovs(server, fresh_shot, 1, STONE)
    assert (answer.status, answer.headers["ETag"]) == (200, '"2"')
    layers = {each["name"]: each for each in answer.json["document"]["looks"][0]["layers"]}
    assert "wetness" not in layers["wet"]["channels"]
    assert {"coat_weight", "coat_ior", "coat_darkening"} <= set(layers["film of water"]["channels"])
    back = server.ask("POST", f"/api/shots/{fresh_shot}/undo", b"", {"If-Match": '"2"'})
    assert back.json["document"] == before


@pytest.mark.parametrize(
    ("body", "status", "words"),
    [
        ({"look": "basin stone", "layer": "no such layer"}, 422, "no such layer"),
        ({"look": "no such look", "layer": "wet"}, 422, "no such look"),
        ({"look": "basin stone"}, 422, "layer"),
        ([], 422, ""),
    ],
)
def test_what_has_no_wetness_is_said_and_nothing_changes(
    server: Server, fresh_shot: int, body: Any, status: int, words: str
) -> None:
    answer = write_aovs(server, fresh_shot, 1, body)
    assert answer.status == status and words in json.dumps(answer.json, ensure_ascii=False)
    assert server.ask("GET", f"/api/shots/{fresh_shot}").json["revision"] == 1


def test_wetness_is_taken_apart_once(server: Server, fresh_shot: int) -> None:
    assert write_aovs(server, fresh_shot, 1, STONE).status == 200
    assert write_aovs(server, fresh_shot, 1, STONE).status == 422


def test_a_picture_comes_back_as_it_was_brought_in(server: Server) -> None:
    data = png(77)
    digest = send(server, "plate.png", data).json["sha256"]
    answer = server.ask("GET", f"/api/pictures/{digest}/file")
    assert answer.status == 200 and answer.headers["Content-Type"] == "image/png"
    assert answer.headers["X-Content-Type-Options"] == "nosniff"
    assert answer.body == data


@pytest.mark.parametrize("digest", ["0" * 64, "no-digest", "..%2F..%2Fetc%2Fpasswd"])
def test_a_picture_that_is_not_there_is_not_found(server: Server, digest: str) -> None:
    assert server.ask("GET", f"/api/pictures/{digest}/file").status in (404, 422)


def test_views_are_kept_under_names_and_must_have_one(server: Server, fresh_shot: int) -> None:
    camera = {"position": [1, 2, 3], "target": [0, 0, 0]}
    named = {"op": "add", "path": "/views/-", "value": {"name": "from above", "camera": camera}}
    saved = server.edit(fresh_shot, 1, named)
    assert saved.status == 200
    assert saved.json["document"]["views"][-1]["name"] == "from above"
    nameless = {"op": "add", "path": "/views/-", "value": {"name": "", "camera": camera}}
    refused = server.edit(fresh_shot, 2, nameless)
    assert refused.status == 422
    assert refused.json["problems"][0]["pointer"].endswith("/name")


@pytest.mark.parametrize(
    ("value", "pointer"),
    [
        ({"colour": [0.1, -1.0, 0.1]}, "/backdrop/colour/1"),
        ({"colour": [0.1, 0.1]}, "/backdrop/colour"),
        ({"image": {"file": "../../plate.png"}}, "/backdrop/image/file"),
        ({"tint": [1, 1, 1]}, "/backdrop/tint"),
    ],
)
def test_a_wrong_backdrop_is_pointed_at(server: Server, fresh_shot: int, value: Any, pointer: str) -> None:
    refused = server.edit(fresh_shot, 1, {"op": "add", "path": "/backdrop", "value": value})
    assert refused.status == 422
    assert any(each["pointer"].startswith(pointer) for each in refused.json["problems"])


def picture_of(live: websocket.WebSocket, serial: int) -> tuple[dict[str, Any], np.ndarray]:
    """The next picture that has taken a message in, as the page reads it: four bytes of length, a JSON head, a JPEG."""
    until = time.monotonic() + 120
    while time.monotonic() < until:
        message = live.recv()
        if isinstance(message, bytes):
            size = struct.unpack("<I", message[:4])[0]
            head = json.loads(message[4 : 4 + size])
            if head["serial"] >= serial:
                return head, np.asarray(Image.open(io.BytesIO(message[4 + size :])))
    raise AssertionError("no picture came")


def test_pictures_are_sent_as_they_are_even_to_who_would_inflate_them(server: Server, fresh_shot: int) -> None:
    # RFC 7692: a server may decline the extension by leaving it out of its answer.
    live = websocket.create_connection(
        f"ws://127.0.0.1:{server.port}/api/live/{fresh_shot}",
        timeout=120,
        header=["Sec-WebSocket-Extensions: permessage-deflate; client_max_window_bits"],
    )
    assert "sec-websocket-extensions" not in {name.lower() for name in live.getheaders()}
    live.send(json.dumps({"do": "view", "width": 64, "height": 36, "show": {"kind": "picture"}, "serial": 4}))
    head, picture = picture_of(live, 4)
    live.close()
    assert (head["kind"], picture.shape) == ("picture", (head["height"], head["width"], 3))


def test_a_dimmed_group_is_seen_at_once_and_only_there(server: Server, fresh_shot: int) -> None:
    grouped = [
        {"op": "add", "path": "/light_groups", "value": [{"name": "lantern"}]},
        {"op": "add", "path": "/lights/0/group", "value": "lantern"},
    ]
    assert server.edit(fresh_shot, 1, *grouped).status == 200
    live = websocket.create_connection(f"ws://127.0.0.1:{server.port}/api/live/{fresh_shot}", timeout=120)
    live.send(json.dumps({"do": "view", "width": 96, "height": 54, "show": {"kind": "picture"}, "serial": 1}))
    while (lit := picture_of(live, 1))[0]["stage"] != "full":
        pass
    off = [{"op": "add", "path": "/light_groups/0/on", "value": False}]
    live.send(json.dumps({"do": "preview", "patch": off, "serial": 2}))
    head, dark = picture_of(live, 2)
    live.close()
    assert head["stage"] == "full", "no coarse picture comes first: nothing was traced"
    assert dark.mean() < 0.9 * lit[1].mean(), "the sky still shines"
    saved = server.ask("GET", f"/api/shots/{fresh_shot}").json["document"]["light_groups"][0]
    assert saved.get("on", True) is True, "a preview is not saved"
