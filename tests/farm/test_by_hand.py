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
