"""Looks from the shelf, parameters that vary from point to point, and things dropped onto what is below, in the page."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Bench
from tests.browser.test_own_film import new_project, opened_in

pytestmark = pytest.mark.browser


def test_a_look_comes_from_the_shelf_goes_there_and_is_told_when_there_is_a_newer_one(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("k")
    shelf = page.get_by_role("dialog", name="shelf of looks")
    expect(shelf.get_by_label("find a look")).to_be_focused()
    page.keyboard.type("metal polished")
    expect(shelf.get_by_role("listitem")).to_have_count(1)
    shelf.get_by_role("button", name="take a copy of brass").click()
    expect(shelf).to_be_hidden()
    bench.saved(2)
    assert bench.document()["looks"][-1]["name"] == "brass"
    expect(page.get_by_role("combobox", name="look", exact=True)).to_have_value("brass")
    page.keyboard.press("k")
    shelf.get_by_role("button", name="put “brass” here").click()
    expect(shelf.get_by_role("button", name="that name ships")).to_be_disabled()
    shelf.get_by_label("name").fill("gate brass")
    shelf.get_by_label("tags").fill("door, gate")
    shelf.get_by_role("button", name="put here", exact=True).click()
    shelf.get_by_label("find a look").fill("gate")
    shelf.get_by_role("button", name="linked: take gate brass").click()
    bench.saved(3)
    assert bench.document()["looks"][-1]["shelf"] == {"name": "gate brass", "version": 1}
    page.keyboard.press("k")
    shelf.get_by_role("button", name="put “gate brass” here").click()
    shelf.get_by_label("name").fill("gate brass")
    shelf.get_by_role("button", name="put here as version 2").click()
    expect(page.get_by_text("version 2;")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="a newer one is on the shelf").click()
    bench.saved(4)
    assert bench.document()["looks"][-1]["shelf"]["version"] == 2
    expect(page.get_by_role("button", name="a newer one is on the shelf")).to_be_hidden()


def test_a_number_is_made_to_vary_and_its_recipe_opened(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("what stands for from start").select_option("recipe:")
    bench.saved(2)
    expect(page.locator(".sentence")).to_contain_text("remap from start is noise")
    made = bench.wet()["where"]["steps"][1]["params"]["from_start"]
    assert made["steps"][0]["op"] == "noise"
    page.get_by_role("button", name="‹ back").click()
    expect(page.locator(".sentence").get_by_role("button", name="nested recipe")).to_be_visible()
    expect(page.get_by_text("+1 step", exact=True)).to_be_visible()
    page.get_by_label("kind of from start").select_option("signal:splash noise")
    bench.saved(3)
    assert bench.wet()["where"]["steps"][1]["params"]["from_start"] == {"signal": "splash noise"}
    page.get_by_label("kind of from start").select_option("number")
    bench.saved(4)
    assert isinstance(bench.wet()["where"]["steps"][1]["params"]["from_start"], int | float)


def test_the_picker_and_the_sheet_of_ops_show_pictures_and_know_artists_words(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("?")
    page.get_by_role("button", name="every op, channel and rule").click()
    sheet = page.get_by_role("dialog", name="ops, channels and rules")
    page.keyboard.type("voronoi")
    expect(sheet.get_by_role("heading", name=re.compile("^cellular"))).to_be_visible()
    picture = sheet.get_by_role("img", name="what cellular does")
    expect(picture).to_have_js_property("naturalWidth", 96)
    sheet.get_by_label("find in all of them").fill("velvet")
    expect(sheet.get_by_role("heading", name=re.compile("channel, finish")).first).to_be_visible()
    page.keyboard.press("Escape")
    expect(sheet).to_be_hidden()


def test_a_thing_is_lifted_and_dropped_again(bench: Bench) -> None:
    page = bench.page
    new_project(page, "Dropped things", "starter")
    opened_in(bench, "Dropped things")
    page.keyboard.press("e")
    page.get_by_role("region", name="the set").get_by_role("button", name="test body", exact=True).click()
    page.locator("[data-gizmo='test body']").wait_for()
    page.get_by_label("move test body along y").focus()
    for revision in range(2, 6):
        page.keyboard.press("ArrowUp")
        bench.saved(revision)
    assert bench.document()["objects"][0]["position"][1] == pytest.approx(0.2, abs=1e-3)
    page.get_by_role("button", name="drop", exact=True).click()
    bench.saved(6)
    assert bench.document()["objects"][0]["position"][1] == pytest.approx(0.0, abs=1e-3)
    page.get_by_label("axes of the handles").select_option("surface")
    expect(page.get_by_label("move test body along y")).to_be_visible()


def test_the_surroundings_turn_by_the_keys_of_their_sphere(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    sphere = page.get_by_label("turn the surroundings about any axis")
    sphere.focus()
    page.keyboard.press("ArrowDown")
    bench.saved(2)
    assert any(abs(each) > 3 for each in bench.document()["environment"]["tilt"])
    page.keyboard.press("Home")
    bench.saved(3)
    assert bench.document()["environment"]["tilt"] == [0, 0, 0]
