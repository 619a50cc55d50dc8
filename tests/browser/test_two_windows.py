"""Two windows on one shot, a server that goes away for a while, and late answers: nothing is lost, and nothing is mixed up."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Locator, Route, expect

from tests.browser.conftest import Bench
from tests.browser.test_masks import pick_op
from tests.conftest import World
from texallon.store.data_folder import RESTORED

pytestmark = pytest.mark.browser


@pytest.fixture
def other(bench: Bench) -> Iterator[Bench]:
    made = Bench(bench.page.context.new_page(), bench.server, bench.shot)
    yield made
    assert made.errors == []


def wet(bench: Bench) -> Locator:
    return bench.page.get_by_role("switch", name="wet on or off")


def opacity(bench: Bench) -> Locator:
    return bench.page.get_by_role("spinbutton", name="opacity of stone")


def take_hold(bench: Bench, left: float = 60) -> None:
    """Drag the opacity of stone, and keep it in hand."""
    box = opacity(bench).bounding_box()
    assert box is not None
    bench.page.mouse.move(box["x"] + 5, box["y"] + 5)
    bench.page.mouse.down()
    bench.page.mouse.move(box["x"] + 5 - left, box["y"] + 5, steps=4)
    expect(bench.page.get_by_text("not saved", exact=True)).to_be_visible()


def test_what_two_change_is_put_together_and_each_takes_back_its_own(bench: Bench, other: Bench) -> None:
    wet(bench).click()
    bench.saved(2)
    other.saved(2)
    expect(wet(other)).to_have_attribute("aria-checked", "false")
    expect(other.page.get_by_role("button", name="undo")).to_be_disabled()
    take_hold(other)
    bench.page.get_by_role("switch", name="below water on or off").click()
    bench.saved(3)
    other.page.mouse.up()
    other.saved(4)
    stone = bench.document()["looks"][0]["layers"][0]
    assert stone["opacity"] < 1
    assert bench.wet()["on"] is False
    bench.saved(4)
    bench.page.keyboard.press("Control+z")
    bench.saved(5)
    bench.page.keyboard.press("Control+z")
    bench.saved(6)
    assert bench.wet()["on"] is True
    assert bench.document()["looks"][0]["layers"][0] == stone, "the other's change stays"


def test_what_both_change_is_told_with_both_values_and_one_click_puts_ones_own_back(bench: Bench, other: Bench) -> None:
    take_hold(other, 60)
    take_hold(bench, 20)
    bench.page.mouse.up()
    bench.saved(2)
    theirs = bench.document()["looks"][0]["layers"][0]["opacity"]
    other.page.mouse.up()
    expect(other.page.get_by_text("Somebody has changed the same meanwhile")).to_be_visible()
    expect(other.page.get_by_text(re.compile(r"stone · opacity: yours 0\.\d+, theirs 0\.\d+"))).to_be_visible()
    other.saved(2)
    assert other.document()["looks"][0]["layers"][0]["opacity"] == theirs
    other.page.get_by_role("button", name="put mine back").click()
    other.saved(3)
    assert other.document()["looks"][0]["layers"][0]["opacity"] < theirs
    # Taking back what the other has changed since is asked about.
    bench.saved(3)
    bench.page.keyboard.press("Control+z")
    dialog = bench.page.get_by_role("dialog")
    expect(dialog.get_by_text("Others have changed since")).to_be_visible()
    dialog.get_by_role("button", name="leave it").click()
    assert bench.document()["looks"][0]["layers"][0]["opacity"] < theirs
    bench.page.keyboard.press("Control+z")
    dialog.get_by_role("button", name="do it anyway").click()
    bench.saved(4)
    assert bench.document()["looks"][0]["layers"][0]["opacity"] == 1


def test_who_else_is_here_and_where_is_shown(bench: Bench, other: Bench) -> None:
    expect(bench.page.get_by_role("button", name="1 more here")).to_be_visible()
    other.page.get_by_role("button", name="1 more here").click()
    other.page.get_by_label("your name, for others and for the history").fill("Jürg")
    other.page.keyboard.press("Tab")
    bench.page.get_by_role("button", name="1 more here").click()
    expect(bench.page.get_by_role("dialog", name="people").get_by_text("Jürg")).to_be_visible()
    expect(bench.page.get_by_role("dialog", name="people").get_by_text(re.compile("basin stone"))).to_be_visible()
    other.page.close()
    expect(bench.page.get_by_role("button", name="only you")).to_be_visible()


def test_what_is_changed_while_the_database_is_away_is_kept_and_saved_when_it_is_back(bench: Bench) -> None:
    away = [True]

    def answer(route: Route) -> None:
        if route.request.method == "PATCH" and away[0]:
            route.fulfill(
                status=503, headers={"Retry-After": "1", "Content-Type": "application/problem+json"}, body="{}"
            )
        else:
            route.continue_()

    bench.page.route("**/api/shots/*", answer)
    wet(bench).click()
    expect(bench.page.get_by_text("kept here, not saved yet: the database is being started again")).to_be_visible()
    expect(wet(bench)).to_have_attribute("aria-checked", "false")
    bench.page.get_by_role("switch", name="below water on or off").click()
    expect(wet(bench)).to_have_attribute("aria-checked", "false")
    away[0] = False
    bench.saved(3)
    assert bench.wet()["on"] is False
    assert bench.document()["looks"][0]["layers"][2]["on"] is False


def test_an_answer_that_comes_after_another_shot_was_opened_changes_nothing_there(bench: Bench) -> None:
    page = bench.page
    held: list[Route] = []
    page.route(
        f"**/api/shots/{bench.shot}",
        lambda route: held.append(route) if route.request.method == "PATCH" else route.continue_(),
    )
    wet(bench).click()
    expect(page.get_by_text("saving…")).to_be_visible()
    bench.browse("GH020", "Midwinter Glasshouse")
    elsewhere = str(bench.opened)
    expect(page).to_have_url(re.compile(f"shot={elsewhere}"))
    there = bench.server.ask("GET", f"/api/shots/{elsewhere}").json
    for route in held:
        route.continue_()
    expect(page.get_by_title(f"revision {there['revision']}", exact=True)).to_have_text("saved")
    bench.full()
    expect(bench.canvas).to_have_attribute("data-shot", elsewhere)
    assert str(bench.opened) == elsewhere
    assert bench.wet()["on"] is False, "and what was changed is saved where it was made"
    assert bench.server.ask("GET", f"/api/shots/{elsewhere}").json == there


@pytest.mark.parametrize("leave", ["Tab", "click"])
def test_a_formula_is_saved_however_it_is_left(bench: Bench, leave: str) -> None:
    page = bench.page
    page.get_by_role("button", name="source ▾").click()
    pick_op(bench, "formula")
    bench.saved(2)
    field = page.get_by_role("textbox", name="expression")
    field.click()
    field.fill("position.y * 0.25 + ")
    field.press("End")
    field.type("0.125")
    if leave == "Tab":
        field.press("Tab")
    else:
        page.get_by_role("heading", name="Texallon").click()
    bench.saved(3)
    steps = bench.wet()["where"]["steps"]
    assert any(step["params"].get("expression") == "position.y * 0.25 + 0.125" for step in steps)


def test_a_backup_that_was_brought_back_is_told_and_work_goes_on(bench: Bench, world: World) -> None:
    take_hold(bench)
    (world.data / RESTORED).write_text("a backup")  # as `restore` does when it is done
    expect(bench.page.get_by_text("A backup was brought back")).to_be_visible(timeout=30_000)
    bench.page.mouse.up()
    bench.saved(2)
    assert bench.document()["looks"][0]["layers"][0]["opacity"] < 1, "what was in hand is not lost"
