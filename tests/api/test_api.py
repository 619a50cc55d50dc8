"""The server by its own description: editing, conflicts, problems, uploads, and staying closed."""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
import websocket

from tests.conftest import Answer, Server


def replace(path: str, value: Any) -> dict[str, Any]:
    return {"op": "replace", "path": path, "value": value}


def test_shots_are_listed_and_read_with_their_revision(server: Server, fresh_shot: int) -> None:
    listed = server.ask("GET", "/api/shots").json["shots"]
    assert {"project": "Midwinter Glasshouse", "name": "GH010"}.items() <= listed[0].items()
    answer = server.ask("GET", f"/api/shots/{fresh_shot}")
    assert answer.headers["ETag"] == '"1"'
    assert answer.json["document"]["looks"][0]["name"] == "basin stone"


def test_an_edit_is_saved_under_a_new_revision(server: Server, fresh_shot: int) -> None:
    answer = server.edit(fresh_shot, 1, replace("/title", "changed"))
    assert (answer.status, answer.headers["ETag"], answer.json["document"]["title"]) == (200, '"2"', "changed")
    assert server.ask("POST", f"/api/shots/{fresh_shot}/undo", b"", {"If-Match": '"2"'}).json["revision"] == 3
    assert (
        server.ask("POST", f"/api/shots/{fresh_shot}/redo", b"", {"If-Match": '"3"'}).json["document"]["title"]
        == "changed"
    )


def problem(answer: Answer, status: int) -> Any:
    assert answer.status == status
    assert answer.headers["Content-Type"].startswith("application/problem+json"), "RFC 9457"
    return answer.json


def test_an_edit_to_what_another_has_changed_is_refused_with_both_values(server: Server, fresh_shot: int) -> None:
    server.edit(fresh_shot, 1, replace("/title", "first"))
    said = problem(server.edit(fresh_shot, 1, replace("/title", "second")), 409)
    assert said["revision"] == 2
    assert said["conflicts"] == [
        {"pointer": "/title", "where": "title", "was": "basin at thaw", "mine": "second", "theirs": "first"}
    ]
    assert server.edit(fresh_shot, 2, replace("/title", "second")).status == 200


def test_an_edit_to_a_revision_that_never_was_is_refused(server: Server, fresh_shot: int) -> None:
    assert problem(server.edit(fresh_shot, 7, replace("/title", "x")), 412)["revision"] == 1


def test_a_window_takes_back_its_own_and_is_asked_before_it_takes_back_more(server: Server, fresh_shot: int) -> None:
    def send(window: str, method: str, rest: str, revision: int = 1, *operations: Any) -> Answer:
        headers = {"If-Match": f'"{revision}"', "Texallon-Window": window, "Texallon-Author": "J%C3%BCrg"}
        return server.ask(method, f"/api/shots/{fresh_shot}{rest}", {"patch": list(operations)}, headers)

    one, two = "a" * 12, "b" * 12
    assert send(one, "PATCH", "", 1, replace("/title", "first")).json["can_undo"] is True
    assert send(two, "GET", "").json["can_undo"] is False
    assert problem(send(two, "POST", "/undo"), 409)["asks"] is False
    send(two, "PATCH", "", 2, replace("/title", "second"))
    said = problem(send(one, "POST", "/undo"), 409)
    assert (said["asks"], said["conflicts"][0]["mine"]) == (True, "basin at thaw")
    assert send(one, "POST", "/undo?anyway=true").json["document"]["title"] == "basin at thaw"


@pytest.mark.parametrize(
    "headers",
    [
        {"If-Match": '"\u00b2"'},
        {"If-Match": '"1e3"'},
        {"If-Match": '"' + "9" * 40 + '"'},
        {"If-Match": '"1"', "Texallon-Window": "../../etc"},
        {"If-Match": '"1"', "Texallon-Author": "a%00b"},
        {"If-Match": '"1"', "Texallon-Author": "x" * 200},
    ],
)
def test_headers_that_are_no_use_are_the_senders_fault(
    server: Server, fresh_shot: int, headers: dict[str, str]
) -> None:
    answer = server.ask("PATCH", f"/api/shots/{fresh_shot}", {"patch": [replace("/title", "x")]}, headers)
    assert answer.status in (400, 428)


def test_an_edit_without_a_revision_is_refused(server: Server, fresh_shot: int) -> None:
    body = {"patch": [replace("/title", "x")]}
    problem(server.ask("PATCH", f"/api/shots/{fresh_shot}", body), 428)
    problem(server.ask("PATCH", f"/api/shots/{fresh_shot}", body, {"If-Match": "*"}), 428)


def test_an_invalid_edit_points_at_the_value(server: Server, fresh_shot: int) -> None:
    where = "/looks/0/layers/0/channels/base_color/recipe/steps/0/params/octaves"
    said = problem(server.edit(fresh_shot, 1, replace(where, 77)), 422)
    assert said["problems"][0]["pointer"] == where
    assert "16" in said["problems"][0]["reason"]
    said = problem(server.edit(fresh_shot, 1, replace("/objects/0/look", "basin stoen")), 422)
    assert said["problems"][0] == {
        "pointer": "/objects/0/look",
        "reason": "there is no look “basin stoen”",
        "hint": "did you mean “basin stone”?",
        "mends": [],
    }
    levels = {
        "steps": [
            {"op": "position", "params": {"read": "all"}},
            {"op": "ramp", "params": {"stops": [{"at": 0, "value": 0}, {"at": 1, "value": 1}]}},
        ]
    }
    where = "/looks/0/layers/0/channels/specular_roughness/recipe"
    said = problem(server.edit(fresh_shot, 1, replace(where, levels)), 422)
    luminance = {"op": "add", "path": f"{where}/steps/1", "value": {"op": "luminance"}}
    assert said["problems"][0]["mends"] == [
        {"label": "use its luminance", "patch": [luminance]},
        {"label": "take ramp away", "patch": [{"op": "remove", "path": f"{where}/steps/1"}]},
    ]


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("GET", "/api/shots/99999", None, 404),
        ("GET", "/api/nothing", None, 404),
        ("GET", "/api/shots/1/snapshots/99999/picture", None, 404),
        ("PATCH", "/api/shots/1", b"{not json", 422),
        ("PATCH", "/api/shots/1", {"patch": []}, 422),
        ("PATCH", "/api/shots/1", {"patch": [{"op": "explode", "path": "/"}]}, 422),
        ("POST", "/api/shots/1/snapshots", {"name": "x", "session": "nobody"}, 404),
        ("DELETE", "/api/shots/1", None, 405),
    ],
)
def test_what_goes_wrong_is_a_problem_document(server: Server, method: str, path: str, body: Any, status: int) -> None:
    said = problem(server.ask(method, path, body, {"If-Match": '"1"'}), status)
    assert said["title"]


def test_foreign_hosts_and_origins_are_refused(server: Server, fresh_shot: int) -> None:
    problem(server.ask("GET", "/api/shots", headers={"Host": "evil.example"}), 421)
    problem(server.ask("GET", "/api/shots", headers={"Host": f"evil.example:{server.port}"}), 421)
    problem(server.ask("GET", "/api/shots", headers={"Origin": "http://evil.example"}), 403)
    problem(server.ask("GET", "/api/shots", headers={"Origin": "null"}), 403)
    problem(server.ask("GET", "/api/shots", headers={"Sec-Fetch-Site": "cross-site"}), 403)
    headers = {"Origin": "http://evil.example", "If-Match": '"1"'}
    problem(server.ask("PATCH", f"/api/shots/{fresh_shot}", {"patch": [replace("/title", "x")]}, headers), 403)
    assert server.ask("GET", f"/api/shots/{fresh_shot}").json["revision"] == 1


def test_a_live_connection_must_come_from_the_page(server: Server) -> None:
    address = f"ws://127.0.0.1:{server.port}/api/live/1"
    with pytest.raises(websocket.WebSocketBadStatusException):
        websocket.create_connection(address, origin="http://evil.example")
    with pytest.raises(websocket.WebSocketBadStatusException):
        websocket.create_connection(address, suppress_origin=True)
    open_one = websocket.create_connection(address, origin=server.address, timeout=20)
    assert json.loads(open_one.recv())["kind"] == "hello"
    open_one.send("nonsense")
    heard = [json.loads(open_one.recv())["kind"]]
    while heard[-1] == "presence":
        heard.append(json.loads(open_one.recv())["kind"])
    assert heard[-1] == "error"
    open_one.close()


def test_it_listens_on_loopback_only(server: Server) -> None:
    # The kernel's own table: local address and port in hexadecimal, 0A for listening.
    rows = [
        line.split() for table in ("tcp", "tcp6") for line in Path(f"/proc/net/{table}").read_text().splitlines()[1:]
    ]
    listening = [
        row[1].split(":")[0] for row in rows if row[3] == "0A" and int(row[1].split(":")[1], 16) == server.port
    ]
    assert listening == ["0100007F"], "127.0.0.1 and nothing else"


def test_every_answer_carries_a_strict_policy(server: Server) -> None:
    for path in ("/", "/api/shots", "/api/nothing"):
        headers = server.ask("GET", path).headers
        policy = headers["Content-Security-Policy"]
        assert "default-src 'none'" in policy
        assert "script-src 'self';" in policy
        assert headers["X-Content-Type-Options"] == "nosniff"


def test_files_outside_the_page_are_not_served(server: Server) -> None:
    for path in ("/assets/../../pyproject.toml", "/assets/%2e%2e/%2e%2e/pyproject.toml", "/assets//etc/passwd"):
        assert server.ask("GET", path).status == 404


def upload(server: Server, shot: int, name: str, data: bytes, replaced: str = "basin") -> Answer:
    edge = "----edge"
    parts = f'--{edge}\r\nContent-Disposition: form-data; name="object"\r\n\r\n{replaced}\r\n'.encode()
    parts += f'--{edge}\r\nContent-Disposition: form-data; name="mesh"; filename="{name}"\r\n'.encode()
    parts += b"Content-Type: application/octet-stream\r\n\r\n" + data + f"\r\n--{edge}--\r\n".encode()
    return server.ask(
        "POST", f"/api/shots/{shot}/mesh", parts, {"Content-Type": f"multipart/form-data; boundary={edge}"}
    )


def painted_ball(radius: float = 0.5) -> bytes:
    ball = trimesh.creation.icosphere(3, radius)
    ball.visual.vertex_colors = np.tile([200, 100, 50, 255], (len(ball.vertices), 1)).astype(np.uint8)
    return ball.export(file_type="ply")


def test_a_mesh_takes_the_basins_place_in_a_new_shot(server: Server, fresh_shot: int) -> None:
    answer = upload(server, fresh_shot, "ball.ply", painted_ball())
    assert answer.status == 201
    made = answer.json
    assert (made["triangles"], made["attributes"]) == (1280, ["color"])
    assert made["shot"]["id"] != fresh_shot
    document = made["shot"]["document"]
    basin = next(item for item in document["objects"] if item["name"] == "basin")
    assert basin["look"] == "basin stone"
    assert basin["position"][1] == pytest.approx(0.5), "it stands on the ground"
    water = next(item for item in document["objects"] if item["name"] == "water")
    assert not water["visible"]
    report = made["report"]
    assert any("water" in line for line in report["changed"])
    assert any("moved by 0, 0.5, 0 m" in line for line in report["changed"])
    assert any("“color”" in line for line in report["kept"])
    assert document["camera"]["target"][1] == pytest.approx(0.5)
    assert server.ask("GET", f"/api/shots/{fresh_shot}").json["revision"] == 1, "the old shot is as it was"
    assert server.ask("GET", f"/api/shots/{made['shot']['id']}/attributes").json["attributes"]["color"] == 3


def test_a_mesh_in_odd_units_is_scaled_and_said_so(server: Server, fresh_shot: int) -> None:
    made = upload(server, fresh_shot, "ball.ply", painted_ball(250.0)).json
    assert made["shot"]["document"]["objects"][0]["scale"] == pytest.approx(1 / 500, rel=1e-3)
    assert any("500 m across" in line for line in made["report"]["changed"])


def test_what_the_replaced_object_loses_is_in_the_report(server: Server, fresh_shot: int) -> None:
    shot = server.ask("GET", f"/api/shots/{fresh_shot}").json
    basin = next(item for item in shot["document"]["objects"] if item["name"] == "basin")
    at = f"/objects/{basin['id']}"
    server.edit(fresh_shot, 1, replace(f"{at}/rotation", [0, 30, 0]), replace(f"{at}/scale", 1.5))
    report = upload(server, fresh_shot, "ball.ply", painted_ball()).json["report"]
    assert {"the turn of “basin”: 0°, 30°, 0°", "the scale of “basin”: 1.5"} <= set(report["dropped"])


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("ball.obj", painted_ball(), "not a OBJ file: it looks like PLY"),
        ("ball.png", painted_ball(), "comes as OBJ, PLY, STL or GLB"),
        ("ball", painted_ball(), "without an ending"),
        ("points.obj", b"v 0 0 0\nv 1 0 0\n", "no faces"),
        ("odd.obj", b"v 0 nan 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "not finite"),
        ("flat.obj", b"v 1 1 1\nv 1 1 1\nv 1 1 1\nf 1 2 3\n", "one place"),
        ("../../x.ply", b"ply\nrubbish", "can't be read|no faces"),
    ],
)
def test_a_mesh_that_can_not_be_used_changes_nothing(
    server: Server, fresh_shot: int, name: str, data: bytes, words: str
) -> None:
    before = len(server.ask("GET", "/api/shots").json["shots"])
    said = problem(upload(server, fresh_shot, name, data), 422)
    import re

    assert re.search(words, said["detail"]), said
    assert len(server.ask("GET", "/api/shots").json["shots"]) == before


def test_an_object_that_is_not_there_can_not_be_replaced(server: Server, fresh_shot: int) -> None:
    assert "no object" in problem(upload(server, fresh_shot, "b.ply", painted_ball(), "bassin"), 422)["detail"]


def test_a_body_that_is_too_large_is_refused(server: Server, fresh_shot: int) -> None:
    huge = json.dumps({"patch": [replace("/title", "x" * 5_000_000)]}).encode()
    try:
        answer = server.ask("PATCH", f"/api/shots/{fresh_shot}", huge, {"If-Match": '"1"'})
    except OSError:
        return  # the server may hang up before all of it is sent
    problem(answer, 413)


def test_the_vocabulary_names_every_op_and_channel(server: Server) -> None:
    words = server.ask("GET", "/api/vocabulary").json
    assert {"noise", "height", "remap", "ramp"} <= {op["name"] for op in words["ops"]}
    assert {"base_color", "specular_roughness"} <= {channel["name"] for channel in words["channels"]}
