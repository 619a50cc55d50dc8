"""Stories of light: groups weighed anew, skies, saved views, sampling, a part of the picture, a reference beside it."""

import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.conftest import Bench

pytestmark = pytest.mark.browser


def type_number(bench: Bench, label: str, text: str) -> None:
    bench.page.get_by_role("spinbutton", name=label, exact=True).click()
    bench.page.get_by_role("textbox", name=label, exact=True).fill(text)
    bench.page.keyboard.press("Enter")


def test_a_light_group_is_made_named_and_weighed_anew(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_text("light groups", exact=True).click()
    page.get_by_role("button", name="+ light group").click()
    bench.saved(2)
    page.get_by_role("button", name="lantern", exact=True).click()
    page.get_by_label("light group of lantern").select_option("group")
    bench.saved(3)
    name = page.get_by_label("name of light group group")
    name.fill("warm")
    name.press("Enter")
    bench.saved(4)
    document = bench.document()
    assert document["lights"][0]["group"] == "warm", "what names the group goes along"
    bench.full()
    page.keyboard.press("Escape")
    before = bench.pixels()
    samples = int(bench.canvas.get_attribute("data-samples") or 0)
    page.get_by_role("switch", name="light group warm on or off").click()
    bench.saved(5)
    assert int(bench.canvas.get_attribute("data-samples") or 0) >= samples, "nothing was rendered anew"
    page.keyboard.press("Escape")
    assert bench.pixels().mean() < before.mean() - 5
    page.get_by_label("take light group warm away").click()
    bench.saved(6)
    assert bench.document()["light_groups"] == []


def test_wetness_is_taken_apart_into_what_it_sets(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("wet, finish", exact=True).click()
    page.get_by_role("button", name="take apart").click()
    bench.saved(2)
    layers = bench.document()["looks"][0]["layers"]
    assert [each["name"] for each in layers] == ["stone", "wet", "film of water", "below water"]
    assert "wetness" not in layers[1]["channels"]
    assert layers[2]["channels"]["coat_ior"]["recipe"]["steps"][0]["params"]["value"] == 1.333
    expect(page.get_by_label("layer film of water", exact=True)).to_be_visible()


def test_the_camera_flies_by_keys(bench: Bench) -> None:
    page = bench.page
    before = bench.document()["camera"]
    page.get_by_label(re.compile("the rendered picture")).focus()
    page.keyboard.press("Alt+ArrowUp")
    bench.saved(2)
    camera = bench.document()["camera"]
    way = np.subtract(before["target"], before["position"])
    moved = np.subtract(camera["position"], before["position"])
    assert np.allclose(moved, np.subtract(camera["target"], before["target"]), atol=1e-4), "both alike"
    assert np.dot(moved, way) / np.linalg.norm(way) ** 2 > 0.03, "ahead"


def test_surroundings_become_a_sky_by_the_suns_height(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_label("kind of surroundings").select_option("sky")
    bench.saved(2)
    type_number(bench, "height of the sun", "-6")
    bench.saved(3)
    assert bench.document()["environment"]["sky"]["sun_height"] == -6
    page.get_by_label("kind of background").select_option("colour")
    bench.saved(4)
    assert bench.document()["backdrop"]["image"] is None
    page.get_by_label("kind of background").select_option("surroundings")
    bench.saved(5)
    assert bench.document()["backdrop"] is None


def test_a_view_is_kept_left_and_come_back_to(bench: Bench) -> None:
    page = bench.page
    start = bench.document()["camera"]
    page.get_by_role("button", name="scene").click()
    page.get_by_label("name of the view to keep").fill("front")
    page.get_by_role("button", name="keep view").click()
    bench.saved(2)
    type_number(bench, "focal length", "80")
    bench.saved(3)
    page.get_by_label("go to view front").click()
    bench.saved(4)
    document = bench.document()
    assert document["camera"] == start == document["views"][0]["camera"]


def test_sampling_stops_where_it_is_told_and_says_so(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_text("sampling", exact=True).click()
    type_number(bench, "sample limit", "2")
    bench.saved(2)
    done = page.get_by_text(re.compile(r"^\d+ samples · .* · done"))
    expect(done).to_be_visible(timeout=60_000)
    # Samples that were taken before the limit came are not thrown away, so it ends at the limit or where it was.
    reached = int(done.inner_text().split()[0])
    assert reached >= 2
    type_number(bench, "sample limit", str(reached + 2))
    bench.saved(3)
    expect(page.get_by_text(re.compile(rf"^{reached + 2} samples · .* · done"))).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="light bounces").click()
    type_number(bench, "diffuse bounces", "0")
    bench.saved(4)
    assert bench.document()["limits"]["diffuse"] == 0


def test_only_a_part_is_worked_on_and_work_rests_when_paused(bench: Bench) -> None:
    page = bench.page
    bench.full()
    page.get_by_role("button", name="only a part").click()
    box = bench.canvas.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] * 0.4, box["y"] + box["height"] * 0.3)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + box["height"] * 0.6, steps=5)
    page.mouse.up()
    expect(page.locator(".region")).to_be_visible()
    assert bench.document()["camera"]["position"], "the camera has not moved"
    expect(page.get_by_title("revision 1", exact=True)).to_have_text("saved")
    bench.full()
    page.get_by_role("button", name="pause").click()
    expect(page.get_by_text(re.compile("paused"))).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="go on").click()
    page.get_by_role("button", name="whole picture").click()
    expect(page.locator(".region")).to_have_count(0)
    bench.full()


def test_a_reference_picture_stands_beside_or_under_the_picture(bench: Bench, tmp_path: Path) -> None:
    page = bench.page
    bench.full()
    wide = np.zeros((40, 80, 3), np.uint8)
    wide[:, :40] = (200, 30, 30)
    Image.fromarray(wide).save(tmp_path / "plate.png")
    page.get_by_role("button", name="history 0").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_label("reference picture", exact=True).select_option("bring in")
    chooser.value.set_files(tmp_path / "plate.png")
    reference = page.get_by_alt_text("reference plate.png")
    expect(reference).to_be_visible(timeout=30_000)
    assert reference.evaluate("(image) => image.naturalWidth") == 80
    page.keyboard.press("Escape")
    page.get_by_label("way of comparing").select_option("beside")
    left = "(canvas) => parseFloat(canvas.style.left)"
    assert bench.canvas.evaluate(left) > 200, "the picture has the right half"
    page.get_by_role("button", name="end comparing").click()
    expect(reference).to_have_count(0)
    assert bench.canvas.evaluate(left) == 0
