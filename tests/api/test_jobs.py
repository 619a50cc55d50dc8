"""What is rendered in the background: begun, watched, stopped, and fetched; whatever becomes of its process."""

import io
import sys
import threading
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.conftest import Server, World
from tests.volumes import volume_look
from texallon.api.jobs import Job, Jobs
from texallon.starter.begin import keep_body
from texallon.starter.documents import new_shot
from texallon.store.files import FileStore


def settled(job: Any) -> Job:
    pause = threading.Event()  # a process works on it: there is nothing to be told by
    while not (job.ready or job.failed):
        pause.wait(0.05)
    return job


def watched(server: Server, begun: Any) -> dict[str, Any]:
    pause = threading.Event()
    while True:
        job = server.ask("GET", f"/api/jobs/{begun['id']}").json
        if job["ready"] or job["failed"]:
            return dict(job)
        pause.wait(0.1)


@pytest.fixture
def small_shot(world: World) -> int:
    made = new_shot("S", "small", keep_body(world.store, world.files))
    made |= {"resolution": [48, 32], "sampling": {"samples": 3, "noise": 0.0}}
    made["looks"][0]["name"] = "odd {name} {0}"
    for item in made["objects"]:
        item["look"] = item["look"].replace("grey", "odd {name} {0}")
    return world.store.add_shot("small shots", made, "t")


def test_a_look_that_is_not_there_is_refused(server: Server, small_shot: int) -> None:
    assert server.ask("POST", f"/api/shots/{small_shot}/reviews", {"look": "gone"}).status == 404
    assert server.ask("GET", f"/api/jobs/{'0' * 32}").status == 404
    assert server.ask("GET", "/api/jobs/x").status == 422


def test_what_fills_the_air_is_written_as_voxels(server: Server, world: World, small_shot: int) -> None:
    mist = volume_look("thin {mist}", density=0.3)
    air = {"look": "thin {mist}", "reach": 2.0, "floor": 0.0, "ceiling": 1.0}
    edits = [{"op": "add", "path": "/looks/-", "value": mist}, {"op": "add", "path": "/atmosphere", "value": air}]
    assert server.edit(small_shot, 1, *edits).status == 200
    wanted = {"object": "air", "frame": 1, "cells": 8, "format": "npz"}
    begun = server.ask("POST", f"/api/shots/{small_shot}/volume-files", wanted)
    assert begun.status == 202 and (begun.json["kind"], begun.json["what"]) == ("volume", "air")
    job = watched(server, begun.json)
    assert job["failed"] == "" and job["files"] == ["volume.npz"] and job["done"] == job["total"] == 8
    with np.load(io.BytesIO(server.ask("GET", f"/api/jobs/{job['id']}/files/volume.npz").body)) as made:
        assert made["density"].shape == (8, 2, 8) and made["density"] == pytest.approx(0.3)
    assert server.ask("POST", f"/api/shots/{small_shot}/volume-files", wanted | {"object": "gone"}).status == 404
    assert server.ask("POST", f"/api/shots/{small_shot}/volume-files", wanted | {"cells": 1000}).status == 422


def test_a_body_that_is_filled_with_nothing_is_said(server: Server, world: World, small_shot: int) -> None:
    name = world.store.current(small_shot).document["objects"][0]["name"]
    begun = server.ask("POST", f"/api/shots/{small_shot}/volume-files", {"object": name, "frame": 1})
    assert "is not filled with a volume" in watched(server, begun.json)["failed"]


def test_a_review_is_stopped_whatever_its_look_is_called(server: Server, small_shot: int) -> None:
    begun = server.ask("POST", f"/api/shots/{small_shot}/reviews", {"look": "odd {name} {0}"})
    assert begun.status == 202 and begun.json["what"] == "odd {name} {0}"
    assert server.ask("DELETE", f"/api/jobs/{begun.json['id']}").status == 204
    assert watched(server, begun.json)["failed"] == "stopped"
    assert server.ask("GET", f"/api/jobs/{begun.json['id']}/files/sheet.png").status == 404


WAYS = {
    "ends well": ("print('1 2'); print('2 2'); open({path!r}, 'wb').write(b'x')", "", 2),
    "says what is wrong": ("import sys; print('first', file=sys.stderr); sys.exit('no such mesh')", "no such mesh", 0),
    "is killed": ("import os; os.kill(os.getpid(), 9)", "the renderer ended", 0),
    "breaks": ("import sys; print('Traceback', file=sys.stderr); sys.exit(3)", "the renderer ended", 0),
    "babbles": ("print('hello'); print('7 x'); print('1 2')", "", 1),
}


@pytest.mark.parametrize("way", WAYS)
def test_whatever_becomes_of_its_process_is_said(tmp_path: Path, way: str) -> None:
    program, failed, done = WAYS[way]
    jobs = Jobs(FileStore(tmp_path / "files"))
    code = program.replace("{path!r}", "__import__('sys').argv[1]")
    command = [sys.executable, "-c", code.replace("{", "{{").replace("}", "}}"), "{png}"]
    job = settled(jobs.begin("test", 1, "x", 2, {"a": 1}, command, {"png": "picture.png"}))
    assert (job.failed, job.done, job.ready) == (failed, done, failed == "")
    assert bool(job.files) == (way == "ends well")


def test_jobs_wait_for_each_other_and_one_that_waits_can_be_stopped(tmp_path: Path) -> None:
    jobs = Jobs(FileStore(tmp_path / "files"))
    wait = [sys.executable, "-c", "import sys; sys.stdin.read(); import time; time.sleep(60)"]
    first = jobs.begin("test", 1, "a", 1, {}, wait, {})
    second = jobs.begin("test", 1, "b", 1, {}, wait, {})
    jobs.stop(second.id)
    pause = threading.Event()
    while first.process is None:
        pause.wait(0.02)
    jobs.stop(first.id)
    assert settled(first).failed == settled(second).failed == "stopped"
    assert [job.what for job in jobs.of(1)] == ["a", "b"]
