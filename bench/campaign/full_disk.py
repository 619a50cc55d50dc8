"""A data folder on a small file system that is filled: what can't be kept is refused by name, nothing confirmed is lost, and with room it goes on.

Needs the right to mount (root); is left out without a word of failure where there is none.
"""

import os
import random
import subprocess
import tempfile
from collections import Counter
from pathlib import Path

from bench.campaign.server import Server
from bench.campaign.uploads import form, sound_mesh

SIZE = "700m"


def full_disk(server: Server, count: int, rng: random.Random) -> Counter[str]:
    """Fill and empty such a disk so many times, under edits and uploads. The server of the campaign itself is not touched."""
    told: Counter[str] = Counter()
    place = Path(tempfile.mkdtemp(prefix="texallon-full-"))
    mount = ["mount", "-t", "tmpfs", "-o", f"size={SIZE},mode=755", "tmpfs", str(place)]
    if os.geteuid() != 0 or subprocess.run(mount, capture_output=True, check=False).returncode != 0:
        told["left out: nothing can be mounted here"] += 1
        place.rmdir()
        return told
    small = None
    try:
        small = Server(server.port + 1, place / "data")
        for number in range(count):
            told += _fill_once(small, place / "filler", number, rng)
    finally:
        if small is not None:
            small.stop()
        subprocess.run(["umount", "-l", str(place)], check=False)
        place.rmdir()
    return told


def _fill_once(small: Server, filler: Path, number: int, rng: random.Random) -> Counter[str]:
    told: Counter[str] = Counter()
    shot = rng.choice(small.shots())
    status, held = small.ask("GET", f"/api/shots/{shot}")
    confirmed = held["document"]["title"]
    free = os.statvfs(filler.parent)
    with filler.open("wb") as file:
        # Sometimes to the last byte, sometimes with as much left as the server keeps for itself.
        left = rng.choice((0, 0, 4096, 3_000_000, 19_000_000))
        os.posix_fallocate(file.fileno(), 0, max(free.f_bavail * free.f_frsize - left, 1))
    for attempt in range(30):
        title = f"{number} {attempt} " + "x" * rng.randrange(150)
        patch = {"patch": [{"op": "replace", "path": "/title", "value": title}]}
        try:
            status, answer = small.ask("PATCH", f"/api/shots/{shot}", patch, {"If-Match": f'"{held["revision"]}"'})
        except OSError:
            told["no answer"] += 1
            continue
        if status == 200:
            confirmed, held = title, answer
            told["edits saved"] += 1
        elif status in (503, 507):
            told[f"edits refused with {status}"] += 1
        else:
            told["broke"] += 1
            print(f"on a full disk an edit gave {status}: {str(answer)[:300]}")
        if attempt % 10 == 0:
            body, headers = form("ball.ply", "mesh", sound_mesh("ply") + b"\n" * rng.randrange(40_000_000))
            status, answer = small.ask("POST", f"/api/shots/{shot}/mesh", body, headers)
            told[f"uploads answered with {status}"] += 1
            if status == 500:
                told["broke"] += 1
                print(f"on a full disk an upload gave 500: {str(answer)[:300]}")
    if not small.ask("GET", "/api/status")[1]["disk"]["nearly_full"]:
        told["broke"] += 1
        print("the status did not tell of the full disk")
    filler.unlink()

    def saves() -> bool:
        status, now = small.ask("GET", f"/api/shots/{shot}")
        if status != 200:
            return False
        patch = {"patch": [{"op": "replace", "path": "/title", "value": "room again"}]}
        if now["document"]["title"] not in (confirmed, "room again"):
            told["lost"] += 1
            print(f"confirmed “{confirmed[:60]}”, found “{now['document']['title'][:60]}”")
        return small.ask("PATCH", f"/api/shots/{shot}", patch, {"If-Match": f'"{now["revision"]}"'})[0] == 200

    small.until(saves, 120)
    told["filled and emptied"] += 1
    return told
