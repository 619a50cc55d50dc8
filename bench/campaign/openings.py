"""The page opened and closed again and again: the memory of the server and of its render process stays level."""

import random
import subprocess
from collections import Counter
from pathlib import Path

from bench.campaign.server import Server

SETTLED = 0.25
"""Share of the openings after which memory is first looked at: pools and caches have filled by then."""

MORE = 60_000_000
"""Bytes that may be more at the end: what is derived is kept up to its budget, and the shots differ."""


def resident(process: int) -> int:
    """Bytes of a process and of those that it has started."""
    total = int(Path(f"/proc/{process}/statm").read_text().split()[1]) * 4096
    children = Path(f"/proc/{process}/task/{process}/children").read_text().split()
    return total + sum(resident(int(child)) for child in children)


def web_server(server: Server) -> int:
    """The number of the web server's process."""
    found = subprocess.run(
        ["pgrep", "-P", str(server.process.pid), "-f", "texallon.api.run"], capture_output=True, text=True, check=True
    )
    return int(found.stdout.split()[0])


def openings(server: Server, count: int, rng: random.Random) -> Counter[str]:
    """Open the page on one shot, wait for its picture, and close it, so many times."""
    from playwright.sync_api import sync_playwright

    told: Counter[str] = Counter()
    shot = server.shots()[0]
    process = web_server(server)
    settled = 0
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        for number in range(count):
            page = browser.new_page(viewport={"width": 640, "height": 400})
            page.goto(f"{server.address}/?shot={shot}")
            page.get_by_label("shot", exact=True).wait_for()
            page.wait_for_function("document.querySelector('canvas')?.width > 0", timeout=60_000)
            page.close()
            told["openings"] += 1
            if number == int(SETTLED * count):
                settled = resident(process)
        browser.close()
    grown = resident(process) - settled
    print(f"memory of the server and its render process: {settled / 1e6:.0f} MB, then {grown / 1e6:+.0f} MB")
    if grown > MORE:
        told["broke"] += 1
        print("memory has grown")
    return told
