"""Take the pictures of docs/screenshots again: `python -m tools.screenshots`, with the demo served on port 8460."""

import re
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
ADDRESS = "http://127.0.0.1:8460/?shot=1"
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"]
FINE = re.compile(r"^(8|9|[1-9]\d|\d{3})$")


def settled(page: Page, revision: int) -> None:
    canvas = page.locator("canvas")
    expect(canvas).to_have_attribute("data-revision", str(revision), timeout=60_000)
    expect(canvas).to_have_attribute("data-stage", "full", timeout=60_000)
    expect(canvas).to_have_attribute("data-samples", FINE, timeout=180_000)


def pictured(page: Page) -> None:
    """Wait for all pictures that are in sight."""
    page.wait_for_function(
        "() => [...document.images].filter((each) => each.getBoundingClientRect().top < innerHeight)"
        ".every((each) => each.complete && each.naturalWidth > 0)",
        timeout=120_000,
    )


def go_to(page: Page, name: str) -> None:
    """Open another shot in a fresh page, so that nothing of the one before is taken for it."""
    shots = page.request.get(ADDRESS.split("?")[0] + "api/shots").json()["shots"]
    page.goto(ADDRESS.split("?")[0] + f"?shot={next(each['id'] for each in shots if each['name'] == name)}")
    settled(page, 1)


def lanes(page: Page) -> None:
    """The camera's way through the cloud, with a key and its slopes."""
    go_to(page, "GH190")
    page.get_by_role("button", name="lanes 6").click()
    page.get_by_role("button", name="key of camera · target · x at frame 33", exact=True).click()
    expect(page.locator(".kept")).to_have_count(2, timeout=60_000)
    settled(page, 1)


def ordered(page: Page, keep: Callable[[str], None]) -> None:
    """Frames ordered of two shots, and the queue while some are under way."""
    panel = page.get_by_role("dialog", name="save pictures")
    for shot, frames in (("GH250", "1-10"), ("GH240", "1-12/2, 48")):
        go_to(page, shot)
        few = [{"op": "add", "path": "/sampling", "value": {"samples": 12}}]
        number = page.url.rpartition("=")[2]
        url, given = f"{ADDRESS.split('?')[0]}api/shots/{number}", {"patch": few, "label": "few samples"}
        page.request.patch(url, data=given, headers={"If-Match": '"1"'})
        expect(page.locator("canvas")).to_have_attribute("data-revision", "2", timeout=60_000)
        page.get_by_title("save pictures").click()
        panel.get_by_label("size of the pictures").select_option(index=2)
        panel.get_by_label("frames, such as 1-24, 3,9,12 or 1-24/2").fill(frames)
        if shot == "GH250":
            panel.get_by_role("button", name="how long would these take?").click()
            expect(panel.get_by_text("of memory")).to_be_visible(timeout=300_000)
            keep("saving")
        panel.get_by_role("button", name="render these").click()
    panel.get_by_role("button", name="all orders: the queue").click()
    queue = page.get_by_role("dialog", name="queue of frames")
    older = queue.get_by_role("listitem").filter(has_text="frames 1-10").first
    expect(older.get_by_text(re.compile(r"^[5-9] of 10"))).to_be_visible(timeout=600_000)
    older.get_by_role("button", name="frame 3: done").click()
    expect(older.get_by_role("group", name="frame 3 of order")).to_be_visible()
    pictured(page)
    keep("queue")


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})

        def keep(name: str) -> None:
            page.screenshot(path=FOLDER / f"{name}.png")

        page.goto(ADDRESS)
        page.get_by_role("region", name="first visit").get_by_role("button", name="leave").click()
        settled(page, 1)
        keep("bench")
        page.locator("canvas").click(position={"x": 420, "y": 222}, force=True)
        expect(page.get_by_role("region", name="reading")).to_be_visible(timeout=20_000)
        keep("reading")
        page.keyboard.press("Escape")
        page.keyboard.press("a")
        page.keyboard.press("s")
        expect(page.locator("canvas[data-show=mask]")).to_have_attribute("data-samples", "8", timeout=60_000)
        keep("mask-alone")
        page.keyboard.press("s")
        page.keyboard.press("s")
        page.get_by_role("button", name="signals").click()
        page.get_by_label("uses of waterline wetness").click()
        expect(page.get_by_role("button", name="GH070 · wet edge · wet · where")).to_be_visible()
        keep("signals")
        page.keyboard.press("Escape")
        page.keyboard.press("a")
        expect(page.locator("canvas")).to_have_attribute("data-show", "picture", timeout=60_000)
        settled(page, 1)
        page.get_by_role("button", name="history").click()
        page.get_by_role("button", name="Keep this picture").click()
        expect(page.get_by_label("name of the snapshot")).to_be_focused(timeout=60_000)
        page.keyboard.type("wet rim")
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="rename the snapshot wet rim")).to_be_visible()
        page.get_by_role("switch", name="wet on or off").click()
        expect(page.get_by_role("switch", name="wet on or off")).to_have_attribute("aria-checked", "false")
        expect(page.locator("canvas")).to_have_attribute("data-stage", "coarse", timeout=60_000)
        settled(page, 2)
        page.get_by_role("button", name="history").click()
        page.get_by_role("button", name="compare", exact=True).first.click()
        page.keyboard.press("Escape")
        keep("compare")
        page.get_by_role("button", name="history").click()
        page.get_by_role("tab", name="all changes").click()
        page.get_by_role("button", name="wet · on on → off").click()
        keep("history")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="end comparing").click()
        page.keyboard.press("Control+z")
        settled(page, 3)  # the picture of before is kept, so no coarse one comes first
        page.get_by_role("button", name="scene").click()
        page.locator(".panel").get_by_role("button", name="basin", exact=True).click()
        page.locator("[data-gizmo=basin]").wait_for()
        settled(page, 3)
        keep("scene")
        page.keyboard.press("k")
        page.get_by_role("button", name="take a copy of brass").wait_for()
        pictured(page)
        keep("shelf")
        page.keyboard.press("Escape")
        page.keyboard.press("?")
        page.get_by_role("button", name="every op, channel and rule").click()
        page.get_by_text("A value stored on the geometry").wait_for()
        pictured(page)
        keep("reference")
        page.keyboard.press("Escape")
        page.keyboard.press("o")
        page.get_by_role("button", name="open GH250").locator("img").wait_for(timeout=900_000)
        keep("shots")
        page.keyboard.press("Escape")
        go_to(page, "GH100")
        page.get_by_text("light groups", exact=True).click()
        page.get_by_label("weight of light group night").scroll_into_view_if_needed()
        keep("light-groups")
        page.keyboard.press("Escape")
        lanes(page)
        keep("lanes")
        go_to(page, "GH170")
        skin = page.get_by_role("button", name="skin", exact=True)
        if not skin.is_visible():  # the scene's panel is as it was left
            page.keyboard.press("e")
        skin.click()
        keep("copies")
        ordered(page, keep)
        browser.close()


if __name__ == "__main__":
    main()
