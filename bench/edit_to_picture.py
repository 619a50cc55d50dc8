"""From an edit to the changed picture, in a real browser: `python -m bench.edit_to_picture`.

Starts a server of its own, opens the page with a 640×360 stage, and drags the range's handle step by step with the mouse.
Each step is timed inside the page, from the input event to the frame on which the first picture that holds the edit is
shown; a move waits for the picture of the one before. The bare kernel time is that of the same work without server,
process or browser: the recipe's last two steps over the same points, and one coarse sample of the picture.
"""

import json
import os
import tempfile
import time
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, sync_playwright

from bench.served import FLAGS, served
from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.core.signal.planner import Planner
from texallon.demo.write import write_demo
from texallon.formats.shot_files import ShotFiles

EDITS = 40

WATCH = """() => {
  window.timings = []; window.asked = 0;
  const canvas = document.querySelector('canvas');
  addEventListener('pointermove', (event) => {
    if (!event.buttons || window.asked) return;
    window.asked = performance.now(); window.serial = Number(canvas.dataset.serial);
  }, true);
  new MutationObserver(() => {
    if (!window.asked || Number(canvas.dataset.serial) <= window.serial) return;
    const since = window.asked;
    requestAnimationFrame(() => {
      window.timings.push(performance.now() - since); window.asked = 0; window.tell?.();
    });
  }).observe(canvas, { attributes: true, attributeFilter: ['data-serial'] });
}"""


TIMED = """(number) => window.timings.length > number ? null : new Promise((done) => {
  window.tell = done; setTimeout(done, 10000);
})"""
"""Waits for a step's picture in the page: asking for it over and over would take processor time from what is measured."""


def measure(page: Page, show: str) -> np.ndarray:
    canvas = page.locator("canvas")
    if show != (canvas.get_attribute("data-show") or ""):
        page.keyboard.press("a")
    page.wait_for_selector(f"canvas[data-show={show}][data-stage=full]", timeout=60_000)
    box = page.locator("[data-handle=from_start] circle").bounding_box()
    assert box is not None
    x, y = box["x"] + 5, box["y"] + 5
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate(WATCH)
    for number in range(EDITS):
        page.mouse.move(x - 1 - (number % 20), y)
        page.evaluate(TIMED, number)
    timings = np.array(page.evaluate("() => window.timings"))
    page.mouse.move(x, y)
    page.mouse.up()
    return timings


RATE = """() => new Promise((done) => {
  const canvas = document.querySelector('canvas');
  let pictures = 0;
  const watch = new MutationObserver(() => pictures++);
  watch.observe(canvas, { attributes: true, attributeFilter: ['data-serial'] });
  const begun = performance.now();
  setTimeout(() => { watch.disconnect(); done(pictures / (performance.now() - begun) * 1000); }, 4000);
})"""


def rate(page: Page) -> float:
    """Pictures a second that the mask view shows while the handle is dragged without a pause."""
    if page.locator("canvas").get_attribute("data-show") != "mask":
        page.keyboard.press("a")
    page.wait_for_selector("canvas[data-show=mask][data-stage=full]", timeout=60_000)
    box = page.locator("[data-handle=from_start] circle").bounding_box()
    assert box is not None
    x, y = box["x"] + 5, box["y"] + 5
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate(f"() => {{ window.rate = ({RATE})(); }}")
    until = time.monotonic() + 4.1
    number = 0
    while time.monotonic() < until:
        number += 1
        page.mouse.move(x - 1 - abs(number % 60 - 30), y)
    found = float(page.evaluate("() => window.rate"))
    page.mouse.up()
    return found


def bare(folder: Path) -> tuple[float, float]:
    """Milliseconds of the kernels alone: a mask's edited steps, and a coarse picture without denoising."""
    shot = resolve(read_shot(json.loads((folder / "GH010.json").read_text())))
    graph = FrameGraph(shot, ShotFiles(root=folder))
    points = graph.gbuffer(640, 360)
    recipe = shot.looks[0].layers[1].where
    assert recipe is not None
    masks, pictures = [], []
    with ThreadPoolExecutor(os.cpu_count() or 2) as pool:
        for number in range(12):
            step = recipe.steps[1].model_copy(
                update={"params": {**recipe.steps[1].params, "from_start": 0.3 - number * 0.01}}
            )
            planner = Planner(shot)
            edited = recipe.model_copy(update={"steps": [recipe.steps[0], step, recipe.steps[2]]})
            planner.want("value", planner.recipe(edited, ("x",))[-1])
            plan = planner.plan()
            a = time.perf_counter()
            points.batch(0).values(plan, pool)
            b = time.perf_counter()
            film = Film(160, 90)
            film.add_sample(graph.context(160, 90), pool, graph.store)
            masks.append(b - a)
            pictures.append(time.perf_counter() - b)
    return float(np.median(masks[2:]) * 1e3), float(np.median(pictures[2:]) * 1e3)


def peak_memory() -> dict[str, float]:
    """Most memory used so far, in MB, by each of the server's processes."""
    found = {}
    for status in Path("/proc").glob("[0-9]*/status"):
        try:
            command = (status.parent / "cmdline").read_bytes().replace(b"\0", b" ").decode()
            lines = dict(line.split(":", 1) for line in status.read_text().splitlines() if ":" in line)
        except (OSError, ValueError):
            continue
        for name, word in (("server", "texallon.api.run"), ("renderer", "texallon.engine")):
            if word in command and "VmHWM" in lines:
                found[name] = max(found.get(name, 0.0), int(lines["VmHWM"].split()[0]) / 1000)
    return found


def measure_group(page: Page, address: str) -> np.ndarray:
    """Milliseconds from weighing a light group anew to the picture that shows it, on the shot with light groups."""
    with urllib.request.urlopen(f"{address}/api/shots") as answer:
        shots = json.load(answer)["shots"]
    shot = next(each["id"] for each in shots if each["name"] == "GH100")
    page.goto(f"{address}/?shot={shot}")
    page.wait_for_selector("canvas[data-stage=full]", timeout=120_000)
    page.get_by_role("button", name="scene").click()
    number = page.get_by_role("spinbutton", name="weight of light group night", exact=True)
    if not number.is_visible():  # its part of the panel is folded
        page.get_by_text("light groups", exact=True).click()
    number.scroll_into_view_if_needed()
    box = number.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate(WATCH)
    for step in range(EDITS):
        page.mouse.move(x + 4 + 2 * (step % 20), y)
        page.evaluate(TIMED, step)
    timings = np.array(page.evaluate("() => window.timings"))
    page.mouse.up()
    return timings


def main() -> None:
    with served() as server:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            # The stage takes six tenths of the width and 57 % of the height below the bar.
            page = browser.new_page(viewport={"width": 1110, "height": 672})
            page.goto(server.address)
            page.wait_for_selector("canvas[data-stage]", timeout=60_000)
            first = time.perf_counter() - server.started
            stage = page.locator("canvas").bounding_box()
            assert stage is not None
            page.wait_for_selector("[data-handle=from_start]")
            results = {show: measure(page, show) for show in ("mask", "picture")}
            pictures = rate(page)
            mix_light_groups = measure_group(page, server.address)
            browser.close()
        memory, answering = peak_memory(), server.answering
    with tempfile.TemporaryDirectory() as folder:
        write_demo(Path(folder) / "demo")
        found = bare(Path(folder) / "demo")
    kernels = dict(zip(("mask", "picture"), found, strict=True))
    print(f"stage {stage['width']:.0f}×{stage['height']:.0f}")
    print(
        f"start on a set-up machine: answers after {answering:.1f} s, first picture after {first:.1f} s (with the browser's start)"
    )
    for show, times in results.items():
        median, late = np.median(times), np.quantile(times, 0.95)
        print(
            f"{show:<8} median {median:4.0f} ms   95th percentile {late:4.0f} ms   of {len(times)} edits"
            f"   kernels alone {kernels[show]:5.1f} ms   ratio {median / kernels[show]:4.1f}"
        )
    print(
        f"light group median {np.median(mix_light_groups):4.0f} ms   95th percentile {np.quantile(mix_light_groups, 0.95):4.0f} ms   of {len(mix_light_groups)}"
    )
    print(f"dragging without a pause: {pictures:.0f} pictures a second of the mask alone")
    print("peak memory: " + ", ".join(f"{name} {size:.0f} MB" for name, size in memory.items()))


if __name__ == "__main__":
    main()
