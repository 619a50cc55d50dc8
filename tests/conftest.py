"""What the tests share: a private database, a store with the demo in it, and a running server."""

import fcntl
import json
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
import uuid
from collections.abc import Iterator, Mapping
from contextlib import closing, contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from sqlalchemy import Engine

from texallon.demo.write import write_demo
from texallon.serve import prepare
from texallon.store.database import connect
from texallon.store.files import FileStore
from texallon.store.postgres import PrivatePostgres
from texallon.store.shots import ShotStore

# The first run of a kernel compiles it, which says nothing about its speed.
settings.register_profile("texallon", deadline=None)
settings.load_profile("texallon")


def pytest_configure(config: pytest.Config) -> None:
    """All processes of one run of the tests share one written demo, whoever wants it first."""
    if not hasattr(config, "workerinput"):
        made = tempfile.mkdtemp(prefix="texallon-demo-")
        os.chmod(made, 0o755)
        os.environ["TEXALLON_DEMO"] = f"{made}/demo"
        config.add_cleanup(lambda: shutil.rmtree(made, ignore_errors=True))


@pytest.fixture(scope="session")
def demo_folder() -> Path:
    folder = Path(os.environ["TEXALLON_DEMO"])
    with (folder.parent / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.is_dir():
            part = folder.parent / "part"
            write_demo(part)
            part.rename(folder)
    return folder


@dataclass
class World:
    """A data folder and a database with the demo in it."""

    data: Path
    url: str
    engine: Engine

    @property
    def store(self) -> ShotStore:
        return ShotStore(self.engine)

    @property
    def files(self) -> FileStore:
        return FileStore(self.data / "files")


@pytest.fixture(scope="session")
def world(demo_folder: Path) -> Iterator[World]:
    # Not pytest's own folder: as root, the database runs as another user, who must be able to enter it.
    data = Path(tempfile.mkdtemp(prefix="texallon-test-"))
    os.chmod(data, 0o755)
    url, private = prepare(data, "", demo=True)
    engine = connect(url)
    yield World(data, url, engine)
    engine.dispose()
    assert isinstance(private, PrivatePostgres)
    private.stop()
    shutil.rmtree(data, ignore_errors=True)


@contextmanager
def world_beside(other: World) -> Iterator[World]:
    """A database of its own on the same database server: only one application server at a time sends a database's frames."""
    name = f"tests_{uuid.uuid4().hex[:12]}"
    with other.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.exec_driver_sql(f"CREATE DATABASE {name}")
    with tempfile.TemporaryDirectory(prefix="texallon-test-") as folder:
        url, _ = prepare(
            Path(folder), other.engine.url.set(database=name).render_as_string(hide_password=False), demo=True
        )
        engine = connect(url)
        try:
            yield World(Path(folder), url, engine)
        finally:
            engine.dispose()


def free_port() -> int:
    with closing(socket.socket()) as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


@dataclass
class Answer:
    status: int
    headers: Any
    body: bytes

    @property
    def json(self) -> Any:
        return json.loads(self.body)


@dataclass
class Server:
    """A server in a process of its own."""

    port: int
    headers: dict[str, str] = field(default_factory=dict)

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def ask(self, method: str, path: str, body: Any = None, headers: dict[str, str] | None = None) -> Answer:
        data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        sent = self.headers | ({"Content-Type": "application/json"} if data is not None else {}) | (headers or {})
        request = urllib.request.Request(self.address + path, data, sent, method=method)
        try:
            with urllib.request.urlopen(request, timeout=120) as response:
                return Answer(response.status, response.headers, response.read())
        except urllib.error.HTTPError as error:
            return Answer(error.code, error.headers, error.read())

    def edit(self, shot: int, revision: int, *operations: dict[str, Any], label: str = "test") -> Answer:
        body = {"patch": list(operations), "label": label}
        return self.ask("PATCH", f"/api/shots/{shot}", body, {"If-Match": f'"{revision}"'})


@pytest.fixture(scope="session")
def server(world: World) -> Iterator[Server]:
    with serving(world) as running:
        yield running


@contextmanager
def serving(world: World, headers: Mapping[str, str] | None = None, **settings: str) -> Iterator[Server]:
    """A server with settings of its own; every request brings the headers."""
    port = free_port()
    environment = {
        **os.environ,
        "TEXALLON_DATA": str(world.data),
        "TEXALLON_DATABASE": world.url,
        "TEXALLON_PORT": str(port),
        "TEXALLON_PORTRAITS": "0",
        "TEXALLON_RENDER_PROCESSES": "1",  # as on the smallest machine, wherever the tests run
        **settings,
    }
    command = [sys.executable, "-m", "texallon.api.run"]
    process = subprocess.Popen(command, env=environment)
    running = Server(port, dict(headers or {}))
    until = time.monotonic() + 60
    while True:
        try:
            if running.ask("GET", "/api/status").status == 200:
                break
        except OSError:
            assert process.poll() is None, "the server ended"
            assert time.monotonic() < until, "the server did not start"
            time.sleep(0.05)  # waiting for a process to listen: there is nothing to be told by
    try:
        yield running
    finally:
        process.terminate()
        process.wait(20)


def copy_of_shot(world: World, demo_folder: Path) -> int:
    """A new copy of the demo's shot."""
    document = json.loads((demo_folder / "GH010.json").read_text())
    return world.store.add_shot(f"tests {uuid.uuid4().hex}", document, "test")


@pytest.fixture
def fresh_shot(world: World, demo_folder: Path) -> int:
    """A new copy of the demo's shot, for a test of its own."""
    return copy_of_shot(world, demo_folder)
