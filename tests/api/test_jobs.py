"""What is rendered in the background: begun, watched, stopped, and fetched; whatever becomes of its process."""

import io
import sys
import threading
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import pytest
from PIL import Image

from tests.conftest import Server, World
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


def test_a_final_picture_is_made_at_the_shots_size_with_its_passes(
    server: Server, small_shot: int, tmp_path: Path
) -> None:
    begun = server.ask("POST", f"/api/shots/{small_shot}/finals", {"frame": 2, "passes": True})
    assert begun.status == 202 and (begun.json["kind"], begun.json["total"]) == ("final", 3)
    job = watched(server, begun.json)
    assert job["failed"] == "" and job["done"] == 3 and job["files"] == ["picture.exr", "picture.png"]
    png = server.ask("GET", f"/api/jobs/{job['id']}/files/picture.png")
    with Image.open(io.BytesIO(png.body)) as picture:
        assert picture.size == (48, 32) and np.asarray(picture).std() > 5
    exr = server.ask("GET", f"/api/jobs/{job['id']}/files/picture.exr").body
    path = tmp_path / "picture.exr"
    path.write_bytes(exr)
    with OpenEXR.File(str(path), separate_channels=True) as file:
        assert {"R", "depth.Y", "position.X"} <= set(file.channels())
        assert file.header()["texallon:frame"] == "2"
    assert server.ask("GET", f"/api/shots/{small_shot}/jobs").json["jobs"][-1]["id"] == job["id"]


def test_a_frame_or_a_look_that_is_not_there_is_refused(server: Server, small_shot: int) -> None:
    assert server.ask("POST", f"/api/shots/{small_shot}/finals", {"frame": 999}).status == 422
    assert server.ask("POST", f"/api/shots/{small_shot}/reviews", {"look": "gone"}).status == 404
    assert server.ask("GET", f"/api/jobs/{'0' * 32}").status == 404
    assert server.ask("GET", "/api/jobs/x").status == 422


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
