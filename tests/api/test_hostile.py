"""Requests of somebody who means no good, or whose program is broken: each is the sender's fault, said so, and cheap."""

import json
import time
from typing import Any

import pytest

from tests.api.test_api import painted_ball, upload
from tests.conftest import Answer, Server

NUL, HALF = "a\u0000b", "\\ud800"
TEXTS = ['"a\\u0000b"', '"\\ud800"', '"\\udfff x"']


def raw_edit(server: Server, shot: int, patch: str, label: str = '"test"') -> Answer:
    """A request whose body is written by hand, as no JSON library would."""
    body = f'{{"patch": {patch}, "label": {label}}}'.encode()
    return server.ask("PATCH", f"/api/shots/{shot}", body, {"If-Match": '"1"'})


def unchanged(server: Server, shot: int) -> bool:
    return bool(server.ask("GET", f"/api/shots/{shot}").json["revision"] == 1)


@pytest.mark.parametrize("text", TEXTS)
@pytest.mark.parametrize(
    "path", ["/title", "/name", "/looks/0/name", "/looks/0/layers/0/name", "/objects/0/geometry/file"]
)
def test_texts_that_can_not_be_kept(server: Server, fresh_shot: int, path: str, text: str) -> None:
    answer = raw_edit(server, fresh_shot, f'[{{"op": "add", "path": "{path}", "value": {text}}}]')
    assert answer.status in (400, 422)
    assert unchanged(server, fresh_shot)


@pytest.mark.parametrize("text", TEXTS)
def test_labels_and_names_that_can_not_be_kept(server: Server, fresh_shot: int, text: str) -> None:
    answer = raw_edit(server, fresh_shot, '[{"op": "add", "path": "/title", "value": "x"}]', text)
    assert answer.status in (400, 422)
    snapshot = f'{{"session": "x", "name": {text}}}'.encode()
    assert server.ask("POST", f"/api/shots/{fresh_shot}/snapshots", snapshot).status in (400, 404, 422)
    rename = f'{{"name": "bowl", "to": {text}}}'.encode()
    assert server.ask("POST", f"/api/shots/{fresh_shot}/signals/rename", rename).status in (400, 422)
    assert unchanged(server, fresh_shot)


@pytest.mark.parametrize("number", ["NaN", "Infinity", "-Infinity", "1e999", "1" + "0" * 400, "-1e308", "5e-324"])
@pytest.mark.parametrize("path", ["/camera/focal_length", "/frames/last", "/objects/0/scale", "/camera/position/0"])
def test_numbers_that_are_none(server: Server, fresh_shot: int, path: str, number: str) -> None:
    answer = raw_edit(server, fresh_shot, f'[{{"op": "replace", "path": "{path}", "value": {number}}}]')
    if path == "/camera/position/0" and number == "5e-324":
        assert answer.status == 200, "as good as 0"
        return
    assert answer.status in (400, 422)
    assert unchanged(server, fresh_shot)


@pytest.mark.parametrize("depth", [100, 900, 5000, 100_000])
def test_deep_nesting(server: Server, fresh_shot: int, depth: int) -> None:
    value = "[" * depth + "]" * depth
    answer = raw_edit(server, fresh_shot, f'[{{"op": "add", "path": "/title", "value": {value}}}]')
    assert answer.status in (400, 413, 422)
    assert unchanged(server, fresh_shot)


@pytest.mark.parametrize(
    "patch",
    [
        [{"op": "copy", "from": "/looks", "path": "/looks/0/layers/0/channels/x"}] * 199,
        [{"op": "copy", "from": "", "path": "/title"}] * 199,
        [{"op": "add", "path": "/title", "value": ["x" * 11_000]}]
        + [{"op": "copy", "from": "/title", "path": "/title/-"}] * 199,
        [{"op": "move", "from": "/looks", "path": "/looks/0"}],
        [{"op": "add", "path": "/looks/99999999999999999999", "value": 1}],
        [{"op": "replace", "path": "", "value": None}],
        [{"op": "remove", "path": ""}],
        [{"op": "test", "path": "/title", "value": "other"}],
        [{"op": "copy", "path": "/title"}],
    ],
)
def test_patches_that_grow_without_end_or_make_no_sense(server: Server, fresh_shot: int, patch: Any) -> None:
    begun = time.monotonic()
    answer = server.edit(fresh_shot, 1, *patch)
    assert answer.status in (400, 422)
    assert time.monotonic() - begun < 10
    assert unchanged(server, fresh_shot)


def test_many_unknown_names_beside_many_looks_are_told_quickly(server: Server, fresh_shot: int) -> None:
    looks = [{"name": f"look number {each}", "layers": [{"name": "base"}]} for each in range(256)]
    document = server.ask("GET", f"/api/shots/{fresh_shot}").json["document"]
    objects = [
        {**document["objects"][0], "id": "", "name": f"o{each}", "look": f"lock nummer {each}"} for each in range(210)
    ]
    begun = time.monotonic()
    answer = server.edit(
        fresh_shot, 1, {"op": "replace", "path": "/looks", "value": looks},
        {"op": "replace", "path": "/objects", "value": objects},
    )  # fmt: skip
    assert answer.status == 422
    assert 0 < len(answer.json["problems"]) <= 50
    assert "did you mean" in answer.json["problems"][0]["hint"]
    assert time.monotonic() - begun < 10


def test_attributes_of_a_mesh_that_is_not_there(server: Server, fresh_shot: int) -> None:
    gone = [{"op": "replace", "path": "/objects/0/geometry", "value": {"file": "gone.ply", "sha256": "0" * 64}}]
    assert server.edit(fresh_shot, 1, *gone).status == 200
    answer = server.ask("GET", f"/api/shots/{fresh_shot}/attributes")
    assert answer.status in (200, 404, 422)


@pytest.mark.parametrize(
    "name", ["a\u0000.ply", "../../x.ply", "x" * 300 + ".ply", "é\u202e.ply", ".ply", "a/b.ply", ""]
)
def test_file_names_of_any_kind(server: Server, fresh_shot: int, name: str) -> None:
    answer = upload(server, fresh_shot, name, painted_ball())
    assert answer.status in (201, 400, 422)
    if answer.status == 201:
        document = answer.json["shot"]["document"]
        kept = next(item for item in document["objects"] if item["name"] == "basin")["geometry"]["file"]
        assert kept.endswith(".ply") and len(kept) <= 200 and "/" not in kept.removeprefix("uploads/")


def test_twenty_uploads_of_one_name_at_once_all_land(server: Server, fresh_shot: int) -> None:
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(20) as pool:
        answers = list(pool.map(lambda _: upload(server, fresh_shot, "same.ply", painted_ball()), range(20)))
    assert [each.status for each in answers] == [201] * 20
    names = [each.json["shot"]["document"]["name"] for each in answers]
    assert len(set(names)) == 20


@pytest.mark.parametrize(
    "body", [b"", b"{", b"\xff\xfe", b"null", b"[]", b'{"patch": 1}', json.dumps({"patch": []}).encode()]
)
def test_bodies_that_are_none(server: Server, fresh_shot: int, body: bytes) -> None:
    assert server.ask("PATCH", f"/api/shots/{fresh_shot}", body, {"If-Match": '"1"'}).status in (400, 415, 422)


@pytest.mark.parametrize(
    "path",
    [
        "/api/shots/0",
        "/api/shots/99999999999999999999",
        "/api/shots/-1",
        "/api/shots/1%00",
        "/api/shots/1/snapshots/9/picture",
        "/%00",
        "/../../etc/passwd",
        "/api/live/1",
        "/api/pictures/..%2f..%2fetc",
    ],
)
def test_paths_that_lead_nowhere(server: Server, path: str) -> None:
    assert 400 <= server.ask("GET", path).status < 500
