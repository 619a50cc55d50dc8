"""Pictures that recipes read, and the project's shared signals, over the server's own interface."""

import io
import json
import struct
import uuid
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import websocket
from PIL import Image

from tests.conftest import Answer, Server, World


def send(server: Server, name: str, data: bytes, field: str = "picture") -> Answer:
    mark = uuid.uuid4().hex
    body = (
        f'--{mark}\r\nContent-Disposition: form-data; name="{field}"; filename="{name}"\r\n\r\n'.encode()
        + data
        + f"\r\n--{mark}--\r\n".encode()
    )
    return server.ask("POST", "/api/pictures", body, {"Content-Type": f"multipart/form-data; boundary={mark}"})


def png(tone: int = 120) -> bytes:
    out = io.BytesIO()
    Image.fromarray(np.full((5, 9, 3), tone, np.uint8)).save(out, "PNG")
    return out.getvalue()


def test_a_picture_is_brought_in_listed_and_read_by_a_recipe(server: Server, fresh_shot: int) -> None:
    answer = send(server, "old ~ seed: packet.PNG", png())
    assert answer.status == 201
    made = answer.json
    assert (made["width"], made["height"], made["channels"]) == (9, 5, 3)
    assert made["file"].startswith("pictures/old - seed- packet-")
    listed = server.ask("GET", "/api/pictures").json["pictures"]
    assert made["sha256"] in {each["sha256"] for each in listed}
    assert "fallen-leaves.png" in {each["name"] for each in listed}, "the demo's too"
    image = {"op": "image", "params": {"file": {"file": made["file"], "sha256": made["sha256"]}, "role": "mask"}}
    edit = {"op": "replace", "path": "/looks/0/layers/1/where", "value": {"steps": [image]}}
    assert server.edit(fresh_shot, 1, edit).status == 200
    live = websocket.create_connection(f"ws://127.0.0.1:{server.port}/api/live/{fresh_shot}", timeout=60)
    show = {"kind": "mask", "look": "basin stone", "recipe": "/looks/0/layers/1/where"}
    live.send(json.dumps({"do": "view", "width": 64, "height": 36, "show": show, "bench": {"look": "basin stone", "recipe": "/looks/0/layers/1/where"}, "serial": 1}))  # fmt: skip
    while True:
        message = live.recv()
        if isinstance(message, str) and json.loads(message)["kind"] == "bench":
            break
    live.close()
    assert json.loads(message)["steps"][0]["values"]["mean"] == pytest.approx(120 / 255, abs=1e-4)


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.png", b"no picture", "not a PNG file"),
        ("a.svg", b"<svg/>", "PNG, JPEG, TIFF, EXR or HDR"),
        ("a.png", b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + b"IHDR" + b"\x7f" * 17, "read|pixels|damaged"),
        ("a.exr", b"\x76\x2f\x31\x01" + b"\xff" * 400, "read|damaged|broke"),
    ],
)
def test_what_is_no_picture_is_refused_and_nothing_is_kept(server: Server, name: str, data: bytes, words: str) -> None:
    before = server.ask("GET", "/api/pictures").json
    answer = send(server, name, data)
    assert answer.status == 422
    import re

    assert re.search(words, answer.json["detail"])
    assert server.ask("GET", "/api/pictures").json == before


def test_a_form_without_a_picture_is_refused(server: Server) -> None:
    assert send(server, "a.png", png(), field="other").status == 422


@pytest.fixture
def project(world: World, demo_folder: Path) -> tuple[int, int]:
    name = f"api signals {uuid.uuid4().hex}"
    documents = [json.loads((demo_folder / f"{shot}.json").read_text()) for shot in ("GH010", "GH070")]
    return world.store.add_shot(name, documents[0], ""), world.store.add_shot(name, documents[1], "")


def act(server: Server, shot: int, what: str, revision: int, **body: Any) -> Answer:
    return server.ask("POST", f"/api/shots/{shot}/signals/{what}", body, {"If-Match": f'"{revision}"'})


def test_signals_are_listed_with_their_uses_renamed_and_written_out(server: Server, project: tuple[int, int]) -> None:
    first, second = project
    listed = server.ask("GET", f"/api/shots/{first}/signals").json["signals"]
    wetness = next(each for each in listed if each["name"] == "waterline wetness")
    assert {use["shot"] for use in wetness["uses"]} == {"GH010", "GH070"}
    assert act(server, first, "rename", 1, name="bowl", to="hol/low").status == 422
    assert act(server, first, "rename", 1, name="bowl", to="hollow").json["revision"] == 2
    assert "hollow" in [each["name"] for each in server.ask("GET", f"/api/shots/{second}").json["document"]["signals"]]
    answer = act(server, second, "inline", 2, name="waterline wetness")
    assert answer.status == 200
    assert "waterline wetness" not in [each["name"] for each in answer.json["document"]["signals"]]
    assert act(server, second, "inline", 3, name="gone").status == 404


def test_another_windows_shot_hears_of_a_changed_signal(server: Server, project: tuple[int, int]) -> None:
    first, second = project
    live = websocket.create_connection(f"ws://127.0.0.1:{server.port}/api/live/{second}", timeout=60)
    assert json.loads(live.recv())["kind"] == "hello"
    change = {"op": "replace", "path": "/signals/0/recipe/steps/0/params/size", "value": 0.3}
    assert server.edit(first, 1, change).status == 200
    while True:
        message = live.recv()
        if isinstance(message, str) and json.loads(message)["kind"] == "revision":
            break
    live.close()
    assert json.loads(message)["revision"] == 2


def test_a_formula_that_can_not_be_read_is_refused_with_its_character(server: Server, fresh_shot: int) -> None:
    bad = {"op": "formula", "params": {"expression": "clamp(position.q)"}}
    answer = server.edit(fresh_shot, 1, {"op": "replace", "path": "/looks/0/layers/1/where/steps/0", "value": bad})
    assert answer.status == 422
    (problem,) = answer.json["problems"]
    assert problem["pointer"] == "/looks/0/layers/1/where/steps/0/params/expression"
    assert problem["character"] == 15
    assert "use .x, .y or .z" in problem["reason"]


def test_odd_requests_to_read_do_no_harm(server: Server, fresh_shot: int) -> None:
    live = websocket.create_connection(f"ws://127.0.0.1:{server.port}/api/live/{fresh_shot}", timeout=60)
    live.recv()
    for odd in ({"do": "read", "across": 7}, {"do": "read", "across": "x"}, {"do": "view", "frame": 1e99}):
        live.send(json.dumps(odd))
        while True:
            message = live.recv()
            if isinstance(message, str) and json.loads(message)["kind"] == "error":
                break
    live.close()
    assert server.ask("GET", "/api/status").status == 200
