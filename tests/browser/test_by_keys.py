"""From nothing to a lit, dressed shot with no pointer at all; and the same page on a screen that is magnified."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Locator, expect

from tests.browser.conftest import Bench
from tests.conftest import Server

pytestmark = pytest.mark.browser


class Keys:
    """A person without a pointer: what is used must be reachable by Tab."""

    def __init__(self, bench: Bench) -> None:
        self.bench, self.page = bench, bench.page

    def at(self, thing: Locator) -> None:
        expect(thing).to_be_visible()
        thing.focus()
        expect(thing).to_be_focused()
        assert thing.evaluate("each => each.tabIndex") >= 0, "Tab never comes here"

    def press(self, thing: Locator, key: str = "Enter") -> None:
        self.at(thing)
        self.page.keyboard.press(key)

    def type(self, text: str) -> None:
        self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")

    def button(self, name: str, within: Locator | None = None) -> None:
        self.press((within or self.page).get_by_role("button", name=name, exact=True))

    def menu(self, trigger: Locator, item: str) -> None:
        self.press(trigger)
        self.page.wait_for_function("() => document.activeElement?.closest('[role=menu]')")
        for _ in range(24):
            focused = self.page.evaluate("document.activeElement.textContent.trim()")
            if focused.startswith(item):
                break
            self.page.keyboard.press("ArrowDown")
        assert focused.startswith(item)
        self.page.keyboard.press("Enter")

    def number(self, name: str, text: str) -> None:
        self.press(self.page.get_by_role("spinbutton", name=name))
        self.type(text)

    def choose(self, name: str, text: str) -> None:
        self.at(self.page.get_by_role("combobox", name=name, exact=True))
        self.page.keyboard.type(text)


def test_an_empty_project_becomes_a_lit_and_dressed_shot(bench: Bench) -> None:
    page, keys = bench.page, Keys(bench)
    page.keyboard.press("o")
    keys.button("+ new project")
    keys.at(page.get_by_label("name of the new project"))
    page.keyboard.type("Keyed jars")
    keys.button("with the starter set", page.get_by_role("group", name="new project"))
    expect(page.get_by_role("dialog", name="projects and shots")).to_be_hidden()
    expect(page.get_by_text("Keyed jars", exact=True)).to_be_visible()
    bench.shot = bench.opened
    expect(bench.canvas).to_have_attribute("data-shot", str(bench.shot), timeout=60_000)

    page.keyboard.press("e")
    keys.button("+ body")
    keys.button("capsule", page.get_by_role("group", name="bodies to add"))
    bench.saved(2)
    keys.press(page.get_by_role("button", name="capsule", exact=True), "F2")
    keys.type("jar")
    bench.saved(3)
    keys.number("place of jar, x", "40 cm")
    bench.saved(4)
    keys.press(page.get_by_role("slider", name="move jar along y"), "ArrowUp")
    bench.saved(5)
    jar = bench.document()["objects"][-1]
    assert jar["name"] == "jar" and jar["position"][0] == 0.4 and jar["position"][1] != 0
    keys.button("+ locator")
    bench.saved(6)

    trigger = page.get_by_role("button", name="what to do with the look")
    keys.menu(trigger, "new look")
    bench.saved(7)
    keys.menu(trigger, "rename")
    expect(page.locator("input.naming")).to_be_focused()
    keys.type("rime")
    bench.saved(8)
    keys.menu(trigger, "new named")
    bench.saved(9)

    # A mask of the look's layer, from a source and a step.
    keys.press(page.get_by_role("group", name="layer base").get_by_role("button", name="base", exact=True))
    keys.button("Begin a mask")
    keys.type("height")
    bench.saved(10)
    keys.button("add a step")
    keys.type("remap")
    bench.saved(11)
    keys.press(page.get_by_role("slider", name="from end"), "ArrowLeft")
    bench.saved(12)
    assert [each["op"] for each in bench.document()["looks"][-1]["layers"][0]["where"]["steps"]] == ["height", "remap"]

    first = bench.document()["looks"][0]["name"]
    keys.choose("look", first)
    keys.menu(page.get_by_role("button", name="+ layer"), "rime")
    bench.saved(13)
    assert bench.document()["looks"][0]["layers"][-1]["look"]["look"] == "rime"
    keys.choose("look of jar", "rime")
    bench.saved(14)
    assert bench.document()["objects"][-1]["look"] == "rime"

    page.keyboard.press("Control+z")
    bench.saved(15)
    assert bench.document()["objects"][-1]["look"] == first
    keys.menu(trigger, "review")
    sheet = page.get_by_role("dialog", name="review sheet")
    keys.button("make it", sheet)
    keys.button("stop", sheet)
    page.keyboard.press("Escape")
    expect(sheet).to_be_hidden()

    keys.press(page.get_by_role("button", name="history 0"))
    keys.button("Keep this picture")
    expect(page.get_by_label("name of the snapshot")).to_be_focused(timeout=60_000)
    keys.type("first jar")
    expect(page.get_by_role("button", name="rename the snapshot first jar")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("o")
    keys.at(page.get_by_role("navigation").get_by_role("link", name="pack"))
    with page.expect_download():
        page.keyboard.press("Enter")


@pytest.fixture
def magnified(browser: Browser, server: Server, fresh_shot: int) -> Iterator[Bench]:
    """1280 × 800 at 150 %: the page is 853 × 533."""
    context = browser.new_context(viewport={"width": 853, "height": 533}, device_scale_factor=1.5)
    made = Bench(context.new_page(), server, fresh_shot)
    yield made
    assert made.errors == []
    context.close()


def test_at_150_percent_everything_is_in_reach(magnified: Bench) -> None:
    bench = magnified
    page = bench.page
    bench.full()
    page.get_by_role("switch", name="wet on or off").click()
    bench.saved(2)
    page.get_by_role("button", name="wet", exact=True).click()
    for name in ("from start", "from end"):
        page.get_by_role("slider", name=name, exact=True).scroll_into_view_if_needed()
    bench.drag(page.get_by_role("slider", name="from end", exact=True).locator("circle"), -8)
    bench.saved(3)
    page.get_by_role("button", name="add a step").click()
    page.get_by_placeholder("which step?").fill("ease")
    page.keyboard.press("Enter")
    bench.saved(4)
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name="lantern", exact=True).click()
    page.get_by_role("button", name="+ lamp").click()
    bench.saved(5)
    page.get_by_role("button", name="history 0").click()
    page.get_by_role("button", name="Keep this picture").click()
    expect(page.get_by_label("name of the snapshot")).to_be_focused(timeout=60_000)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="undo").click()
    bench.saved(6)
    wide = page.evaluate("document.documentElement.scrollWidth")
    assert wide <= 853, "nothing is pushed off to the side"
    # Every control of the bar lies within the window.
    for control in page.locator("header").first.get_by_role("button").all():
        box = control.bounding_box()
        assert box is None or (box["x"] >= 0 and box["x"] + box["width"] <= 853.5), control.inner_text()
