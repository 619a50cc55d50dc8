"""What is refused is said where it is, with what would make it right; and what is used often is found first."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Bench

pytestmark = pytest.mark.browser


def steps(bench: Bench) -> list[str]:
    return [each["op"] for each in bench.wet()["where"]["steps"]]


def test_a_colour_where_a_number_is_wanted_is_mended_by_one_click(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="wet", exact=True).click()
    before = steps(bench)
    for revision, op in ((2, "ramp"), (3, "ramp")):
        page.get_by_role("button", name="add a step").click()
        page.get_by_placeholder("which step?").fill(op)
        page.keyboard.press("Enter")
        bench.saved(revision)
    assert steps(bench) == [*before, "ramp", "ramp"]
    page.get_by_role("button", name="numbers ▸ colours").first.click()
    refused = page.get_by_role("alert").filter(has_text="takes a number, and a colour comes in")
    expect(refused).to_be_visible()
    expect(page.locator(".bx--toast-notification")).to_have_count(0)
    refused.get_by_role("button", name="use its luminance").click()
    bench.saved(4)
    assert steps(bench) == [*before, "ramp", "luminance", "ramp"]
    expect(refused).to_have_count(0)
    page.get_by_role("button", name="take luminance away").click()
    refused.get_by_role("button", name="take ramp away").click()
    mask = page.get_by_role("alert").filter(has_text="a mask is a number, and this recipe gives a colour")
    mask.get_by_role("button", name="use its luminance").click()
    bench.saved(5)
    assert steps(bench) == [*before, "ramp", "luminance"]


def test_favourites_and_what_was_used_last_stand_first_in_the_picker(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="wet", exact=True).click()
    page.get_by_role("button", name="add a step").click()
    page.get_by_role("dialog", name="choose an op").get_by_label("favourite: contrast").click()
    page.get_by_placeholder("which step?").fill("ease")
    page.keyboard.press("Enter")
    bench.saved(2)
    page.get_by_role("button", name="add a step").click()
    first = page.get_by_role("dialog", name="choose an op").get_by_role("listitem")
    assert [each.strip() for each in first.all_inner_texts()[:3:2]] == ["favourites", "used last"]
    page.keyboard.press("Enter")
    bench.saved(3)
    assert steps(bench)[-1] == "contrast"
