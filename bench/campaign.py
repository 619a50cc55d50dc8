"""A campaign of hostile use against a server of its own: `python -m bench.campaign [--hours H]`, or `--short` for minutes.

* Edits made up from the demo's documents (numbers, texts, lists, members taken away or doubled): each either refused as the sender's fault or
  saved, drawn tiny, and taken back to the very document.
* Live messages of all kinds, most of them nonsense: the server goes on, and a window that means well gets its picture.
* Kills of the render process and of the database while four writers edit: no confirmed edit may be missing.

Exit status 1 where anything broke. Random numbers have a seed (`--seed`), so that a campaign can be had again.
"""

import argparse
import copy
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import websocket

from texallon.core.derived import DerivedStore
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.resolved import resolve
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.formats.shot_files import ShotFiles

HOSTILE: tuple[Any, ...] = (
    0, -1, 1e-324, 1e308, -1e308, 10**30, True, None, "", "x", "a\0b", "\ud800", [], {}, [[]], {"a": {}}, [1, 2], "0" * 300, 0.5, 1, 2, 1e-6, 1e6,
)  # fmt: skip


class Server:
    """`texallon.serve` in a folder of its own."""

    def __init__(self, port: int) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="texallon-campaign-"))
        os.chmod(self.data, 0o755)
        self.port, self.address = port, f"http://127.0.0.1:{port}"
        command = [sys.executable, "-m", "texallon.serve", "--data", str(self.data), "--port", str(port)]
        self.log = (self.data / "started.log").open("wb")
        self.process = subprocess.Popen(command, stdout=self.log, stderr=subprocess.STDOUT)
        self.until(lambda: bool(self.ask("GET", "/api/status")[1]["ready"]), 300)

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
        shutil.rmtree(self.data, ignore_errors=True)


def places(value: Any, path: str = "") -> list[str]:
    """JSON Pointers of everything in a document."""
    found = [path] if path else []
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, each in items:
        if key != "id":
            found += places(each, f"{path}/{str(key).replace('~', '~0').replace('/', '~1')}")
    return found


def at(document: Any, path: str) -> Any:
    for token in path.split("/")[1:]:
        name = token.replace("~1", "/").replace("~0", "~")
        document = document[int(name)] if isinstance(document, list) else document[name]
    return document


def made_up(document: Any, rng: random.Random) -> list[dict[str, Any]]:
    """An edit of one to three operations."""
    operations = []
    everything = places(document)
    leaves = [path for path in everything if isinstance(at(document, path), (int, float))]
    for _ in range(rng.choice((1, 1, 1, 2, 3))):
        kind = rng.random()
        path = rng.choice(leaves if kind < 0.55 else everything)
        value = at(document, path)
        if kind < 0.55 and isinstance(value, bool):
            operations.append({"op": "replace", "path": path, "value": not value})
        elif kind < 0.55:
            new: Any = value * rng.choice((0.5, 1.1, 0.9, 2.0, -1.0))
            operations.append({"op": "replace", "path": path, "value": int(new) if isinstance(value, int) else new})
        elif kind < 0.65:
            operations.append({"op": "replace", "path": path, "value": rng.choice(HOSTILE)})
        elif kind < 0.75:
            operations.append({"op": "remove", "path": path})
        elif kind < 0.85:
            operations.append({"op": "copy", "from": path, "path": rng.choice(everything)})
        elif kind < 0.92:
            operations.append({"op": "move", "from": path, "path": rng.choice(everything)})
        else:
            operations.append(
                {"op": "add", "path": path + rng.choice(("", "/-", "/0", "/x")), "value": copy.deepcopy(value)}
            )
    return operations


def edits(server: Server, count: int, rng: random.Random) -> Counter[str]:
    """Made-up edits, each drawn and taken back."""
    told: Counter[str] = Counter()
    shots = [each["id"] for each in server.ask("GET", "/api/shots")[1]["shots"]]
    files, store = ShotFiles(store=server.data / "files"), DerivedStore()
    for number in range(count):
        shot = rng.choice(shots)
        _, before = server.ask("GET", f"/api/shots/{shot}")
        patch = made_up(before["document"], rng)
        headers = {"If-Match": f'"{before["revision"]}"', "Texallon-Window": "campaign0"}
        status, answer = server.ask(
            "PATCH", f"/api/shots/{shot}", json.dumps({"patch": patch, "label": "c"}).encode(), headers
        )
        if status >= 500:
            told["broke"] += 1
            print(f"edit {number} of shot {shot} gave {status}: {json.dumps(patch)[:300]}")
            continue
        if status != 200:
            told["refused"] += 1
            continue
        told["saved"] += 1
        try:
            context = FrameGraph(resolve(read_shot(answer["document"])), files, store).context(16, 9)
            Film(16, 9, len(context.lights.names)).add_sample(context)
            told["drawn"] += 1
        except (DocumentError, MeshError, FileNotFoundError) as error:
            told["told why not"] += 1
            del error
        if answer["revision"] == before["revision"]:
            continue
        status, back = server.ask("POST", f"/api/shots/{shot}/undo?anyway=true", b"{}", headers)
        if status != 200 or back["document"] != before["document"]:
            told["not taken back"] += 1
            print(f"edit {number} of shot {shot} was not taken back ({status}): {json.dumps(patch)[:300]}")
    return told


def messages(server: Server, count: int, rng: random.Random) -> Counter[str]:
    """Nonsense over live connections, then a window that means well."""
    told: Counter[str] = Counter()
    shots = [each["id"] for each in server.ask("GET", "/api/shots")[1]["shots"]]
    kinds = ["view", "preview", "camera", "read", "budget", "here", "open", ""]
    names = [
        "serial",
        "width",
        "height",
        "show",
        "bench",
        "frame",
        "patch",
        "move",
        "across",
        "down",
        "bytes",
        "place",
        "viewing",
    ]
    known = {
        "width": 64,
        "height": 36,
        "move": "orbit",
        "patch": [],
        "show": {"kind": "picture"},
        "bench": {"look": "", "recipe": ""},
    }
    live = None
    for number in range(count):
        if live is None or number % 200 == 0:
            if live is not None:
                live.close()
            live = websocket.create_connection(
                f"ws://127.0.0.1:{server.port}/api/live/{rng.choice(shots)}", origin=server.address, timeout=60
            )
        message = {"do": rng.choice(kinds)}
        for name in rng.sample(names, rng.randrange(5)):
            message[name] = known.get(name, 1) if rng.random() < 0.5 else rng.choice(HOSTILE)
        text = json.dumps(message) if rng.random() < 0.95 else rng.choice(("", "{", "[" * 1000, "null", "NaN"))
        live.send(text)
        told["sent"] += 1
    if live is not None:
        live.close()
    status = server.ask("GET", "/api/status")[1]
    told["ends of the render process"] += status["restarts"]
    live = websocket.create_connection(
        f"ws://127.0.0.1:{server.port}/api/live/{shots[0]}", origin=server.address, timeout=120
    )
    live.send(json.dumps({"do": "view", "width": 64, "height": 36, "serial": 1}))
    while not isinstance(live.recv(), bytes):
        pass
    told["picture for a window that means well"] += 1
    live.close()
    return told


def kills(server: Server, count: int, rng: random.Random) -> Counter[str]:
    """Kill the render process and the database again and again while four writers edit; look for what was confirmed."""
    told: Counter[str] = Counter()
    shots = [each["id"] for each in server.ask("GET", "/api/shots")[1]["shots"]][:4]
    stop = threading.Event()
    confirmed: dict[int, list[tuple[int, str]]] = {shot: [] for shot in shots}

    def write(shot: int) -> None:
        number = 0
        while not stop.is_set():
            number += 1
            title = f"writer {shot} edit {number}"
            try:
                status, held = server.ask("GET", f"/api/shots/{shot}")
                if status != 200:
                    continue
                patch = {"patch": [{"op": "replace", "path": "/title", "value": title}]}
                status, answer = server.ask("PATCH", f"/api/shots/{shot}", patch, {"If-Match": f'"{held["revision"]}"'})
            except (OSError, ValueError):
                continue
            if status == 200:
                confirmed[shot].append((answer["revision"], title))

    writers = [threading.Thread(target=write, args=(shot,)) for shot in shots]
    for each in writers:
        each.start()
    for number in range(count):
        time.sleep(rng.uniform(0.3, 1.5))
        if number % 2:
            victim = server.ask("GET", "/api/status")[1]["engine"]
        else:
            victim = int((server.data / "postgres" / "cluster" / "postmaster.pid").read_text().split("\n")[0])
        if victim:
            os.kill(victim, signal.SIGKILL)
            told["kills"] += 1
        server.until(lambda: bool(server.ask("GET", "/api/status")[1]["ready"]), 120)
    stop.set()
    for each in writers:
        each.join()
    for shot in shots:
        kept = {each["number"] for each in server.ask("GET", f"/api/shots/{shot}/revisions")[1]["revisions"]}
        newest = server.ask("GET", f"/api/shots/{shot}")[1]
        told["confirmed edits"] += len(confirmed[shot])
        if confirmed[shot] and newest["revision"] < confirmed[shot][-1][0]:
            told["lost"] += 1
        told["lost"] += sum(number not in kept for number, _ in confirmed[shot][-100:])
    return told


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--hours", type=float, default=0.0, help="Go on for so long; once through unless given.")
    parser.add_argument("--short", action="store_true")
    parser.add_argument(
        "--sizes", type=int, nargs=3, metavar=("EDITS", "MESSAGES", "KILLS"), default=(2000, 25_000, 40)
    )
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--port", type=int, default=8477)
    chosen = parser.parse_args()
    sizes = (60, 400, 4) if chosen.short else tuple(chosen.sizes)
    begun, total = time.monotonic(), Counter[str]()
    server = Server(chosen.port)
    try:
        round_number = 0
        while round_number == 0 or time.monotonic() - begun < 3600 * chosen.hours:
            rng = random.Random(chosen.seed + round_number)
            for what, size in zip((edits, messages, kills), sizes, strict=True):
                started = time.monotonic()
                found = what(server, size, rng)
                total += found
                shown = ", ".join(f"{count} {name}" for name, count in found.items())
                print(f"{what.__name__} ({time.monotonic() - started:.0f} s): {shown}", flush=True)
            round_number += 1
    finally:
        server.stop()
    bad = total["broke"] + total["not taken back"] + total["lost"]
    print("nothing broke and nothing is lost" if not bad else f"{bad} things broke")
    raise SystemExit(1 if bad else 0)


if __name__ == "__main__":
    main()
