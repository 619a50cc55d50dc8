"""Bringing everything up: what is damaged is left alone, one server holds a folder, and a database that dies comes back."""

import json
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import Answer, Server, free_port
from texallon.store.data_folder import DataFolderError, hold
from texallon.store.database import connect, migrate
from texallon.store.postgres import BEING_MADE, DatabaseError, PrivatePostgres
from texallon.store.shots import ShotStore

pytestmark = pytest.mark.slow

DOCUMENT: dict[str, Any] = {"schema": 2, "name": "S", "looks": [{"name": "plain", "layers": [{"name": "base"}]}]}


@pytest.fixture
def folder() -> Iterator[Path]:
    # Not pytest's own: as root, the database runs as another user, who must be able to enter it.
    made = Path(tempfile.mkdtemp(prefix="texallon-start-"))
    os.chmod(made, 0o755)
    yield made
    for private in (PrivatePostgres(made / "postgres"), PrivatePostgres(made)):
        if private.running():
            private.stop()
    shutil.rmtree(made, ignore_errors=True)


@pytest.fixture
def cluster(folder: Path) -> PrivatePostgres:
    """A stopped database that holds one shot."""
    private = PrivatePostgres(folder)
    engine = connect(private.start())
    migrate(engine)
    ShotStore(engine).add_shot("film", DOCUMENT, "made")
    engine.dispose()
    private.stop()
    return private


def shots_of(private: PrivatePostgres) -> list[str]:
    engine = connect(private.start())
    found = [shot.name for shot in ShotStore(engine).list_shots()]
    engine.dispose()
    private.stop()
    return found


def everything(folder: Path) -> dict[str, int]:
    return {str(path.relative_to(folder)): path.stat().st_size for path in folder.rglob("*") if path.is_file()}


@pytest.mark.parametrize("lost", ["PG_VERSION", "global/pg_control"])
def test_a_damaged_database_is_left_alone(cluster: PrivatePostgres, lost: str) -> None:
    part = cluster.cluster / lost
    kept = cluster.folder / "kept"
    part.rename(kept)
    before = everything(cluster.folder)
    with pytest.raises(DatabaseError, match=rf"{lost}.* is missing\. Nothing was changed.*texallon restore"):
        cluster.start()
    assert everything(cluster.folder) == before
    kept.rename(part)
    assert shots_of(cluster) == ["S"]


def test_a_lost_version_is_named_in_the_command_that_mends_it(cluster: PrivatePostgres) -> None:
    told = cluster.cluster / "PG_VERSION"
    version = told.read_text().strip()
    told.unlink()
    with pytest.raises(DatabaseError, match=f"echo {version} > {told}"):
        cluster.start()


@pytest.mark.parametrize("emptied", [True, False])
def test_a_database_that_is_gone_is_not_begun_anew(cluster: PrivatePostgres, emptied: bool) -> None:
    away = cluster.folder / "away"
    cluster.cluster.rename(away)
    if emptied:
        cluster.cluster.mkdir()
    with pytest.raises(DatabaseError, match="is gone or empty"):
        cluster.start()
    if emptied:
        cluster.cluster.rmdir()
    away.rename(cluster.cluster)
    assert shots_of(cluster) == ["S"]


def test_a_database_of_another_version_is_left_alone(cluster: PrivatePostgres) -> None:
    told = cluster.cluster / "PG_VERSION"
    version = told.read_text()
    told.write_text("9\n")
    with pytest.raises(DatabaseError, match=r"made by PostgreSQL 9, .* Nothing was changed"):
        cluster.start()
    told.write_text(version)
    assert shots_of(cluster) == ["S"]


def test_what_a_killed_first_start_left_is_thrown_away(folder: Path) -> None:
    half = folder / BEING_MADE
    half.mkdir(parents=True)
    (half / "PG_VERSION").write_text("15")
    private = PrivatePostgres(folder)
    engine = connect(private.start())
    migrate(engine)
    engine.dispose()
    private.stop()
    assert not half.exists()


def test_a_lost_password_is_replaced(cluster: PrivatePostgres) -> None:
    (cluster.folder / "password").unlink()
    assert shots_of(cluster) == ["S"]


def test_a_folder_is_held_by_one_and_free_again_when_that_is_killed(tmp_path: Path) -> None:
    code = f"from pathlib import Path; from texallon.store.data_folder import hold; h = hold(Path({str(tmp_path)!r}), 8460); print('held', flush=True); import signal; signal.pause()"
    other = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    assert other.stdout is not None and other.stdout.readline() == "held\n"
    with pytest.raises(
        DataFolderError, match=f"in use by the Texallon of process {other.pid} at http://127.0.0.1:8460"
    ):
        hold(tmp_path, 1)
    other.kill()
    other.wait()
    hold(tmp_path, 1).release()


def serve(folder: Path, *more: str, port: int | None = None) -> subprocess.Popen[str]:
    command = [sys.executable, "-m", "texallon.serve", "--data", str(folder), "--no-demo", *more]
    command += ["--port", str(port)] if port else []
    return subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--database", "nonsense"), "no address of a database"),
        (("--database", "postgresql://a:b@127.0.0.1:1/x"), "can't be used: .*refused"),
        (("--data", "/proc/nowhere"), "can't be written"),
        (("--data", __file__), "is a file"),
    ],
)
def test_what_can_not_be_started_is_said_in_one_line(folder: Path, options: tuple[str, ...], words: str) -> None:
    started = serve(folder, "--setup-only", *options)
    printed, _ = started.communicate(timeout=120)
    assert started.returncode == 1
    last = [line for line in printed.splitlines() if line.startswith("texallon: ")]
    assert len(last) == 1
    assert "Traceback" not in printed
    assert re.search(words, last[0])


def until(true: Callable[[], bool], what: str, seconds: float = 60) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, what
        time.sleep(0.05)


@pytest.fixture
def started(folder: Path) -> Iterator[tuple[subprocess.Popen[str], Server]]:
    port = free_port()
    process = serve(folder, port=port)
    server = Server(port)

    def up() -> bool:
        assert process.poll() is None, process.stdout.read() if process.stdout else ""
        try:
            return bool(server.ask("GET", "/api/status").json["ready"])
        except (urllib.error.URLError, ConnectionError):
            return False

    until(up, "it serves")
    yield process, server
    process.terminate()
    process.communicate(timeout=60)


def test_a_second_start_leaves_the_first_alone(folder: Path, started: tuple[subprocess.Popen[str], Server]) -> None:
    _, server = started
    second = serve(folder, port=free_port())
    printed, _ = second.communicate(timeout=60)
    assert second.returncode == 1
    assert f"in use by the Texallon of process {started[0].pid} at {server.address}" in printed
    assert server.ask("GET", "/api/shots").status == 200
    assert server.ask("GET", "/api/status").json["database"] is True


def test_a_killed_database_comes_back_and_requests_say_when_to_ask_again(
    folder: Path, started: tuple[subprocess.Popen[str], Server]
) -> None:
    _, server = started
    engine = connect(PrivatePostgres(folder / "postgres").url())
    shot = ShotStore(engine).add_shot("film", DOCUMENT, "made")
    engine.dispose()
    for _ in range(3):
        number = int((folder / "postgres" / "cluster" / "postmaster.pid").read_text().split("\n")[0])
        os.kill(number, signal.SIGKILL)
        answers: list[Answer] = []

        def back(answers: list[Answer] = answers) -> bool:
            answers.append(server.ask("GET", f"/api/shots/{shot}"))
            return answers[-1].status == 200

        until(back, "the database comes back")
        refused = [each for each in answers if each.status != 200]
        assert refused, "for a moment it was away"
        assert {each.status for each in refused} == {503}
        assert all(int(each.headers["Retry-After"]) > 0 for each in refused)
        assert server.edit(shot, server.ask("GET", f"/api/shots/{shot}").json["revision"], *title()).status == 200
    assert json.loads(answers[-1].body)["document"]["name"] == "S"


def title() -> list[dict[str, Any]]:
    return [{"op": "replace", "path": "/title", "value": f"at {time.monotonic()}"}]


def test_a_killed_start_leaves_nothing_in_the_way(folder: Path, started: tuple[subprocess.Popen[str], Server]) -> None:
    process, server = started
    engine = server.ask("GET", "/api/status").json["engine"]
    process.kill()
    process.wait()

    def gone() -> bool:
        try:
            server.ask("GET", "/api/status")
            return False
        except (urllib.error.URLError, ConnectionError):
            return not Path(f"/proc/{engine}").exists()

    until(gone, "the web server and the render process end with the one that started them")
    again = serve(folder, port=server.port)
    try:
        until(lambda: _serves(server), "it starts again, with the database that still ran")
    finally:
        again.terminate()
        again.communicate(timeout=60)
    assert not PrivatePostgres(folder / "postgres").running()


def _serves(server: Server) -> bool:
    try:
        return server.ask("GET", "/api/shots").status == 200
    except (urllib.error.URLError, ConnectionError):
        return False
