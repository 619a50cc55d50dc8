"""A farm that was begun by hand, its connections encrypted: frames come from it, and nobody without the certificate gets in."""

import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from tests.cli.test_cli import texallon
from tests.cli.test_frames import QUICK, light, shot_file
from tests.conftest import free_port
from texallon.farm.code_state import OtherCodeError, check_code, code_state

pytestmark = pytest.mark.slow


@contextmanager
def running(*arguments: str) -> Iterator[subprocess.Popen[str]]:
    """A part of a farm, from the first line that it says on."""
    command = [sys.executable, "-m", "texallon.cli", "farm", *arguments]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    try:
        assert process.stdout is not None and process.stdout.readline(), "it says where it is"
        yield process
    finally:
        process.terminate()
        process.wait()


def test_an_encrypted_farm_renders_and_lets_nobody_else_in(tmp_path: Path) -> None:
    certificate, key = tmp_path / "farm.pem", tmp_path / "farm.key"
    # One self-signed certificate is authority and everybody's own (openssl-req(1)).
    made = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=farm"]
    subprocess.run([*made, "-keyout", str(key), "-out", str(certificate)], check=True, capture_output=True)
    files = ("--ca", str(certificate), "--certificate", str(certificate), "--key", str(key))
    port, shot, out = free_port(), shot_file(tmp_path), tmp_path / "out"
    address = f"tls://127.0.0.1:{port}"
    with running("scheduler", "--port", str(port), *files), running("worker", address, "--threads", "1", *files):
        ordered = ("shot", shot, "--frames", "2", *QUICK, "--store", tmp_path / "store", "--out", out, "--farm")
        plain = texallon(*ordered, address.replace("tls", "tcp"))
        assert plain.returncode == 1 and "does not answer" in plain.stderr
        named = {f"TEXALLON_FARM_{name}": str(path) for name, path in (("CA", certificate), ("CERTIFICATE", certificate), ("KEY", key))}  # fmt: skip
        done = texallon(*ordered, address, environment=named)
        assert done.returncode == 0, done.stderr
    assert texallon("frames", shot, "--frames", "2", *QUICK, "--out", tmp_path / "alone").returncode == 0
    assert (light(out / "roll_7_a.0002.exr") == light(tmp_path / "alone" / "roll_7_a.0002.exr")).all()


OTHER_CODE = """
import asyncio, sys
import texallon.farm.code_state as state
state.code_state = lambda: "0" * 64
from distributed import Worker
from texallon.farm.own_cluster import READY

async def run():
    async with Worker(sys.argv[1], nthreads=1, name="stale", preload=READY) as worker:
        print(worker.address, flush=True)
        await worker.finished()

asyncio.run(run())
"""
"""A worker of a machine on which the code was not brought up to date."""


@contextmanager
def stale_worker(address: str) -> Iterator[None]:
    process = subprocess.Popen([sys.executable, "-c", OTHER_CODE, address], stdout=subprocess.PIPE, text=True)
    try:
        assert process.stdout is not None and process.stdout.readline(), "it has registered"
        yield
    finally:
        process.kill()
        process.wait()


def test_a_worker_of_other_code_is_sent_nothing(tmp_path: Path) -> None:
    port, shot, out = free_port(), shot_file(tmp_path), tmp_path / "out"
    address = f"tcp://127.0.0.1:{port}"
    ordered = ("shot", shot, "--frames", "1-3", *QUICK, "--store", tmp_path / "store", "--out", out, "--farm", address)
    with running("scheduler", "--port", str(port)), stale_worker(address):
        alone = texallon(*ordered)
        assert alone.returncode == 1 and "no worker runs this state of the code, only others: stale" in alone.stderr
        assert not list(out.glob("*.exr"))
        with running("worker", address, "--threads", "1"):
            done = texallon(*ordered)
            assert done.returncode == 0, done.stderr
    assert len(list(out.glob("*.exr"))) == 3


def test_a_task_for_other_code_is_refused_by_the_worker_itself() -> None:
    check_code("")
    check_code(code_state())
    with pytest.raises(OtherCodeError, match="another state of the code"):
        check_code("0" * 64)


def test_the_state_of_the_code_is_that_of_every_file_and_library(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    package = tmp_path / "texallon"
    (package / "core").mkdir(parents=True)
    (package / "__init__.py").write_text("")
    (package / "core" / "noise.py").write_text("GAIN = 0.5\n")
    monkeypatch.setattr("texallon.__path__", [str(package)])
    states = set()

    def state() -> str:
        code_state.cache_clear()
        states.add(code_state())
        return code_state()

    try:
        first = state()
        assert state() == first
        (package / "core" / "noise.py").write_text("GAIN = 0.6\n")
        state()
        (package / "core" / "noise.py").rename(package / "core" / "moved.py")
        state()
        monkeypatch.setattr("texallon.farm.code_state.version", lambda name: "0.0.1")
        state()
        assert len(states) == 4
    finally:
        monkeypatch.undo()
        code_state.cache_clear()
