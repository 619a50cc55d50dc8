"""Projects and lists of shots through the server: made, named, ordered, copied, binned, put away and deleted, with nothing lost by the way."""

import signal
import subprocess
import sys
import time
from typing import Any
from urllib.parse import quote

import numpy as np
import pytest
from PIL import Image
from sqlmodel import Session, select

from tests.conftest import Server, World
from texallon.api.portraits import Portraits
from texallon.core.document import read_shot
from texallon.core.geometry.mesh import Mesh
from texallon.demo.write import SHOTS
from texallon.load_demo import PROJECT
from texallon.starter.begin import begin_shot
from texallon.starter.documents import new_shot
from texallon.starter.test_body import turned_body
from texallon.store.tables import ShotRow


def make(server: Server, name: str, start: str = "starter") -> dict[str, Any]:
    answer = server.ask("POST", "/api/projects", {"name": name, "start": start})
    assert answer.status == 201, answer.body
    return answer.json


def projects(server: Server) -> dict[str, dict[str, Any]]:
    return {each["name"]: each for each in server.ask("GET", "/api/projects").json["projects"]}


def names(server: Server, project: int, binned: bool = False) -> list[str]:
    more = "&binned=true" if binned else ""
    return [each["name"] for each in server.ask("GET", f"/api/shots?project={project}{more}").json["shots"]]


@pytest.mark.parametrize(("start", "objects"), [("empty", 0), ("starter", 2)])
def test_a_new_project_has_a_shot_to_begin_with(server: Server, start: str, objects: int) -> None:
    made = make(server, f"mine, {start}", start)
    document = server.ask("GET", f"/api/shots/{made['shot']}").json["document"]
    assert len(document["objects"]) == objects and document["looks"]
    assert projects(server)[f"mine, {start}"]["shots"] == 1


def test_names_are_never_given_twice(server: Server) -> None:
    first, second = make(server, "twice", "empty"), make(server, "twice", "empty")
    assert {"twice", "twice 2"} <= projects(server).keys()
    answer = server.ask("PATCH", f"/api/projects/{second['id']}", {"name": "twice"})
    assert answer.status == 409 and "already" in answer.json["detail"]
    assert server.ask("PATCH", f"/api/projects/{first['id']}", {"name": "once"}).status == 204
    assert server.ask("GET", f"/api/shots/{first['shot']}").json["project"] == "once"


@pytest.mark.parametrize("name", ["", "a/b", "x" * 81, "a\nb", None, 7])
def test_a_name_that_is_none_is_refused(server: Server, name: Any) -> None:
    assert server.ask("POST", "/api/projects", {"name": name}).status == 422


def test_shots_are_made_copied_and_put_in_order(server: Server) -> None:
    made = make(server, "ordered", "empty")
    number = made["id"]
    for name in ("B", "C"):
        assert server.ask("POST", f"/api/projects/{number}/shots", {"name": name, "start": "empty"}).status == 201
    copied = server.ask("POST", f"/api/projects/{number}/shots", {"name": "SH010", "start": "copy", "of": made["shot"]})
    assert names(server, number) == ["SH010", "SH010 2", "B", "C"], "a copy follows what it is of"
    listed = server.ask("GET", f"/api/shots?project={number}").json["shots"]
    assert server.ask("POST", f"/api/shots/{listed[3]['id']}/place", {"before": listed[0]["id"]}).status == 204
    assert names(server, number) == ["C", "SH010", "SH010 2", "B"]
    assert server.ask("POST", f"/api/shots/{copied.json['shot']}/place", {}).status == 204
    assert names(server, number) == ["C", "SH010", "B", "SH010 2"]
    elsewhere = make(server, "another", "empty")["shot"]
    assert server.ask("POST", f"/api/shots/{listed[3]['id']}/place", {"before": elsewhere}).status == 404
    assert server.ask("POST", f"/api/projects/{number}/shots", {"name": "X", "start": "copy"}).status == 422


def test_a_shot_goes_to_the_bin_and_back_and_is_deleted_only_by_its_name(server: Server) -> None:
    made = make(server, "binned", "empty")
    shot, number = made["shot"], made["id"]
    server.edit(shot, 1, {"op": "replace", "path": "/title", "value": "kept"})
    assert server.ask("DELETE", f"/api/shots/{shot}/for-good?name=SH010").status == 409, "not in the bin"
    assert server.ask("POST", f"/api/shots/{shot}/bin", b"").status == 204
    assert names(server, number) == [] and names(server, number, True) == ["SH010"]
    assert server.ask("DELETE", f"/api/shots/{shot}/bin").status == 204
    back = server.ask("GET", f"/api/shots/{shot}").json
    assert (back["document"]["title"], back["revision"]) == ("kept", 2)
    server.ask("POST", f"/api/shots/{shot}/bin", b"")
    assert server.ask("DELETE", f"/api/shots/{shot}/for-good?name=SH020").status == 409
    assert server.ask("DELETE", f"/api/shots/{shot}/for-good?name=SH010").status == 204
    assert server.ask("GET", f"/api/shots/{shot}").status == 404 and names(server, number, True) == []


def test_a_project_is_put_away_and_deleted_only_by_its_name(server: Server) -> None:
    made = make(server, "leaving", "empty")
    assert server.ask("PATCH", f"/api/projects/{made['id']}", {"put_away": True}).status == 204
    assert projects(server)["leaving"]["put_away"]
    assert server.ask("PATCH", f"/api/projects/{made['id']}", {"put_away": False}).status == 204
    assert projects(server)["leaving"]["put_away"] is None
    refused = server.ask("DELETE", f"/api/projects/{made['id']}?name=Leaving")
    assert refused.status == 409 and "leaving" in refused.json["detail"]
    assert server.ask("DELETE", f"/api/projects/{made['id']}?name=leaving").status == 204
    assert "leaving" not in projects(server)
    assert server.ask("GET", f"/api/shots/{made['shot']}").status == 404
    assert server.ask("DELETE", f"/api/projects/{made['id']}?name=leaving").status == 404


def test_a_project_is_copied_with_its_shots_as_they_are(server: Server) -> None:
    made = make(server, "first take")
    server.edit(made["shot"], 1, {"op": "replace", "path": "/title", "value": "as it is"})
    copied = server.ask("POST", f"/api/projects/{made['id']}/copy", {"name": "second take"}).json
    server.edit(made["shot"], 2, {"op": "replace", "path": "/title", "value": "later"})
    theirs = server.ask("GET", f"/api/shots/{copied['shot']}").json
    assert (theirs["document"]["title"], theirs["revision"], theirs["project"]) == ("as it is", 1, "second take")


def test_the_demo_begins_again_and_keeps_what_was_done(server: Server, world: World) -> None:
    shot = next(each for each in world.store.list_shots() if each.project == PROJECT)
    current = world.store.current(shot.id)
    world.store.edit(shot.id, current.revision, [{"op": "replace", "path": "/title", "value": "mine"}], "t")
    again = server.ask("POST", "/api/projects/demo", b"")
    assert again.status == 201
    fresh = server.ask("GET", f"/api/shots/{again.json['shot']}").json
    assert (fresh["project"], fresh["document"]["title"], fresh["revision"]) == (PROJECT, "basin at thaw", 1)
    assert len(names(server, again.json["id"])) == len(SHOTS)
    old = server.ask("GET", f"/api/shots/{shot.id}").json
    assert old["document"]["title"] == "mine" and old["project"].startswith(f"{PROJECT}, before")
    away = projects(server)[old["project"]]
    assert away["put_away"]
    # As it was, for other tests of this server.
    server.ask("DELETE", f"/api/projects/{again.json['id']}?name={quote(PROJECT)}")
    assert server.ask("PATCH", f"/api/projects/{away['id']}", {"name": PROJECT, "put_away": False}).status == 204


def test_five_hundred_shots_are_listed_fast(server: Server, world: World) -> None:
    # Listing them reads no document: the time is compared with reading fifty whole ones in the same run.
    document = new_shot("S", "many", None)
    for _ in range(500):
        world.store.add_shot("five hundred", document, "t")
    number = projects(server)["five hundred"]["id"]
    begun = time.perf_counter()
    listed = server.ask("GET", f"/api/shots?project={number}").json["shots"]
    listing = time.perf_counter() - begun
    assert len(listed) == 500 and len({each["name"] for each in listed}) == 500
    begun = time.perf_counter()
    for each in listed[:50]:
        server.ask("GET", f"/api/shots/{each['id']}")
    assert listing < time.perf_counter() - begun
    assert server.ask("DELETE", f"/api/projects/{number}?name=five%20hundred").status == 204


def test_shots_of_one_project_share_what_is_common_from_the_first(server: Server, fresh_shot: int) -> None:
    project = server.ask("GET", f"/api/shots/{fresh_shot}").json["project"]
    number = projects(server)[project]["id"]
    made = server.ask("POST", f"/api/projects/{number}/shots", {"name": "N", "start": "starter"}).json["shot"]
    signals = [server.ask("GET", f"/api/shots/{each}").json["document"]["signals"] for each in (fresh_shot, made)]
    assert signals[0] == signals[1] != []


def test_a_new_shot_is_a_whole_document() -> None:
    made = new_shot("A", "t", {"file": "geometry/turned-body.glb", "sha256": "0" * 64})
    assert read_shot(made).objects[0].name == "test body"


def test_the_test_body_is_one_closed_surface_of_its_size(tmp_path: Any) -> None:
    # Euler's formula for a closed surface without handles: V − E + F = 2, each edge in two faces (its seam welded).
    import trimesh

    mesh: Mesh = turned_body(64)
    welded = trimesh.Trimesh(mesh.vertices, mesh.faces, process=True)
    welded.merge_vertices(digits_vertex=6, merge_norm=True, merge_tex=True)
    welded.update_faces(welded.nondegenerate_faces())
    assert welded.is_watertight and welded.euler_number == 2 and welded.volume > 0
    assert 0.83 < welded.extents[1] < 0.85


def test_shots_that_nobody_opened_get_a_picture_in_the_background(world: World) -> None:
    with Session(world.engine) as session:
        for row in session.exec(select(ShotRow)).all():
            row.picture = row.picture or "0" * 64  # those of other tests are left alone
            session.add(row)
        session.commit()
    broken = {
        **new_shot("S", "broken", None),
        "objects": [{"name": "a", "geometry": {"file": "gone.glb"}, "look": "grey"}],
    }
    bad = world.store.add_shot("portraits", broken, "t")
    good = begin_shot(world.store, world.files, "portraits", "T", "", "starter")
    portraits = Portraits(world.store, world.files)
    assert portraits.draw_next() and portraits.draw_next() and not portraits.draw_next()
    listed = {each.id: each for each in world.store.list_shots() if each.project == "portraits"}
    assert listed[bad].picture is None and listed[good].picture is not None
    with Image.open(world.files.path(listed[good].picture, ".png")) as picture:
        assert picture.size == (240, 135) and np.asarray(picture).std() > 10


def test_a_small_picture_may_wait_but_not_compute_without_end() -> None:
    endless = "from texallon.portrait import stand_back\nstand_back(1)\nwhile True: pass"
    ended = subprocess.run([sys.executable, "-c", endless], timeout=100, check=False)
    assert ended.returncode in (-signal.SIGXCPU, -signal.SIGKILL)
    waiting = "from texallon.portrait import stand_back\nimport os, select\nstand_back(1)\nselect.select([], [], [], 1.2)\nprint(os.nice(0))"
    told = subprocess.run([sys.executable, "-c", waiting], capture_output=True, text=True, timeout=100, check=True)
    assert told.stdout == "10\n"
