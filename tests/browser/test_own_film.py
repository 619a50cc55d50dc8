"""A film of one's own in the page: from an empty project to a dressed shot, packed and brought in again."""

import re
from pathlib import Path

import numpy as np
import pytest
import trimesh
from playwright.sync_api import Page, expect

from tests.browser.conftest import Bench
from tests.conftest import Server

pytestmark = pytest.mark.browser


def new_project(page: Page, name: str, start: str) -> None:
    page.keyboard.press("o")
    page.get_by_role("button", name="+ new project").click()
    page.get_by_label("name of the new project").fill(name)
    page.get_by_role("group", name="new project").get_by_role("button", name=start).click()
    expect(page.get_by_role("dialog", name="projects and shots")).to_be_hidden()


def opened_in(bench: Bench, project: str) -> None:
    """Wait for the first shot of a project, which the bench then speaks of."""
    expect(bench.page.get_by_text(project, exact=True)).to_be_visible()
    bench.shot = bench.opened
    expect(bench.canvas).to_have_attribute("data-shot", str(bench.shot), timeout=60_000)


def three_meshes(folder: Path) -> list[Path]:
    paths = []
    for name, place in (("pot", -0.6), ("bowl", 0.0), ("lid", 0.6)):
        ball = trimesh.creation.icosphere(3, 0.25)
        ball.apply_translation([place, 0.25, 0])
        paths.append(folder / f"{name}.ply")
        ball.export(paths[-1])
    return paths


def test_an_empty_project_becomes_a_dressed_shot_that_is_packed_and_brought_in_again(
    bench: Bench, server: Server, tmp_path: Path
) -> None:
    page = bench.page
    new_project(page, "Snow jars", "empty")
    opened_in(bench, "Snow jars")
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_text("bring in meshes").click()
    page.locator("input[type=file][accept*='.glb']").set_input_files(three_meshes(tmp_path))
    page.get_by_role("button", name="Bring in").click()
    report = page.get_by_role("dialog", name="What came in with pot, bowl, lid")
    expect(report.get_by_text("pot: 1,280 triangles, 642 points")).to_be_visible(timeout=60_000)
    page.keyboard.press("Escape")
    bench.saved(2)
    made = bench.document()["objects"]
    assert [each["name"] for each in made] == ["pot", "bowl", "lid"]
    assert all(each["position"] == [0, 0, 0] for each in made), "they keep their places"

    page.get_by_label("what to do with the look grey").click()
    page.get_by_role("menuitem", name="new look").click()
    bench.saved(3)
    page.get_by_label("what to do with the look look").click()
    page.get_by_role("menuitem", name="rename").click()
    page.keyboard.type("frost")
    page.keyboard.press("Enter")
    bench.saved(4)
    page.get_by_label("look", exact=True).select_option("grey")
    page.get_by_role("button", name="+ layer").click()
    page.get_by_role("menuitem", name="frost").click()
    bench.saved(5)
    grey = bench.document()["looks"][0]["layers"]
    assert grey[1]["name"] == "frost" and grey[1]["look"]["look"] == "frost"
    # What it puts there is seen in the sheet; its name leads to it.
    expect(page.get_by_role("group", name="layer frost").locator("img").first).to_be_visible(timeout=20_000)
    page.get_by_role("button", name="look frost", exact=True).click()
    expect(page.get_by_label("look", exact=True)).to_have_value("frost")
    page.get_by_label("what to do with the look frost").click()
    expect(page.get_by_text("grey · frost, as a layer")).to_be_visible()
    page.keyboard.press("Escape")

    the_set.get_by_role("button", name="+ locator by a click in the picture").click()
    expect(page.get_by_text("click where the locator is to stand")).to_be_visible()
    bench.full()
    box = bench.canvas.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.62)
    bench.saved(6)
    locator = bench.document()["locators"][0]
    assert np.linalg.norm(locator["position"]) < 1.5

    with page.expect_download() as waiting:
        page.keyboard.press("o")
        page.get_by_role("navigation").get_by_role("link", name="pack").click()
    pack = tmp_path / "jars.zip"
    waiting.value.save_as(pack)
    page.get_by_label("bring in a pack").set_input_files(pack)
    expect(page.get_by_text("Snow jars 2", exact=True)).to_be_visible(timeout=60_000)
    expect(page.locator("[data-shot-id]")).not_to_have_attribute("data-shot-id", str(bench.shot))
    again = server.ask("GET", f"/api/shots/{bench.opened}").json["document"]
    before = bench.document()
    assert again["looks"] == before["looks"] and again["locators"] == before["locators"]
    assert [each["geometry"]["sha256"] for each in again["objects"]] == [
        each["geometry"]["sha256"] for each in before["objects"]
    ]


def test_shots_are_found_by_typing_made_copied_put_away_and_brought_back_by_keys(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("o")
    browser = page.get_by_role("dialog", name="projects and shots")
    expect(browser.get_by_label("find a shot by name or title")).to_be_focused()
    page.keyboard.type("thaw")
    expect(browser.get_by_text("1 of 1")).to_be_visible()
    page.keyboard.press("ArrowDown")
    expect(browser.get_by_role("button", name="open GH010")).to_be_focused()
    page.keyboard.press("F2")
    page.keyboard.type("GH011")
    page.keyboard.press("Enter")
    expect(browser.get_by_role("button", name="open GH011")).to_be_visible()
    browser.get_by_role("button", name="copy GH011").press("Enter")
    expect(browser).to_be_hidden()
    expect(page.locator("[data-shot-id]")).not_to_have_attribute("data-shot-id", str(bench.shot))
    page.keyboard.press("o")
    browser.get_by_role("button", name="put GH011 2 into the bin").press("Enter")
    expect(browser.get_by_text("1 of 1")).to_be_visible()
    browser.get_by_role("button", name="bin (1)").press("Enter")
    browser.get_by_role("button", name="delete …").press("Enter")
    asked = page.get_by_role("dialog", name=re.compile("Delete “GH011 2” for good"))
    expect(asked.get_by_role("button", name="delete for good")).to_be_disabled()
    asked.get_by_label("name").fill("GH011 2")
    asked.get_by_role("button", name="delete for good").press("Enter")
    expect(browser.get_by_role("button", name="bin (1)")).to_be_hidden()
    page.keyboard.press("Escape")
    expect(browser).to_be_hidden()


def test_history_says_what_changed_shows_it_and_goes_back(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("switch", name="wet on or off").click()
    bench.saved(2)
    page.get_by_role("button", name="history 0").click()
    panel = page.get_by_role("dialog", name="history")
    panel.get_by_role("tab", name="all changes").click()
    row = panel.get_by_role("button", name="wet · on on → off")
    expect(row).to_be_visible()
    panel.get_by_role("button", name="revision 1").click()
    panel.get_by_role("button", name="look at it").click()
    expect(panel.get_by_text("You are looking at revision 1")).to_be_visible()
    expect(page.get_by_role("switch", name="wet on or off")).to_have_attribute("aria-checked", "true")
    assert bench.wet()["on"] is False, "nothing is changed"
    panel.get_by_role("button", name="go back to it").click()
    bench.saved(3)
    assert bench.wet()["on"] is True


def test_things_are_moved_turned_and_scaled_in_the_picture(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    page.get_by_role("region", name="the set").get_by_role("button", name="basin", exact=True).click()
    bench.full()
    basin = lambda: bench.document()["objects"][0]  # noqa: E731
    up = page.get_by_role("slider", name="move basin along y")
    bench.drag(up.locator("circle"), 0, -40)
    bench.saved(2)
    place = basin()["position"]
    assert place[1] > 0.1 and place[0] == place[2] == 0, "only along its axis"
    page.keyboard.press("t")
    page.get_by_role("slider", name="turn basin about y").press("ArrowUp")
    bench.saved(3)
    assert basin()["rotation"] == [0, 5, 0]
    page.keyboard.press("l")
    page.get_by_role("slider", name="scale basin along y").press("ArrowUp")
    bench.saved(4)
    assert basin()["stretch"] == [1, 1.05, 1]
    page.get_by_role("switch", name="lock basin").click()
    bench.saved(5)
    expect(page.get_by_role("group", name="handles of basin").get_by_text("locked")).to_be_visible()
    page.keyboard.press("Control+z")
    bench.saved(6)
    page.keyboard.press("Control+z")
    bench.saved(7)
    assert basin()["stretch"] == [1, 1, 1], "each gesture is one step back"


def test_a_lamp_is_placed_by_where_its_highlight_is_seen(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name="lantern", exact=True).click()
    page.get_by_role("button", name="place by its highlight").click()
    expect(page.get_by_text("click where the highlight should be seen")).to_be_visible()
    bench.full()
    before = bench.document()["lights"][0]
    box = bench.canvas.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * 0.3, box["y"] + box["height"] * 0.8)
    bench.saved(2)
    lamp = bench.document()["lights"][0]
    assert lamp["target"] != before["target"] and lamp["position"] != before["position"]
    # As far from what was clicked as it was, and on the side of the floor that is seen.
    distance = np.linalg.norm(np.subtract(lamp["position"], lamp["target"]))
    assert distance == pytest.approx(np.linalg.norm(np.subtract(before["position"], lamp["target"])), rel=0.01)
    assert lamp["position"][1] > lamp["target"][1]


def test_numbers_take_units_and_sums_and_refuse_nonsense_in_place(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    page.get_by_role("region", name="the set").get_by_role("button", name="basin", exact=True).click()
    for number, (text, value) in enumerate([("35 cm", 0.35), ("1/4", 0.25), ("2 * 0.05 m", 0.1)], start=2):
        page.get_by_role("spinbutton", name="place of basin, x").press("Enter")
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        bench.saved(number)
        assert bench.document()["objects"][0]["position"][0] == value
    page.get_by_role("spinbutton", name="place of basin, x").press("Enter")
    page.keyboard.type("abc")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").get_by_text("“abc” is no number")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("spinbutton", name="place of basin, x")).to_have_text(re.compile("0.1"))
    assert bench.document()["objects"][0]["position"][0] == 0.1


def test_the_screen_is_divided_as_one_likes_and_stays_so(bench: Bench) -> None:
    page = bench.page
    height = lambda: bench.canvas.bounding_box()["height"]  # type: ignore[index]  # noqa: E731
    before = height()
    border = page.get_by_role("separator", name="height of the recipe")
    bench.drag(border, 0, -60)
    page.wait_for_function("before => document.querySelector('canvas').clientHeight < before - 30", arg=before)
    border.press("ArrowDown")
    lower = height()
    page.reload()
    bench.full()
    assert abs(height() - lower) < 3
    page.get_by_role("separator", name="height of the recipe").dblclick()
    page.wait_for_function("before => Math.abs(document.querySelector('canvas').clientHeight - before) < 3", arg=before)


def test_the_review_sheet_is_begun_watched_and_stopped(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("what to do with the look basin stone").click()
    page.get_by_role("menuitem", name="review sheet").click()
    sheet = page.get_by_role("dialog", name="review sheet")
    sheet.get_by_role("button", name="make it").click()
    expect(sheet.get_by_text(re.compile("of 15 pictures"))).to_be_visible()
    sheet.get_by_role("button", name="stop").click()
    expect(sheet.get_by_text("Not made: stopped.")).to_be_visible(timeout=20_000)
