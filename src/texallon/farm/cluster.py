"""A cluster: one of this machine's own, in a process of its own, or a farm's by its address."""

import os
import subprocess
import sys
import threading
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from distributed import Client

from texallon.child_process import begin_lasting
from texallon.farm.tls import Tls

PLAIN = Tls()

STARTING = 60.0
"""Seconds that a cluster may take to begin."""

ANSWERING = 5.0
"""Seconds that a scheduler may take to answer."""


class FarmError(OSError):
    """A farm that can't be used, in a sentence for a person."""


@dataclass(frozen=True)
class FarmSettings:
    """`address` of a scheduler, such as `tcp://farm:8786` or `tls://farm:8786`; one of this machine's own is started where it is empty, with
    `workers` of `threads` each."""

    address: str = ""
    workers: int = 1
    threads: int = 0
    tls: Tls = PLAIN

    @staticmethod
    def from_environment(given: Mapping[str, str] = os.environ) -> "FarmSettings":
        """The settings that the environment gives; raises `FarmError`."""
        address = given.get("TEXALLON_FARM", "").strip()
        if address and not address.startswith(("tcp://", "tls://")):
            raise FarmError(f"TEXALLON_FARM is “{address[:100]}”; it is written tcp://HOST:PORT or tls://HOST:PORT")
        tls = Tls(*(given.get(f"TEXALLON_FARM_{name}", "") for name in ("CA", "CERTIFICATE", "KEY")))
        if wrong := tls.problem():
            raise FarmError(f"TEXALLON_FARM_CA, TEXALLON_FARM_CERTIFICATE and TEXALLON_FARM_KEY: {wrong}")
        if address.startswith("tls://") != any(tls):
            raise FarmError(
                "TEXALLON_FARM is written tls://HOST:PORT where TEXALLON_FARM_CA and its companions are set, and only there"
            )
        cores = os.cpu_count() or 1
        workers = _count(given, "TEXALLON_FARM_WORKERS", max(1, cores // 4))
        return FarmSettings(address, workers, _count(given, "TEXALLON_FARM_THREADS", max(1, cores // workers)), tls)


def _count(given: Mapping[str, str], name: str, usual: int) -> int:
    text = given.get(name, "").strip()
    if not text:
        return usual
    if not text.isdigit() or not 1 <= int(text[:9]) <= 1024:
        raise FarmError(f"{name} is “{text[:40]}”; it is a whole number from 1 to 1024")
    return int(text)


class OwnCluster:
    """A scheduler and workers in processes of their own, on loopback. They end with this process."""

    def __init__(self, workers: int, threads: int, folder: Path | None = None) -> None:
        self._command = [sys.executable, "-m", "texallon.farm.own_cluster", str(workers), str(threads)]
        self._folder = folder
        self._process: subprocess.Popen[str] | None = None
        self._lock = threading.Lock()
        self._address = ""

    @property
    def address(self) -> str:
        """Its scheduler's; begun where it does not run. Raises `FarmError`."""
        with self._lock:
            if self._process is None or self._process.poll() is not None:
                self._begin()
            return self._address

    @property
    def pid(self) -> int | None:
        """Of the process that holds the scheduler, where it runs."""
        return None if self._process is None or self._process.poll() is not None else self._process.pid

    def _begin(self) -> None:
        environment = {**os.environ}
        if self._folder is not None:
            environment["TEXALLON_WORKER_FOLDER"] = str(self._folder)
        self._process = begin_lasting(
            self._command, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, text=True, env=environment
        )
        assert self._process.stdout is not None
        late = threading.Timer(STARTING, self._process.kill)
        late.start()
        line = self._process.stdout.readline().strip()
        late.cancel()
        if not line.startswith("tcp://"):
            self._process.kill()
            self._process.wait()
            raise FarmError("the workers for frames could not be started; the log says why")
        self._address = line

    def close(self) -> None:
        """End it."""
        with self._lock:
            if self._process is None:
                return
            self._process.terminate()
            try:
                self._process.wait(10)
            except subprocess.TimeoutExpired:
                self._process.kill()
                self._process.wait()
            self._process = None


def connect(address: str, tls: Tls = PLAIN) -> Client:
    """A connection to a scheduler; raises `FarmError`.

    Parameters
    ----------
    address : str
        Of the scheduler.
    tls : Tls, optional
        Files for an encrypted connection.
    """
    try:
        return Client(
            address, timeout=ANSWERING, set_as_default=False, security=tls.security("client"), name="texallon"
        )
    except (OSError, ValueError, TimeoutError) as error:
        raise FarmError(f"the farm at {address} does not answer: {error}") from error
