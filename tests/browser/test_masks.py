"""Building, measuring and sharing masks in a real browser."""

import json
import re
import uuid
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, Route, expect

from tests.browser.conftest import Bench
from tests.conftest import Server, World

pytestmark = pytest.mark.browser


def pick_op(bench: Bench, name: str) -> None:
    menu = bench.page.get_by_role("dialog", name="choose an op")
    menu.get_by_role("searchbox").fill(name)
    bench.page.keyboard.press("Enter")


def click_stage(bench: Bench, across: float, down: float) -> None:
    box = bench.canvas.bounding_box()
    assert box is not None
    bench.page.mouse.click(box["x"] + box["width"] * across, box["y"] + box["height"] * down)


def ops_of(bench: Bench, layer: str = "wet") -> list[str]:
    found = next(each for each in bench.document()["looks"][0]["layers"] if each["name"] == layer)
    return [step["op"] for step in found["where"]["steps"]]


def test_a_click_on_the_stage_gives_a_reading_that_stays_while_editing(bench: Bench) -> None:
    page = bench.page
    click_stage(bench, 0.5, 0.6)
    reading = page.get_by_role("region", name="reading")
    expect(reading).to_contain_text("basin · basin stone")
    expect(reading.get_by_role("button", name=re.compile("^height"))).to_have_count(2)
    expect(page.locator("[data-pin]")).to_be_visible()
    before = reading.inner_text()
    page.get_by_role("switch", name="wet on or off").click()
    bench.saved(2)
    expect(reading).to_contain_text("wet (off)")
    assert reading.inner_text() != before
    reading.get_by_role("button", name=re.compile("^wetness =")).first.click()
    expect(page.locator(".sentence")).to_contain_text("wetness")
    page.keyboard.press("Escape")
    expect(reading).to_have_count(0)
    expect(page.locator("[data-pin]")).to_have_count(0)


def test_the_step_that_decided_is_marked_with_its_reason(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("add a step").click()
    pick_op(bench, "threshold")
    bench.saved(2)
    page.get_by_role("spinbutton", name="level").first.click()
    page.get_by_role("textbox", name="level").first.fill("3")
    page.keyboard.press("Enter")
    bench.saved(3)
    click_stage(bench, 0.5, 0.6)
    expect(page.get_by_role("region", name="reading")).to_contain_text(re.compile(r"threshold made this 0: [\d.]+ < 3"))
    advice = page.get_by_role("complementary", name="advice")
    expect(advice).to_contain_text("The level 3 lies outside what comes in", timeout=20_000)
    advice.get_by_role("button", name="set the level to the mean").click()
    bench.saved(4)
    assert bench.wet()["where"]["steps"][3]["params"]["level"] < 1
    expect(advice).not_to_contain_text("The level 3", timeout=20_000)


def test_values_are_shown_in_false_colour_and_with_iso_lines(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("show height alone").click()
    bench.showing("step")
    scale = page.get_by_role("group", name="scale")
    expect(scale.get_by_alt_text(re.compile("tones from"))).to_be_visible()
    seen = [bench.canvas.screenshot()]
    page.keyboard.press("s")
    expect(scale.get_by_role("button", name="false colour")).to_have_attribute("aria-pressed", "true")
    serial = bench.canvas.get_attribute("data-serial")
    page.keyboard.press("s")
    expect(bench.canvas).not_to_have_attribute("data-serial", serial or "", timeout=20_000)
    expect(scale).to_contain_text("one line per")
    seen.append(bench.canvas.screenshot())
    assert seen[0] != seen[1]


def test_space_is_bent_before_the_source_and_shown_as_a_grid(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("bend space first").click()
    menu = page.get_by_role("dialog", name="choose an op")
    expect(menu.get_by_role("button", name=re.compile("^twirl"))).to_be_visible()
    expect(menu.get_by_role("button", name=re.compile("^remap"))).to_have_count(0)
    pick_op(bench, "twirl")
    bench.saved(2)
    assert ops_of(bench) == ["twirl", "height", "remap", "multiply"]
    page.get_by_label("show twirl alone").click()
    bench.showing("step")
    expect(page.locator("[data-step=twirl]")).to_be_visible()
    expect(page.locator(".sentence")).to_contain_text("twirled by")


def test_steps_are_reordered_by_dragging_and_only_where_they_fit(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("reorder multiply").drag_to(page.get_by_role("group", name="before step 2"))
    bench.saved(2)
    assert ops_of(bench) == ["height", "multiply", "remap"]
    page.get_by_label("reorder remap").press("ArrowLeft")
    bench.saved(3)
    assert ops_of(bench) == ["height", "remap", "multiply"]
    page.get_by_label("reorder remap").drag_to(page.get_by_role("group", name="before step 1"))
    page.get_by_label("reorder remap").press("ArrowLeft")
    page.get_by_role("switch", name="wet on or off").click()
    bench.saved(4)
    assert ops_of(bench) == ["height", "remap", "multiply"], "nothing comes before the source but bent space"


def test_a_step_and_a_whole_recipe_are_copied_to_another(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("copy remap").click()
    page.get_by_label("below water, where").click()
    page.get_by_label("add a step").click()
    page.get_by_role("button", name=re.compile("^paste remap")).click()
    bench.saved(2)
    assert ops_of(bench, "below water") == ["height", "threshold", "multiply", "remap"]
    page.get_by_role("button", name="copy all").click()
    page.get_by_label("stone, where").click()
    page.get_by_role("button", name="Begin a mask").click()
    page.get_by_role("button", name=re.compile("^paste height")).click()
    bench.saved(3)
    assert ops_of(bench, "stone") == ["height", "threshold", "multiply", "remap"]


def test_a_formula_is_tried_while_typing_and_its_error_is_pointed_at(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="source ▾").click()
    pick_op(bench, "formula")
    bench.saved(2)
    field = page.get_by_role("textbox", name="expression")
    field.fill("clamp(position.q)")
    problem = page.get_by_role("alert").filter(has_text="character 16")
    expect(problem).to_contain_text("use .x, .y or .z", timeout=20_000)
    expect(problem.locator("b")).to_have_text("q")
    field.press("Enter")
    assert bench.document()["looks"][0]["layers"][1]["where"]["steps"][0]["params"] == {}, "what is wrong is not saved"
    field.fill("clamp(position.y)")
    expect(problem).to_have_count(0, timeout=20_000)
    field.press("Enter")
    bench.saved(3)
    assert bench.wet()["where"]["steps"][0]["params"]["expression"] == "clamp(position.y)"


def test_a_second_input_gets_a_recipe_of_its_own(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("kind of by").select_option("recipe")
    bench.saved(2)
    page.get_by_role("button", name="edit", exact=True).click()
    expect(page.locator(".sentence")).to_contain_text("multiply by is noise of")
    page.get_by_label("add a step").click()
    pick_op(bench, "remap")
    bench.saved(3)
    assert [each["op"] for each in bench.wet()["where"]["steps"][2]["params"]["by"]["steps"]] == ["noise", "remap"]
    expect(page.get_by_alt_text("values after remap")).to_be_visible(timeout=20_000)
    page.get_by_role("button", name="‹ back").click()
    expect(page.locator(".sentence")).to_contain_text("nested recipe")


def test_a_curve_is_bent_by_dragging_its_points(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("add a step").click()
    pick_op(bench, "curve")
    bench.saved(2)
    bench.drag(page.get_by_role("slider", name="point 2 of the curve"), 0, 20)
    bench.saved(3)
    points = bench.wet()["where"]["steps"][3]["params"]["points"]
    assert points[1][1] < 0.4
    assert [points[0], points[2]] == [[0, 0], [1, 1]]


@pytest.fixture
def project(world: World, demo_folder: Path) -> tuple[int, int]:
    name = f"browser {uuid.uuid4().hex}"
    documents = [json.loads((demo_folder / f"{shot}.json").read_text()) for shot in ("GH010", "GH070")]
    return world.store.add_shot(name, documents[0], ""), world.store.add_shot(name, documents[1], "")


def test_shared_signals_list_their_uses_are_renamed_and_written_out(
    browser: Browser, server: Server, project: tuple[int, int]
) -> None:
    bench = Bench(browser.new_context(viewport={"width": 1280, "height": 800}).new_page(), server, project[0])
    page = bench.page
    page.get_by_role("button", name=re.compile("^signals")).click()
    page.get_by_label("uses of waterline wetness").click()
    expect(page.get_by_role("button", name="GH070 · wet edge · wet · where")).to_be_visible()
    page.get_by_label("rename bowl").click()
    page.get_by_label("the signal's name").fill("hollow")
    page.keyboard.press("Enter")
    bench.saved(2)
    page.get_by_label("take waterline wetness away").click()
    expect(page.get_by_text("It is used in 2 places")).to_be_visible()
    page.get_by_role("button", name="write out and take away").click()
    bench.saved(3)
    other = server.ask("GET", f"/api/shots/{project[1]}").json["document"]
    assert "waterline wetness" not in json.dumps(other)
    assert [signal["name"] for signal in other["signals"]][1] == "hollow"
    page.get_by_label("uses of puddles").click()
    page.keyboard.press("Escape")
    page.context.close()


def test_a_look_chosen_while_the_page_still_loads_stays_open(
    browser: Browser, server: Server, project: tuple[int, int]
) -> None:
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    held: list[Route] = []
    page.route("**/attributes", lambda route: held.append(route))
    Bench(page, server, project[1])
    look = page.get_by_label("look", exact=True)
    look.select_option("pebbles")
    assert held
    for route in held:
        route.continue_()
    page.wait_for_load_state("networkidle")
    expect(look).to_have_value("pebbles")
    page.context.close()


def test_what_stands_in_for_a_signals_locator_is_chosen_where_it_is_used(
    browser: Browser, server: Server, project: tuple[int, int]
) -> None:
    bench = Bench(browser.new_context(viewport={"width": 1280, "height": 800}).new_page(), server, project[1])
    page = bench.page
    page.get_by_label("look", exact=True).select_option("wet edge")
    page.get_by_label("wet, where").click()
    chosen = page.get_by_label("what stands in for waterline")
    expect(chosen).to_have_value("locator:pond level")
    chosen.select_option("object:left pillar")
    bench.saved(2)
    edge = next(look for look in bench.document()["looks"] if look["name"] == "wet edge")
    assert edge["layers"][0]["where"]["steps"][0]["params"]["stand_ins"] == {"waterline": {"object": "left pillar"}}
    page.context.close()


def bring_in(page: Page, path: Path) -> None:
    with page.expect_file_chooser() as opened:
        page.get_by_label("file", exact=True).select_option("bring in")
    opened.value.set_files(path)


def test_a_picture_is_brought_in_and_used(bench: Bench, tmp_path: Path) -> None:
    page = bench.page
    tones = np.random.default_rng(1).integers(0, 255, (16, 16, 3)).astype(np.uint8)
    Image.fromarray(tones).save(tmp_path / "grain.png")
    (tmp_path / "broken.png").write_bytes(b"no picture at all")
    page.get_by_role("button", name="source ▾").click()
    pick_op(bench, "image")
    bench.saved(2)
    bring_in(page, tmp_path / "broken.png")
    expect(page.get_by_text("this is not a PNG file")).to_be_visible(timeout=20_000)
    bring_in(page, tmp_path / "grain.png")
    bench.saved(3)
    step = bench.wet()["where"]["steps"][0]
    assert step["params"]["file"]["file"].startswith("pictures/grain-")
    expect(page.get_by_text("a mask is a number, and this recipe gives a colour")).to_have_count(0)


def test_time_runs_along_the_strip(bench: Bench) -> None:
    page = bench.page
    strip = page.get_by_role("slider", name="frame")
    expect(strip).to_have_attribute("aria-valuenow", "1")
    strip.focus()
    page.keyboard.press("End")
    expect(strip).to_have_attribute("aria-valuenow", "48")
    page.keyboard.press("ArrowLeft")
    expect(strip).to_have_attribute("aria-valuenow", "47")
    serial = bench.canvas.get_attribute("data-serial")
    page.get_by_role("button", name="play", exact=True).click()
    expect(bench.canvas).not_to_have_attribute("data-serial", serial or "", timeout=20_000)
    expect(strip).not_to_have_attribute("aria-valuenow", "47", timeout=20_000)
    page.get_by_role("button", name="stop", exact=True).click()
