"""The server that a campaign is led against."""

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any


class Server:
    """`texallon.serve` in a folder of its own, or one that is given."""

    def __init__(self, port: int, data: Path | None = None) -> None:
        self.own = data is None
        self.data = data or Path(tempfile.mkdtemp(prefix="texallon-campaign-"))
        self.data.mkdir(exist_ok=True)
        os.chmod(self.data, 0o755)
        self.port, self.address = port, f"http://127.0.0.1:{port}"
        self.process = self.start()

    def start(self) -> "subprocess.Popen[bytes]":
        """Start it, and wait until all of it is there."""
        command = [sys.executable, "-m", "texallon.serve", "--data", str(self.data), "--port", str(self.port)]
        with tempfile.TemporaryFile() as log:
            self.process = subprocess.Popen(command, stdout=log, stderr=subprocess.STDOUT)
            try:
                self.until(lambda: bool(self.ask("GET", "/api/status")[1]["database"]), 300)
            except TimeoutError:
                log.seek(0)
                print(log.read().decode(errors="replace")[-2000:])
                raise
        return self.process

    def kill_and_start(self) -> None:
        """Kill the start command, as a machine that is switched off would, and start again on the same folder."""
        self.process.kill()
        self.process.wait()
        self.start()

    def read(self, path: str) -> Any:
        """What is there, asked for again where the server is not ready."""
        found: list[Any] = []

        def answered() -> bool:
            status, answer = self.ask("GET", path)
            found[:] = [answer]
            return status == 200

        self.until(answered, 120)
        return found[0]

    def shots(self) -> list[int]:
        """The numbers of all shots."""
        return [each["id"] for each in self.read("/api/shots")["shots"]]

    def ask(self, method: str, path: str, body: Any = None, headers: dict[str, str] | None = None) -> tuple[int, Any]:
        data = None if body is None else (body if isinstance(body, bytes) else json.dumps(body).encode())
        request = urllib.request.Request(
            self.address + path, data, {"Content-Type": "application/json", **(headers or {})}, method=method
        )
        try:
            with urllib.request.urlopen(request, timeout=60) as answer:
                return answer.status, json.loads(answer.read())
        except urllib.error.HTTPError as error:
            return error.code, json.loads(error.read() or b"{}")

    def until(self, true: Callable[[], bool], seconds: float) -> None:
        end = time.monotonic() + seconds
        while True:
            try:
                if true():
                    return
            except (OSError, ValueError, KeyError):
                pass
            if time.monotonic() > end:
                raise TimeoutError("the server did not come back")
            time.sleep(0.1)

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait()
        if self.own:
            shutil.rmtree(self.data, ignore_errors=True)
