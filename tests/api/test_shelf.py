"""The shelf through the server: what ships, what is put there, and what shots take."""

from typing import Any

from tests.conftest import Server, World
from texallon.api.portraits import Portraits
from texallon.shelf.finished.all_looks import finished_looks
from texallon.store.shelf import ShelfStore


def shelf(server: Server) -> dict[str, dict[str, Any]]:
    return {each["name"]: each for each in server.ask("GET", "/api/shelf").json["looks"]}


def begin(server: Server, name: str) -> int:
    return int(server.ask("POST", "/api/projects", {"name": name, "start": "starter"}).json["shot"])


def take(server: Server, shot: int, name: str, **more: Any) -> tuple[str, dict[str, Any]]:
    answer = server.ask("POST", f"/api/shelf/{name.replace(' ', '%20')}/take", {"shot": shot, **more})
    assert answer.status == 200, answer.body
    head = server.ask("GET", f"/api/shots/{shot}").json["revision"]
    changed = server.ask("PATCH", f"/api/shots/{shot}", {"patch": answer.json["patch"]}, {"If-Match": f'"{head}"'})
    assert changed.status == 200, changed.body
    return answer.json["look"], server.ask("GET", f"/api/shots/{shot}").json["document"]


def test_what_ships_is_there_with_pictures_and_stays(server: Server) -> None:
    found = shelf(server)
    assert finished_looks().keys() <= found.keys()
    answer = server.ask("GET", "/api/shelf/gold%20leaf/picture")
    assert answer.status == 200 and answer.body[:4] == b"\x89PNG"
    assert server.ask("DELETE", "/api/shelf/gold%20leaf").status == 409
    shot = begin(server, "shelf, ships")
    answer = server.ask("PUT", "/api/shelf/stone", {"shot": shot, "look": "grey"})
    assert answer.status == 409 and "ships" in answer.json["detail"]


def test_a_look_is_put_there_taken_elsewhere_and_told_when_there_is_a_newer_one(server: Server, world: World) -> None:
    first, second = begin(server, "shelf, first"), begin(server, "shelf, second")
    name, _ = take(server, first, "brass")
    assert name == "brass"
    body = {"shot": first, "look": "brass", "tags": ["door"], "note": "of the gate"}
    put = server.ask("PUT", "/api/shelf/gate", body, {"Texallon-Author": "Ada"})
    assert put.status == 200, put.body
    assert (put.json["version"], put.json["author"], put.json["tags"], put.json["picture"]) == (1, "Ada", ["door"], "")
    assert server.ask("GET", "/api/shelf/gate/picture").status == 404
    name, document = take(server, second, "gate", linked=True)
    assert name == "gate"
    own = next(each for each in document["looks"] if each["name"] == "gate")
    assert own["shelf"] == {"name": "gate", "version": 1}
    assert server.ask("PUT", "/api/shelf/gate", {**body, "look": "grey"}).json["version"] == 2
    _, document = take(server, second, "gate", linked=True, instead="gate")
    after = next(each for each in document["looks"] if each["name"] == "gate")
    assert after["shelf"]["version"] == 2 and [each["name"] for each in after["layers"]] == ["base"]
    store = ShelfStore(world.store.engine)
    assert [each.name for each in store.without_picture()] == ["gate"]
    Portraits(world.store, world.files)._draw_look(store.find("gate"))
    assert store.without_picture() == []
    assert server.ask("GET", shelf(server)["gate"]["picture"].join(["/", ""])).body[:4] == b"\x89PNG"
    assert server.ask("DELETE", "/api/shelf/gate").status == 204
    assert "gate" not in shelf(server)
    assert server.ask("POST", "/api/shelf/gate/take", {"shot": second}).status == 404


def test_nothing_that_is_not_there_is_put_or_taken(server: Server) -> None:
    shot = begin(server, "shelf, none")
    before = server.ask("GET", f"/api/shots/{shot}").json["revision"]
    assert server.ask("PUT", "/api/shelf/x", {"shot": shot, "look": "nothing"}).status == 422
    assert server.ask("PUT", "/api/shelf/x", {"shot": 10**6, "look": "grey"}).status == 404
    assert server.ask("PUT", "/api/shelf/x", {"shot": shot, "look": "grey", "tags": ["a" * 41]}).status == 422
    assert server.ask("POST", "/api/shelf/nowhere/take", {"shot": shot}).status == 404
    assert server.ask("POST", "/api/shelf/stone/take", {"shot": shot, "instead": "nothing"}).status == 422
    assert "x" not in shelf(server)
    assert server.ask("GET", f"/api/shots/{shot}").json["revision"] == before
