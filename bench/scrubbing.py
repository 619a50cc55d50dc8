"""Time under the hand: what histories take, how soon another frame is seen, and how fast frames that were seen play.

    python -m bench.scrubbing

Histories and scrubbing are driven without a browser, as the page drives a window; playing is watched in one.
"""

import json
import tempfile
import time
import urllib.request
from collections import defaultdict
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Page, sync_playwright

from bench.served import FLAGS, served
from tests.engine.driven import Driven
from texallon.cli import load_shot
from texallon.core.derived import Access, DerivedStore
from texallon.core.document import shot_json
from texallon.demo.write import write_demo
from texallon.formats.disk_cache import DiskCache
from texallon.formats.shot_files import ShotFiles

SHOTS = {"GH240": "growth", "GH250": "rings on rain", "GH140": "springs of copies", "GH260": "waves and a boat"}
PLAYED, FRAMES = "GH030", 24

RATE = """() => new Promise((done) => {
  const slider = document.querySelector('[role=slider][aria-label=frame]');
  let frames = 0;
  const watch = new MutationObserver(() => frames++);
  watch.observe(slider, { attributes: true, attributeFilter: ['aria-valuenow'] });
  const begun = performance.now();
  setTimeout(() => { watch.disconnect(); done(frames / (performance.now() - begun) * 1000); }, 6000);
})"""
"""Frames a second that the slider goes through."""


SEEN = """(before) => {
  const { serial, stage } = document.querySelector('canvas').dataset;
  return serial !== before && stage === 'full';
}"""


def first_picture(session: Driven, frame: int) -> float:
    """Seconds until anything is seen of a frame."""
    session.change({"do": "view", "width": 640, "height": 360, "frame": frame})
    session.sent.clear()
    begun = time.perf_counter()
    while not any(head["kind"] == "picture" for head in session.sent):
        session.advance(lambda: False)
    return time.perf_counter() - begun


def scrubbed(folder: Path, files: ShotFiles, name: str, kept: Path) -> None:
    """A shot's histories from nothing, and then its frames in no order."""
    document: dict[str, Any] = shot_json(load_shot(folder / f"{name}.json"))
    store = DerivedStore(disk=DiskCache(kept))
    held: dict[str, int] = defaultdict(int)

    def note(access: Access) -> None:
        if not access.reused and access.kind in ("remembered frames", "crests that fold", "growth"):
            held[access.kind] += access.bytes

    store.listen(note)
    session = Driven(files, store)
    session.change({"do": "document", "document": document, "revision": 1})
    first, last = document["frames"]["first"], document["frames"]["last"]
    history = first_picture(session, last)
    order = np.random.default_rng(0).permutation(np.arange(first, last + 1)).tolist()
    taken = np.array([first_picture(session, frame) for frame in order]) * 1e3
    disk = sum(each.stat().st_size for each in kept.rglob("*") if each.is_file())
    sizes = ", ".join(f"{kind} {size / 1e6:.1f} MB" for kind, size in sorted(held.items()))
    print(
        f"{name}, {SHOTS[name]}: its last frame from nothing {history:.1f} s; any frame then {np.median(taken):.0f} ms, 95th percentile {np.quantile(taken, 0.95):.0f} ms;"
        f" {sizes or 'no history'}; {disk / 1e6:.1f} MB on disk; {store.bytes / 1e6:.0f} of {store.budget / 1e6:.0f} MB kept"
    )


def played(page: Page, address: str) -> None:
    """Frames that were all seen, played."""
    with urllib.request.urlopen(f"{address}/api/shots") as answer:
        shots = json.load(answer)["shots"]
    shot = next(each["id"] for each in shots if each["name"] == PLAYED)
    shorter = {"patch": [{"op": "replace", "path": "/frames/last", "value": FRAMES}], "label": "shorter"}
    page.request.patch(f"{address}/api/shots/{shot}", data=shorter, headers={"If-Match": '"1"'})
    page.goto(f"{address}/?shot={shot}")
    page.wait_for_selector("canvas[data-stage=full]", timeout=120_000)
    slider = page.get_by_role("slider", name="frame")
    slider.focus()
    begun = time.perf_counter()
    for _ in range(FRAMES - 1):
        serial = page.locator("canvas").get_attribute("data-serial")
        slider.press("ArrowRight")
        page.wait_for_function(SEEN, arg=serial, timeout=120_000)
    seeing = (time.perf_counter() - begun) / (FRAMES - 1)
    page.get_by_role("button", name="play", exact=True).click()
    rate = float(page.evaluate(RATE))
    print(
        f"{PLAYED} in the browser: a frame after the other at full size {seeing:.2f} s each; the {FRAMES} that were seen play at {rate:.1f} a second"
    )


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "demo"
        write_demo(folder)
        files = ShotFiles(root=folder)
        for each in SHOTS:
            scrubbed(folder, files, each, Path(name) / f"kept {each}")
    with served() as server, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        played(browser.new_page(viewport={"width": 1110, "height": 672}), server.address)
        browser.close()


if __name__ == "__main__":
    main()
