"""Every view can be used by everyone: axe-core finds nothing serious (WCAG 2, contrast at least 4.5 among it)."""

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import Bench

pytestmark = pytest.mark.browser
AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
RUN = """async () => (await axe.run(document, {resultTypes: ['violations']})).violations
  .filter((each) => each.impact === 'serious' || each.impact === 'critical')
  .flatMap((each) => each.nodes.map((node) => `${each.id}: ${node.html.slice(0, 160)} ${node.failureSummary ?? ''}`))"""


def faults(page: Page) -> list[str]:
    page.evaluate(AXE.read_text() + ";0")
    found: list[str] = page.evaluate(RUN)
    return found


def test_the_bench_and_a_mask_alone(bench: Bench) -> None:
    assert faults(bench.page) == []
    bench.page.keyboard.press("a")
    bench.showing("mask")
    assert faults(bench.page) == []


@pytest.mark.parametrize("panel", ["history", "signals", "memory", "keys"])
def test_a_panel(bench: Bench, panel: str) -> None:
    page = bench.page
    page.locator("[data-panel-button]").filter(has_text="?" if panel == "keys" else panel).click()
    page.get_by_role("dialog", name=panel).wait_for()
    assert faults(page) == []


def test_the_set_beside_the_stage(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name="basin", exact=True).click()
    page.locator("[data-gizmo=basin]").wait_for()
    for part in ("bring in meshes", "groups", "light groups", "sampling", "this shot"):
        the_set.get_by_text(part, exact=True).click()
    assert faults(page) == []


def test_the_lanes_and_frames_side_by_side(bench: Bench) -> None:
    page = bench.page
    keys = [{"frame": 1, "value": 0.6}, {"frame": 24, "value": 0.9}, {"frame": 48, "value": 0.7}]
    tracks = [{"at": "/camera/position/1", "keys": keys}, {"at": "/camera/position/0", "formula": "0.1 * time"}]
    bench.server.edit(bench.shot, 1, {"op": "replace", "path": "/tracks", "value": tracks})
    page.get_by_role("button", name="lanes 2").click()
    lanes = page.get_by_role("region", name="lanes")
    lanes.get_by_role("button", name="key of camera · position · y at frame 24", exact=True).click()
    lanes.get_by_role("button", name="slope into frame 24 of camera · position · y").wait_for()
    assert faults(page) == []
    page.get_by_role("button", name="three frames side by side").click()
    page.get_by_role("region", name="frames side by side").wait_for()
    assert faults(page) == []


def test_projects_and_shots(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("o")
    page.get_by_role("dialog", name="projects and shots").get_by_role("button", name="open GH010").first.wait_for()
    assert faults(page) == []
    page.get_by_role("button", name="+ new shot").click()
    page.get_by_role("button", name="+ new project").click()
    assert faults(page) == []


def test_the_review_sheet(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("what to do with the look basin stone").click()
    page.get_by_role("menuitem", name="review sheet").click()
    page.get_by_role("dialog", name="review sheet").wait_for()
    assert faults(page) == []


def test_menus(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("add glow to below water").click()
    page.get_by_role("menuitem", name="emission", exact=True).wait_for()
    assert faults(page) == []
    page.keyboard.press("Escape")
    page.get_by_title("insert a step").first.click()
    page.get_by_role("dialog", name="choose an op").wait_for()
    assert faults(page) == []


def test_a_reading(bench: Bench) -> None:
    box = bench.page.locator("canvas").bounding_box()
    assert box is not None
    bench.page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.7)
    bench.page.locator("[data-pin]").wait_for()
    assert faults(bench.page) == []


def test_memory_is_told_and_set(bench: Bench) -> None:
    page = bench.page
    page.locator("[data-panel-button]").filter(has_text="memory").click()
    panel = page.get_by_role("dialog", name="memory")
    panel.get_by_role("cell", name="mesh", exact=True).wait_for()
    number = panel.get_by_role("spinbutton", name="memory for computed values")
    number.click()
    page.keyboard.press("Control+a")
    page.keyboard.type("1500")
    page.keyboard.press("Enter")
    panel.get_by_text("of 1.5 GB").wait_for()


@pytest.mark.parametrize("key", ["k", "?"])
def test_the_shelf_and_the_sheet_of_ops(bench: Bench, key: str) -> None:
    page = bench.page
    page.keyboard.press(key)
    if key == "?":
        page.get_by_role("button", name="every op, channel and rule").click()
        page.get_by_role("dialog", name="ops, channels and rules").get_by_text("parameters, and where").first.click()
    else:
        page.get_by_role("button", name="put “basin stone” here").click()
        page.get_by_role("button", name="take a copy of paper").wait_for()
    assert faults(page) == []


def test_skip_links_lead_past_the_controls(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="the stage")).to_be_focused()
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    assert page.evaluate("document.activeElement.closest('[aria-label=\"look sheet\"]') !== null")


def test_a_lamps_handles_and_the_sphere_of_the_surroundings(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    page.get_by_role("region", name="the set").get_by_role("button", name="lantern", exact=True).click()
    page.get_by_label("what lantern faces").wait_for()
    before = bench.document()["lights"][0]["target"]
    assert faults(page) == []
    page.get_by_label("what lantern faces").focus()
    page.keyboard.press("PageUp")
    bench.saved(2)
    after = bench.document()["lights"][0]["target"]
    assert after[1] == pytest.approx(before[1] + 0.05, abs=1e-3)
