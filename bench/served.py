"""A server with the demo in it, for measures in a real browser."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

PORT = 8477
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"]


class Served(NamedTuple):
    """Where it answers, its data, when it was started (`time.perf_counter`) and how many seconds later it answered."""

    address: str
    data: Path
    started: float
    answering: float


@contextmanager
def served() -> Iterator[Served]:
    """A server of its own, set up before and gone after."""
    data = Path(tempfile.mkdtemp(prefix="texallon-bench-"))
    os.chmod(data, 0o755)
    serve = [sys.executable, "-m", "texallon.serve", "--port", str(PORT), "--data", str(data)]
    subprocess.run([*serve, "--setup-only"], check=True, stdout=subprocess.DEVNULL)
    started = time.perf_counter()
    server = subprocess.Popen(serve, stdout=subprocess.DEVNULL)
    address = f"http://127.0.0.1:{PORT}"
    try:
        while True:
            try:
                urllib.request.urlopen(f"{address}/api/status")
                break
            except OSError:
                time.sleep(0.02)
        yield Served(address, data, started, time.perf_counter() - started)
    finally:
        server.terminate()
        server.wait(30)
        shutil.rmtree(data, ignore_errors=True)
