"""Frames by many workers: the same to the bit whoever renders them, in whatever parts and order, whoever is killed on the way."""

import json
import os
import random
import signal
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from http.client import BadStatusLine, HTTPConnection
from pathlib import Path
from typing import Any
from unittest.mock import Mock

import numpy as np
import OpenEXR
import psutil
import pytest

from tests.farm.processes import workers_of
from texallon.core.document import Shot, read_shot
from texallon.core.render.film.division import shares_of
from texallon.document_digest import document_digest
from texallon.farm.cluster import FarmError, FarmSettings, OwnCluster, connect
from texallon.farm.dispatcher import Dispatcher
from texallon.farm.ledger import FramesInMemory, WantedFrame, given_up, words_of
from texallon.farm.order import Places, put_shot, tasks_of
from texallon.farm.shot import render_shot
from texallon.farm.vault import Vault, VaultError
from texallon.farm.work import finish_frame, render_frame_task, sample_share
from texallon.formats.mesh_file import write_glb
from texallon.formats.references import references
from texallon.formats.shot_files import ShotFiles
from texallon.frame_files import Order, RangeOrder
from texallon.starter.documents import new_shot
from texallon.starter.test_body import turned_body

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def small(tmp_path_factory: pytest.TempPathFactory) -> tuple[Shot, ShotFiles]:
    """A small lit shot with something that moves, beside its files."""
    folder = tmp_path_factory.mktemp("small")
    made = small_document(folder)
    return read_shot(made), ShotFiles(root=folder)


def small_document(folder: Path) -> dict[str, Any]:
    write_glb(folder / "body.glb", turned_body())
    made = new_shot("S", "small", {"file": "body.glb", "sha256": None})
    made |= {"resolution": [48, 32], "sampling": {"samples": 8, "noise": 0.0}, "shutter": {"on": True}}
    made["objects"][0] |= {"id": "aa"}
    rises = [{"frame": 1, "value": 0.0}, {"frame": 48, "value": 0.5}]
    made["tracks"] = [{"at": "/objects/aa/position/1", "keys": rises}]
    return made


def order(frames: list[int], samples: int = 8, folder: Path = Path()) -> RangeOrder:
    picture = Order((48, 32), samples, 1, frames[0], passes=True)
    return RangeOrder(frames, folder, (".exr",), picture, "0" * 64)


def pixels(path: Path) -> dict[str, np.ndarray]:
    with OpenEXR.File(str(path), separate_channels=True) as file:
        return {name: np.array(each.pixels) for part in file.parts for name, each in part.channels.items()}


def alike(one: Path, other: Path) -> bool:
    first, second = pixels(one), pixels(other)
    return first.keys() == second.keys() and all(np.array_equal(first[name], second[name]) for name in first)


SLACK = 4
"""Times as long as is wanted, on a machine that does much else."""


def executing(dask_worker: Any) -> int:
    """How many tasks a worker is at."""
    return sum(each.state in ("executing", "cancelled", "long-running") for each in dask_worker.state.tasks.values())


@contextmanager
def dispatching(ledger: FramesInMemory, cluster: OwnCluster) -> Iterator[Dispatcher]:
    dispatcher = Dispatcher(ledger, lambda: connect(cluster.address))
    dispatcher.start()
    try:
        yield dispatcher
    finally:
        ledger.stop()
        dispatcher.close()


def test_one_two_and_four_workers_make_the_same_frames_in_parts_or_whole(
    small: tuple[Shot, ShotFiles], tmp_path: Path
) -> None:
    shot, files = small
    vault = Vault(str(tmp_path / "vault"))
    digest = put_shot(vault, shot, files)
    plain = tasks_of(order([3, 5]), "plain", "S", Places(vault.url, digest, str(tmp_path / "plain")))
    for each in reversed(plain):
        render_frame_task(each.task)
    parts = tasks_of(order([3]), "parts", "S", Places(vault.url, digest, str(tmp_path / "parts")))[0].task
    shares = [sample_share(parts, share) for share in reversed(shares_of(32, 8, False, 2))]
    assert len(shares) == 2
    finish_frame(parts, shares)
    assert alike(tmp_path / "plain" / "S.0003.exr", tmp_path / "parts" / "S.0003.exr")
    settings = FarmSettings(workers=4, threads=1)
    together = order([3], folder=tmp_path / "four")._replace(digest=document_digest(shot))
    entries = render_shot(shot, files, together, settings, lambda how: None)
    assert [each.state for each in entries] == ["done"]
    assert alike(tmp_path / "plain" / "S.0003.exr", tmp_path / "four" / "S.0003.exr")


def test_ten_workers_with_delays_and_kills_lose_no_frame(small: tuple[Shot, ShotFiles], tmp_path: Path) -> None:
    shot, files = small
    vault = Vault(str(tmp_path / "vault"))
    digest = put_shot(vault, shot, files)
    frames = list(range(1, 13))
    places = Places(vault.url, digest, str(tmp_path / "made"))
    chance = random.Random(7)
    wanted = [
        each._replace(task=replace(each.task, delay=chance.uniform(0, 0.6)))
        for each in tasks_of(order(frames, samples=2), "killed", "S", places)
    ]
    ledger = FramesInMemory(wanted)
    cluster = OwnCluster(10, 1, tmp_path / "kept")
    try:
        with dispatching(ledger, cluster) as dispatcher:
            killed = restarts = 0
            pause = threading.Event()
            while not ledger.over:
                pause.wait(0.3)
                busy = [
                    each for each in ledger.entries.values() if each.progress is not None and each.state == "running"
                ]
                done = sum(each.state == "done" for each in ledger.entries.values())
                if busy and killed < 6 and cluster.pid is not None:
                    workers = workers_of(cluster.pid)
                    if workers:
                        os.kill(chance.choice(workers).pid, signal.SIGKILL)
                        killed += 1
                if done >= 4 and not restarts and cluster.pid is not None:
                    os.kill(cluster.pid, signal.SIGKILL)  # the scheduler, and all workers with it
                    restarts += 1
            assert killed and restarts and dispatcher.trouble == ""
    finally:
        cluster.close()
    assert [each.state for each in ledger.entries.values()] == ["done"] * 12
    plain = tasks_of(order(frames, samples=2), "plain", "S", Places(vault.url, digest, str(tmp_path / "plain")))
    for each in plain[::5]:
        render_frame_task(each.task)
        name = f"S.{each.task.picture.frame:04d}.exr"
        assert alike(tmp_path / "plain" / name, tmp_path / "made" / name)
    assert not list((tmp_path / "made").glob(".part-*"))


def test_what_runs_is_given_up_within_seconds(small: tuple[Shot, ShotFiles], tmp_path: Path) -> None:
    shot, files = small
    vault = Vault(str(tmp_path / "vault"))
    places = Places(vault.url, put_shot(vault, shot, files), str(tmp_path / "made"))
    ledger = FramesInMemory(tasks_of(order([1], samples=65536), "long", "S", places))
    cluster = OwnCluster(1, 1, tmp_path / "kept")
    pause = threading.Event()
    try:
        with dispatching(ledger, cluster) as dispatcher:
            entry = next(iter(ledger.entries.values()))
            while entry.progress is None:
                pause.wait(0.05)
            ledger.stop()
            asked = time.monotonic()
            client = connect(cluster.address)
            while any(client.run(executing).values()):
                pause.wait(0.05)
            took = time.monotonic() - asked
            client.close()
            assert dispatcher.trouble == ""
    finally:
        cluster.close()
    assert took < 3 * SLACK
    assert not list((tmp_path / "made").glob("*.exr"))


def test_a_frame_that_is_there_is_kept_and_one_from_something_else_is_made(
    small: tuple[Shot, ShotFiles], tmp_path: Path
) -> None:
    shot, files = small
    vault = Vault(str(tmp_path / "vault"))
    places = Places(vault.url, put_shot(vault, shot, files))
    first = tasks_of(order([2], 2, Path("one")), "a", "S", places)[0].task
    made, again = render_frame_task(first), render_frame_task(first)
    assert not made.kept and again.kept and again.files == made.files == ("one/S.0002.exr",)
    assert made.thumbnail.startswith(b"\x89PNG") and again.thumbnail.startswith(b"\x89PNG")
    other = tasks_of(order([2], 3, Path("one")), "b", "S", places)[0].task
    assert not render_frame_task(other).kept
    # A file that was damaged is none.
    there = Path(vault.name_of("one/S.0002.exr"))
    there.write_bytes(there.read_bytes()[:200])
    assert not render_frame_task(other).kept


def test_a_vault_keeps_contents_by_their_digest_and_says_what_is_amiss(tmp_path: Path) -> None:
    for url in (str(tmp_path / "folder"), "memory://vault"):
        vault = Vault(url)
        digest = vault.put(b"abc", ".json")
        assert digest == vault.put(b"abc", ".json")
        assert vault.fetch(digest, ".json", tmp_path / "kept").read_bytes() == b"abc"
        vault.write("job/x.exr", b"1")
        vault.write("job/x.exr", b"22")
        assert vault.read("job/x.exr") == b"22" and vault.exists("job/x.exr")
        vault.remove("job")
        assert not vault.exists("job/x.exr")
        with pytest.raises(FileNotFoundError):
            vault.read("job/x.exr")
        with pytest.raises(FileNotFoundError):
            vault.fetch("0" * 64, ".glb", tmp_path / "kept")
    with pytest.raises(VaultError, match="no place for files"):
        Vault("nosuch://x")
    locked = tmp_path / "file"
    locked.write_text("")
    with pytest.raises(VaultError, match="can't be written"):
        Vault(str(locked)).write("x", b"1")


def test_what_came_damaged_is_refused(tmp_path: Path) -> None:
    vault = Vault("memory://damaged")
    digest = vault.put(b"abc", ".obj")
    vault._fs.pipe_file(vault._content(digest, ".obj"), b"abd")
    with pytest.raises(VaultError, match="damaged"):
        vault.fetch(digest, ".obj", tmp_path)


def test_every_file_of_a_document_goes_along(small: tuple[Shot, ShotFiles], tmp_path: Path) -> None:
    shot, files = small
    vault = Vault(str(tmp_path))
    digest = put_shot(vault, shot, files)
    there = json.loads(vault.fetch(digest, ".json", tmp_path).read_text())
    refs = list(references(there))
    assert refs and all(each["sha256"] for each in refs)
    assert put_shot(vault, shot, files) == digest


def test_workers_are_copies_of_what_has_loaded_all_and_end_with_their_cluster(tmp_path: Path) -> None:
    cluster = OwnCluster(2, 3, tmp_path)
    try:
        client = connect(cluster.address)
        client.wait_for_workers(2)
        assert cluster.pid is not None
        workers = workers_of(cluster.pid)
        assert len(workers) == 2 and len({each.ppid() for each in workers}) == 1
        assert set(client.run(_loaded).values()) == {(True, "3", "1", 10)}
        # One that is killed is there again, as it was.
        workers[0].kill()
        psutil.wait_procs(workers[:1], timeout=20)
        client.wait_for_workers(2, timeout=20)
        assert set(client.run(_loaded).values()) == {(True, "3", "1", 10)}
        client.close()
        everyone = psutil.Process(cluster.pid).children(recursive=True)
        os.kill(cluster.pid, signal.SIGKILL)
        _, alive = psutil.wait_procs(everyone, timeout=20)
        assert alive == []
    finally:
        cluster.close()


def _loaded() -> tuple[bool, str | None, str | None, int]:
    """Of a worker: whether it has what frames need, its threads for a frame and for the libraries, and how it stands back."""
    import sys

    environment = os.environ.get("TEXALLON_WORKER_THREADS"), os.environ.get("OPENBLAS_NUM_THREADS")
    return "texallon.farm.work" in sys.modules, *environment, os.nice(0)


def test_a_cluster_listens_on_loopback_only_and_shows_no_pages(tmp_path: Path) -> None:
    cluster = OwnCluster(1, 1, tmp_path)
    try:
        assert cluster.address and cluster.pid is not None
        own = psutil.Process(cluster.pid)
        found = [each for process in (own, *own.children(recursive=True)) for each in process.net_connections()]
        listening = [each.laddr for each in found if each.status == psutil.CONN_LISTEN]
        assert listening and {each.ip for each in listening} == {"127.0.0.1"}
        assert 8787 not in {each.port for each in listening}, "the library's own port, which others may need"
        for each in listening:
            for path in ("/", "/info/main/workers.html", "/json/counts.json", "/metrics", "/sysmon"):
                connection = HTTPConnection("127.0.0.1", each.port, timeout=2)
                try:
                    connection.request("GET", path)
                    assert connection.getresponse().status == 404
                except (BadStatusLine, OSError):  # it does not speak HTTP
                    continue
                finally:
                    connection.close()
    finally:
        cluster.close()
    assert cluster.pid is None


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"TEXALLON_FARM": "farm:8786"}, "tcp://HOST:PORT"),
        ({"TEXALLON_FARM": "tls://farm:8786"}, "TEXALLON_FARM_CA"),
        ({"TEXALLON_FARM_CA": "/nowhere"}, "there is no file"),
        ({"TEXALLON_FARM_CA": __file__}, "belong together"),
        (
            dict.fromkeys(("TEXALLON_FARM_CA", "TEXALLON_FARM_CERTIFICATE", "TEXALLON_FARM_KEY"), __file__),
            "and only there",
        ),
        ({"TEXALLON_FARM_WORKERS": "0"}, "whole number"),
        ({"TEXALLON_FARM_THREADS": "many"}, "whole number"),
    ],
)
def test_settings_of_a_farm_that_make_no_sense_are_said(given: dict[str, str], words: str) -> None:
    with pytest.raises(FarmError, match=words):
        FarmSettings.from_environment(given)


def test_a_farm_that_is_not_there_is_said() -> None:
    with pytest.raises(FarmError, match="does not answer"):
        connect("tcp://127.0.0.1:9")


def test_a_frame_that_lost_a_worker_waits_behind_those_that_lost_none() -> None:
    ledger = FramesInMemory([WantedFrame(name, Mock()) for name in "abc"])
    first = ledger.take()
    assert first is not None and first.id == "a"
    ledger.failed("a", "", True)
    order = []
    while (found := ledger.take()) is not None:
        order.append(found.id)
    assert order == ["b", "c", "a"]


def test_tries_and_losses_have_an_end_and_words() -> None:
    assert not given_up(2, 7) and given_up(3, 0) and given_up(0, 8)
    assert words_of("Traceback\n  x\nthe mesh has no faces", False) == "the mesh has no faces"
    assert "memory" in words_of("", True) and words_of("", False)
