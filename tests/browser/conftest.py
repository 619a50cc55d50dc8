"""What the browser's tests share: the page, spoken of as a person would."""

import re
from collections.abc import Callable, Iterator
from io import BytesIO
from typing import Any

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

from tests.conftest import Server

FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
FULL = re.compile("^full$")

# Five seconds, as it is otherwise, go by now and then on a loaded machine before a page has read its shot.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield opened
        opened.close()


class Bench:
    """The page, spoken of as a person would."""

    def __init__(self, page: Page, server: Server, shot: int) -> None:
        self.page, self.server, self.shot = page, server, shot
        self.foreign: list[str] = []
        self.errors: list[str] = []
        page.on("request", self._note)
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.goto(f"{server.address}/?shot={shot}")
        expect(self.canvas).to_have_attribute("data-stage", re.compile("."), timeout=60_000)

    def _note(self, request: Any) -> None:
        if not request.url.startswith((self.server.address, f"ws://127.0.0.1:{self.server.port}", "data:", "blob:")):
            self.foreign.append(request.url)

    @property
    def canvas(self) -> Locator:
        return self.page.locator("canvas")

    def full(self) -> None:
        expect(self.canvas).to_have_attribute("data-stage", FULL, timeout=60_000)

    def newer(self, does: Callable[[], object]) -> None:
        """Do something, and wait for a full picture that has taken it in."""
        serial = self.canvas.get_attribute("data-serial") or ""
        does()
        expect(self.canvas).not_to_have_attribute("data-serial", serial, timeout=60_000)
        self.full()

    def showing(self, kind: str) -> None:
        expect(self.canvas).to_have_attribute("data-show", kind, timeout=30_000)

    def saved(self, revision: int) -> None:
        status = self.page.get_by_title(f"revision {revision}", exact=True)
        expect(status).to_have_text("saved", timeout=30_000)
        expect(self.canvas).to_have_attribute("data-revision", str(revision), timeout=30_000)

    @property
    def opened(self) -> int:
        """The number of the shot that lies open."""
        return int(self.page.locator("[data-shot-id]").get_attribute("data-shot-id") or 0)

    def browse(self, name: str, project: str = "") -> None:
        """Open another shot, of this project or another, as a person does: by the list of projects and shots."""
        before = str(self.opened)
        self.page.locator("[data-shot-id]").click()
        browser = self.page.get_by_role("dialog", name="projects and shots")
        if project:
            browser.get_by_role("navigation").get_by_role("button", name=project).first.click()
        browser.get_by_role("button", name=re.compile(f"^open {name}( |$)")).click()
        expect(browser).to_be_hidden()
        expect(self.page.locator("[data-shot-id]")).not_to_have_attribute("data-shot-id", before)

    def document(self) -> Any:
        return self.server.ask("GET", f"/api/shots/{self.shot}").json["document"]

    def wet(self) -> Any:
        return next(layer for layer in self.document()["looks"][0]["layers"] if layer["name"] == "wet")

    def pixels(self) -> np.ndarray:
        """What the stage shows, as grey levels."""
        return np.asarray(Image.open(BytesIO(self.canvas.screenshot())).convert("L")).astype(int)

    def drag(self, thing: Locator, right: float, down: float = 0, steps: int = 6) -> None:
        box = thing.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + right, y + down, steps=steps)
        self.page.mouse.up()


@pytest.fixture
def bench(browser: Browser, server: Server, fresh_shot: int) -> Iterator[Bench]:
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    made = Bench(context.new_page(), server, fresh_shot)
    yield made
    assert made.foreign == [], "the page asks no other host"
    assert made.errors == []
    context.close()
