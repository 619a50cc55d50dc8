"""Frames ordered from the page: rendered by workers, found again, paused, stopped, made anew."""

import io
import os
import signal
import threading
import zipfile
from collections.abc import Callable
from typing import Any

import av
import numpy as np
import psutil
import pytest
from PIL import Image
from sqlalchemy import create_engine
from sqlmodel import SQLModel

from tests.api.test_jobs import small_shot
from tests.conftest import Server, World, serving
from tests.farm.processes import workers_of
from texallon.farm.estimate import PNG_BYTES
from texallon.store import renders
from texallon.store.renders import NewRender, RenderStore
from texallon.store.tables import RenderFrameRow, RenderRow

__all__ = ["small_shot"]


def until(server: Server, render_id: int, holds: Callable[[dict[str, Any]], bool]) -> dict[str, Any]:
    pause = threading.Event()  # workers are at it, and nobody tells when they are done
    while True:
        found = server.ask("GET", f"/api/renders/{render_id}").json
        if holds(found):
            return dict(found)
        pause.wait(0.1)


def over(render: dict[str, Any]) -> bool:
    return bool(render["over"])


def workers_of_farm() -> list[psutil.Process]:
    """The processes under this test's server that render frames."""
    return workers_of(psutil.Process().pid)


def test_a_range_is_rendered_and_found_again(server: Server, small_shot: int) -> None:
    sent = {"frames": "1-3", "size": [48, 32], "samples": 3, "passes": True, "burn_in": True}
    # Another test may have begun a shot of that name before.
    shot = server.ask("GET", f"/api/shots/{small_shot}").json["document"]["name"].replace(" ", "_")
    begun = server.ask("POST", f"/api/shots/{small_shot}/renders", sent, {"Texallon-Author": "Ida"})
    assert begun.status == 201 and begun.json["counts"]["waiting"] == 3 and begun.json["author"] == "Ida"
    made = until(server, begun.json["id"], over)
    assert made["counts"] == {"waiting": 0, "running": 0, "done": 3, "failed": 0, "stopped": 0}
    assert made["share"] == 1 and made["left"] in (None, 0)
    frame = made["frames"][1]
    assert frame["frame"] == 2 and frame["files"] == [f"{shot}.0002.exr", f"{shot}.0002.png"] and frame["seconds"] > 0
    assert frame["memory"] > 50 and frame["worker"] != "" and "made in" in frame["log"][0]
    png = server.ask("GET", f"/api/renders/{made['id']}/files/{shot}.0002.png").body
    with Image.open(io.BytesIO(png)) as picture:
        assert picture.size == (48, 32) and picture.info["texallon:frame"] == "2"
    small = server.ask("GET", f"/api/renders/{made['id']}/thumbnails/2").body
    with Image.open(io.BytesIO(small)) as picture:
        assert picture.size == (48, 32)
    with zipfile.ZipFile(io.BytesIO(server.ask("GET", f"/api/renders/{made['id']}/frames.zip").body)) as packed:
        assert packed.namelist() == [f"{shot}.000{k}.{kind}" for k in (1, 2, 3) for kind in ("exr", "png")]
        assert packed.testzip() is None
    video = server.ask("GET", f"/api/renders/{made['id']}/video.mp4").body
    with av.open(io.BytesIO(video)) as container:
        assert sum(1 for _ in container.decode(video=0)) == 3
    listed = server.ask("GET", f"/api/renders?shot={small_shot}").json["renders"]
    assert [each["id"] for each in listed] == [made["id"]]
    farm = server.ask("GET", "/api/farm").json
    assert (farm["trouble"], farm["refused"], farm["address"]) == ("", [], "") and farm["workers"][0]["memory"] > 1e8
    # The same again: files that are there and were made from the same are kept; those that are named are made anew.
    again = server.ask("POST", f"/api/renders/{made['id']}/again", {"frames": [2]})
    assert again.status == 200
    anew = until(server, made["id"], over)
    assert not anew["frames"][1]["kept"] and len(anew["frames"][1]["log"]) == 2
    second = server.ask("GET", f"/api/renders/{made['id']}/files/{shot}.0002.png").body
    assert np.array_equal(np.asarray(Image.open(io.BytesIO(png))), np.asarray(Image.open(io.BytesIO(second))))
    assert server.ask("DELETE", f"/api/renders/{made['id']}").status == 204
    assert server.ask("GET", f"/api/renders/{made['id']}").status == 404


def test_an_order_is_paused_goes_on_and_is_stopped(server: Server, small_shot: int) -> None:
    begun = server.ask("POST", f"/api/shots/{small_shot}/renders", {"samples": 65536, "formats": ["png"]}).json
    until(server, begun["id"], lambda each: any(frame["done"] for frame in each["frames"]))
    paused = server.ask("PATCH", f"/api/renders/{begun['id']}", {"state": "paused"})
    assert paused.status == 200 and paused.json["state"] == "paused"
    still = until(server, begun["id"], lambda each: each["counts"]["running"] == 0)
    assert still["counts"]["waiting"] == len(still["frames"]) and not still["over"] and still["left"] is None
    assert server.ask("PATCH", f"/api/renders/{begun['id']}", {"state": "going", "priority": 5}).json["priority"] == 5
    until(server, begun["id"], lambda each: each["counts"]["running"] > 0)
    # What is more urgent comes first, and what is stopped lets others in.
    other = server.ask("POST", f"/api/shots/{small_shot}/renders", {"frames": "1", "samples": 2, "priority": 9}).json
    assert server.ask("PATCH", f"/api/renders/{begun['id']}", {"state": "stopped"}).json["over"]
    assert until(server, other["id"], over)["counts"]["done"] == 1
    stopped = server.ask("GET", f"/api/renders/{begun['id']}").json
    assert stopped["counts"]["stopped"] == len(stopped["frames"])


def test_a_worker_that_is_killed_costs_its_frame_a_second_try(server: Server, small_shot: int) -> None:
    begun = server.ask("POST", f"/api/shots/{small_shot}/renders", {"frames": "1-2", "samples": 400}).json
    until(server, begun["id"], lambda each: any(frame["done"] for frame in each["frames"]))
    killed = workers_of_farm()
    assert killed
    for each in killed:
        os.kill(each.pid, signal.SIGKILL)
    made = until(server, begun["id"], over)
    assert made["counts"]["done"] == 2
    assert sum(frame["losses"] for frame in made["frames"]) >= 1
    assert any("worker that rendered it ended" in line for frame in made["frames"] for line in frame["log"])


def test_a_frame_that_always_fails_says_why_and_stops_no_other(server: Server, world: World, small_shot: int) -> None:
    made = dict(world.store.current(small_shot).document)
    whole = next(each for each in made["objects"] if "sha256" in each["geometry"])["geometry"]
    suffix = "." + whole["file"].rpartition(".")[2]
    broken = {"file": f"broken{suffix}", "sha256": world.files.put(b"this is no mesh", suffix)}
    made["objects"] = [
        each | ({"sequence": {"files": [whole, broken], "first": 1}} if each["geometry"] == whole else {})
        for each in made["objects"]
    ]
    shot = world.store.add_shot("broken shots", made, "t")
    begun = server.ask("POST", f"/api/shots/{shot}/renders", {"frames": "1-2", "samples": 2}).json
    found = until(server, begun["id"], over)
    first, second = found["frames"]
    assert (first["state"], second["state"]) == ("done", "failed")
    assert second["tries"] == 3 and len(second["log"]) == 3 and "broken" not in first["log"]
    assert second["log"][0] and "Traceback" not in second["log"][0]
    # A file that went away is told of before anything is rendered.
    gone = {"file": "gone.glb", "sha256": "0" * 64}
    made["objects"] = [each | ({"geometry": gone, "sequence": None} if each["geometry"] == whole else {}) for each in made["objects"]]  # fmt: skip
    missing = world.store.add_shot("broken shots", made | {"name": "S2"}, "t")
    answer = server.ask("POST", f"/api/shots/{missing}/renders", {"frames": "1-2"})
    assert answer.status == 422 and "gone.glb" in answer.json["detail"]


def test_an_estimate_is_of_the_size_of_what_it_then_takes(server: Server, small_shot: int) -> None:
    sent = {"frames": "1-2", "size": [96, 64], "samples": 60, "formats": ["png"]}
    told = server.ask("POST", f"/api/shots/{small_shot}/render-estimates", sent)
    assert told.status == 200 and told.json["frames"] == 2 and told.json["workers"] >= 1
    low, middle, high = told.json["frame"]
    assert 0 < low <= middle <= high and told.json["memory"] > 50
    assert told.json["disk"] == pytest.approx(2 * 96 * 64 * PNG_BYTES / 1e6)
    begun = server.ask("POST", f"/api/shots/{small_shot}/renders", sent).json
    took = [frame["seconds"] for frame in until(server, begun["id"], over)["frames"]]
    # On a machine whose speed drifts: within a factor of five either way.
    assert middle / 5 < sum(took) / 2 < middle * 5
    assert server.ask("POST", f"/api/shots/{small_shot}/render-estimates", {"frames": "x"}).status == 422


@pytest.mark.parametrize(
    "sent",
    [
        {"frames": "one"}, {"frames": "1-999"}, {"frames": "2-1"}, {"size": [1, 1]}, {"size": [48]}, {"samples": 0},
        {"formats": []}, {"formats": ["gif"]}, {"compression": "zap"}, {"priority": 1000}, {"frames": "1" * 500},
        {"noise": 2},
    ],
)  # fmt: skip
def test_orders_that_make_no_sense_are_refused_in_words(server: Server, small_shot: int, sent: dict[str, Any]) -> None:
    answer = server.ask("POST", f"/api/shots/{small_shot}/renders", sent)
    assert answer.status == 422 and (answer.json["detail"] or answer.json["problems"])


def test_what_is_not_there_is_said(server: Server, small_shot: int) -> None:
    assert server.ask("POST", "/api/shots/999999/renders", {}).status == 404
    for method, path in (("GET", ""), ("DELETE", ""), ("GET", "/frames.zip"), ("GET", "/video.mp4")):
        assert server.ask(method, f"/api/renders/999999{path}").status == 404
    begun = server.ask("POST", f"/api/shots/{small_shot}/renders", {"frames": "1", "samples": 65536}).json
    assert server.ask("GET", f"/api/renders/{begun['id']}/files/S.0001.png").status == 404
    assert server.ask("GET", f"/api/renders/{begun['id']}/files/..%2F..%2Fx.png").status == 404
    assert server.ask("GET", f"/api/renders/{begun['id']}/frames.zip").status == 404
    assert server.ask("POST", f"/api/renders/{begun['id']}/again", {"frames": [7]}).status == 422
    assert server.ask("DELETE", f"/api/renders/{begun['id']}").status == 204


def test_of_several_servers_one_sends_frames_and_all_can_tell_of_them(
    server: Server, world: World, small_shot: int
) -> None:
    assert server.ask("GET", "/api/farm").status == 200
    with serving(world) as other:
        begun = other.ask("POST", f"/api/shots/{small_shot}/renders", {"frames": "1-2", "samples": 3}).json
        assert until(other, begun["id"], over)["counts"]["done"] == 2
        assert until(server, begun["id"], over)["counts"]["done"] == 2


def test_what_ran_when_a_server_ended_waits_again(world: World, small_shot: int) -> None:
    # In a database schema of its own, so that the running server does not render what is entered here.
    with world.engine.connect() as connection:
        connection.exec_driver_sql("CREATE SCHEMA apart")
        connection.commit()
    engine = create_engine(world.engine.url, connect_args={"options": "-csearch_path=apart"})
    SQLModel.metadata.create_all(engine, tables=[RenderRow.__table__, RenderFrameRow.__table__])  # type: ignore[attr-defined]
    first, second = RenderStore(engine), RenderStore(engine)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(renders, "SENDS_FRAMES", 99)
        assert first.holds() and first.holds() and not second.holds()
        made = first.order(NewRender(1, "S", 1, "0" * 64, "0" * 64, {}, [1, 2, 3]))
        taken = first.take()
        assert taken is not None and (taken.render.id, taken.frame, taken.of) == (made.id, 1, 3)
        assert first.take() is not None
        first.done(made.id, 1, {"seconds": 1.0}, "made")
        assert [each.state for each in second.find(made.id).frames] == ["done", "running", "waiting"]
        first.release()
        assert second.holds()
        assert [each.state for each in second.find(made.id).frames] == ["done", "waiting", "waiting"]
        # What comes late of a frame that nobody waits for changes nothing.
        second.done(made.id, 2, {"seconds": 1.0}, "late")
        second.failed(made.id, 2, "late", True, lambda tries, losses: True)
        assert second.find(made.id).frames[1].state == "waiting"
        second.release()
    engine.dispose()
