"""Kills while four writers edit: no confirmed edit may be missing."""

import os
import random
import signal
import threading
import time
from collections import Counter

from bench.campaign.server import Server


def kills(server: Server, count: int, rng: random.Random) -> Counter[str]:
    """Kill the render process, the database and the whole server again and again while four writers edit; look for what was confirmed."""
    told: Counter[str] = Counter()
    shots = server.shots()[:4]
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
        if number % 3 == 2:
            server.kill_and_start()
            told["kills of the server"] += 1
        else:
            if number % 3:
                victim, what = server.read("/api/status")["engine"], "the render process"
            else:
                pid = server.data / "postgres" / "cluster" / "postmaster.pid"
                victim, what = int(pid.read_text().split("\n")[0]), "the database"
            if victim:
                os.kill(victim, signal.SIGKILL)
                told[f"kills of {what}"] += 1
        server.until(lambda: bool(server.read("/api/status")["ready"]), 120)
    stop.set()
    for each in writers:
        each.join()
    for shot in shots:
        kept = {each["number"] for each in server.read(f"/api/shots/{shot}/revisions")["revisions"]}
        newest = server.read(f"/api/shots/{shot}")
        told["confirmed edits"] += len(confirmed[shot])
        if confirmed[shot] and newest["revision"] < confirmed[shot][-1][0]:
            told["lost"] += 1
        told["lost"] += sum(number not in kept for number, _ in confirmed[shot][-100:])
    return told
