"""Stories of volumes: the air is filled, looked at on a cut, read, thinned by a file of voxels, and flown through."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Bench

pytestmark = pytest.mark.browser

COUNT_PICTURES = """() => {
  window.pictures = 0;
  const canvas = document.querySelector('canvas[data-stage]');
  new MutationObserver(() => (window.pictures += 1)).observe(canvas, { attributeFilter: ['data-serial'] });
}"""


def air_of(bench: Bench) -> str:
    """Fill the air with a look of its own; gives what it is called."""
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_label("what fills the air").select_option("new mist")
    bench.saved(2)
    return str(bench.document()["atmosphere"]["look"])


def test_the_air_is_filled_and_says_what_it_costs(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    bench.full()
    before = bench.pixels()
    page.get_by_role("button", name="scene").click()
    name = air_of(bench)
    look = next(each for each in bench.document()["looks"] if each["name"] == name)
    assert look["domain"] == "volume"
    page.get_by_text("sampling", exact=True).click()
    detail = page.get_by_role("spinbutton", name="volume detail", exact=True)
    expect(detail).to_be_attached(timeout=30_000)
    expect(
        page.get_by_text(re.compile(r"cells 3\.0 pixels wide in finals, 6\.0 here · [\d,]+ bricks"))
    ).to_be_attached()
    bench.full()
    assert np.abs(bench.pixels() - before).mean() > 1, "mist is seen"
    page.get_by_label("cells of air as voxels").select_option("32")
    page.get_by_role("button", name="write file, air as voxels").click()
    expect(page.get_by_role("link", name="volume.vdb")).to_be_visible(timeout=60_000)
    page.get_by_role("switch", name="atmosphere on").click()
    bench.saved(3)
    expect(detail).to_have_count(0, timeout=30_000)


def test_a_place_in_the_air_is_read_and_a_mask_is_shown_on_a_cut(bench: Bench) -> None:
    page = bench.page
    name = air_of(bench)
    page.keyboard.press("Escape")
    page.get_by_label("look", exact=True).select_option(name)
    cell = page.get_by_role("region", name="look sheet").get_by_role("button", name=re.compile("density$")).first
    cell.click()
    page.keyboard.press("a")
    bench.showing("step")
    cut = page.get_by_role("slider", name="cut, near to far")
    serial = bench.canvas.get_attribute("data-serial")
    cut.fill("0.05")
    expect(bench.canvas).not_to_have_attribute("data-serial", serial or "", timeout=20_000)
    serial = bench.canvas.get_attribute("data-serial")
    seen = page.get_by_role("button", name="as seen", exact=True)
    seen.click()
    expect(seen).to_have_attribute("aria-pressed", "true")
    expect(bench.canvas).not_to_have_attribute("data-serial", serial or "", timeout=20_000)
    box = bench.canvas.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.6)
    expect(page.get_by_text(re.compile(f"air.*{name}|{name}.*air")).first).to_be_visible(timeout=20_000)


def test_a_file_of_voxels_is_brought_in_and_used(bench: Bench, tmp_path: Path) -> None:
    page = bench.page
    np.savez(tmp_path / "plume.npz", density=np.ones((4, 6, 5), np.float32), heat=np.zeros((2, 2, 2), np.float32))
    page.get_by_role("button", name="source ▾").click()
    page.get_by_role("searchbox").fill("vdb")
    page.keyboard.press("Enter")
    bench.saved(2)
    with page.expect_file_chooser() as opened:
        page.get_by_label("file", exact=True).select_option("bring in")
    opened.value.set_files(tmp_path / "plume.npz")
    bench.saved(3)
    step = bench.wet()["where"]["steps"][0]
    assert step["op"] == "voxels"
    assert step["params"]["file"]["file"].startswith("voxels/plume-")
    page.get_by_label("grid", exact=True).select_option("heat")
    bench.saved(4)
    assert bench.wet()["where"]["steps"][0]["params"]["grid"] == "heat"


def test_pictures_are_seen_while_the_camera_flies_through_a_cloud(bench: Bench) -> None:
    page = bench.page
    bench.browse("GH190", "Midwinter Glasshouse")
    expect(bench.canvas).to_have_attribute("data-stage", re.compile("coarse|half|full"), timeout=60_000)
    page.keyboard.press("Escape")
    page.evaluate(COUNT_PICTURES)
    box = bench.canvas.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    # Moves come faster than pictures, as from a hand; until three were seen, each of a state while it went on.
    for at in range(2000):
        page.mouse.move(x + 100 * np.sin(at / 30), y + 30 * np.cos(at / 30))
        if page.evaluate("window.pictures") >= 3:
            break
    seen = page.evaluate("window.pictures")
    page.mouse.up()
    assert seen >= 3
