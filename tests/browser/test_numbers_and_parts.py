"""Named numbers beyond recipes, and parts that a signal picks."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Bench

pytestmark = pytest.mark.browser


def test_a_lamp_follows_a_number_that_becomes_the_projects_and_goes_again(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("what to do with the look basin stone").click()
    page.get_by_role("menuitem", name="new named number").click()
    bench.saved(2)
    knobs = page.get_by_role("group", name="named numbers")
    knobs.get_by_role("button", name="number", exact=True).click()
    page.get_by_label("what number belongs to").select_option("project")
    bench.saved(3)
    assert bench.document()["numbers"][0] | {"id": ""} == {
        "id": "", "name": "number", "value": 1, "unit": "", "low": None, "high": None, "note": "", "look": None, "project": True,
    }  # fmt: skip
    page.get_by_label("number is dragged to").fill("50")
    page.keyboard.press("Enter")
    bench.saved(4)
    assert bench.document()["numbers"][0]["high"] == 50
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name="lantern", exact=True).click()
    page.get_by_label("what stands for lantern power").select_option("number")
    bench.saved(5)
    lamp = bench.document()["lights"][0]
    assert [(use["at"], use["number"]) for use in bench.document()["number_uses"]] == [
        (f"/lights/{lamp['id']}/power", "number")
    ]
    expect(page.get_by_text("used in 1 place")).to_be_visible()
    factor = page.get_by_role("spinbutton", name="lantern power: factor")
    factor.press("Enter")
    page.keyboard.type("40")
    page.keyboard.press("Enter")
    bench.saved(6)
    knobs.get_by_role("button", name="delete").click()
    bench.saved(7)
    after = bench.document()
    assert after["numbers"] == after["number_uses"] == [] and after["lights"][0]["power"] == 40


def test_a_part_is_where_a_signal_is_high(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name="basin", exact=True).click()
    the_set.get_by_role("button", name="+ part where a signal is high").click()
    bench.saved(2)
    page.get_by_label("signal that picks splash noise").select_option("bowl")
    bench.saved(3)
    page.get_by_label("look of the part splash noise").select_option("still water")
    bench.saved(4)
    part = bench.document()["objects"][0]["parts"][0]
    assert (part["look"], part["picked"]) == ("still water", {"signal": "bowl", "above": 0.5})
    bench.full()
    page.get_by_label("take the part splash noise away").click()
    bench.saved(5)
    assert bench.document()["objects"][0]["parts"] == []
