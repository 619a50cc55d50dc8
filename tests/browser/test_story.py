"""The whole story in a real browser, against the real server, engine and database."""

import json
import os
import re
import signal
from pathlib import Path

import numpy as np
import pytest
import trimesh
from playwright.sync_api import Browser, expect

from tests.browser.conftest import Bench
from tests.conftest import Server, World

pytestmark = pytest.mark.browser


def test_the_page_opens_on_the_demo_already_rendering(browser: Browser, server: Server) -> None:
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    opened = Bench(page, server, 1)
    page.goto(server.address)
    expect(page.locator("[data-shot-id]")).to_have_attribute("data-shot-id", "1")
    expect(page.locator(".caption")).to_contain_text("basin at thaw")
    opened.full()
    picture = opened.pixels()
    assert picture.std() > 15, "there is something to see"
    sheet = page.get_by_role("region", name="look sheet")
    assert [row.get_attribute("data-layer") for row in sheet.locator("[data-layer]").all()] == [
        "below water",
        "wet",
        "stone",
    ]
    fonts = page.evaluate(
        "() => [...document.fonts].filter((font) => font.status === 'loaded').map((font) => font.family)"
    )
    assert any("IBM Plex Sans" in font for font in fonts)
    page.context.close()


def test_the_camera_follows_the_hand(bench: Bench) -> None:
    before = bench.document()["camera"]
    stage = bench.page.get_by_role("img", name=re.compile("rendered picture"))
    box = stage.bounding_box()
    assert box is not None
    corner = bench.page.mouse
    corner.move(box["x"] + 60, box["y"] + 300)
    corner.down()
    corner.move(box["x"] + 160, box["y"] + 300, steps=5)
    corner.up()
    bench.saved(2)
    orbited = bench.document()["camera"]
    assert orbited["target"] == before["target"]
    assert orbited["position"] != before["position"]
    bench.page.keyboard.down("Shift")
    corner.down()
    corner.move(box["x"] + 110, box["y"] + 270, steps=5)
    corner.up()
    bench.page.keyboard.up("Shift")
    bench.saved(3)
    assert bench.document()["camera"]["target"] != before["target"]
    corner.wheel(0, -300)
    bench.saved(4)
    near = bench.document()["camera"]
    away = [np.linalg.norm(np.subtract(each["position"], each["target"])) for each in (orbited, near)]
    assert away[1] < away[0]


def test_the_waterline_is_dragged_in_the_picture_and_typed(bench: Bench) -> None:
    before = bench.pixels()
    handle = bench.page.locator("[data-locator=waterline]")
    bench.drag(handle, 0, 40)
    bench.saved(2)
    lower = bench.document()["locators"][0]["position"][1]
    assert 0.5 < lower < 0.8
    assert np.abs(bench.pixels() - before).mean() > 1, "the wet band has followed"
    plate = bench.page.get_by_role("spinbutton", name="waterline y").first
    plate.click()
    bench.page.get_by_role("textbox", name="waterline y").fill("0.9")
    bench.page.keyboard.press("Enter")
    bench.saved(3)
    assert bench.document()["locators"][0]["position"][1] == 0.9


def test_a_range_is_tightened_by_dragging_its_handle_on_the_histogram(bench: Bench) -> None:
    expect(bench.page.get_by_text("wet", exact=True).first).to_be_visible()
    sentence = bench.page.locator(".sentence")
    expect(sentence).to_contain_text("wet lies where the height above")
    expect(sentence).to_contain_text("broken up by splash noise")
    expect(sentence.get_by_role("spinbutton", name="from start")).to_have_text(re.compile("0.35"))
    handle = bench.page.locator("[data-handle=from_start]")
    expect(handle).to_be_visible(timeout=30_000)
    picture = bench.page.get_by_alt_text("values after multiply")
    first = picture.get_attribute("src")
    serial = int(bench.canvas.get_attribute("data-serial") or 0)
    box = handle.locator("circle").bounding_box()
    assert box is not None
    mouse = bench.page.mouse
    mouse.move(box["x"] + 5, box["y"] + 5)
    mouse.down()
    mouse.move(box["x"] - 13, box["y"] + 5, steps=8)
    expect(bench.canvas).not_to_have_attribute("data-serial", str(serial), timeout=20_000)
    expect(bench.page.get_by_text("not saved")).to_be_visible()
    assert bench.wet()["where"]["steps"][1]["params"]["from_start"] == 0.35, "nothing is saved while dragging"
    mouse.up()
    bench.saved(2)
    assert 0.05 < bench.wet()["where"]["steps"][1]["params"]["from_start"] < 0.3
    expect(picture).not_to_have_attribute("src", first or "", timeout=20_000)


def test_layers_are_switched_reordered_weakened_added_and_removed(bench: Bench) -> None:
    page = bench.page
    names = lambda: [layer["name"] for layer in bench.document()["looks"][0]["layers"]]  # noqa: E731
    page.get_by_role("switch", name="wet on or off").click()
    bench.saved(2)
    assert bench.wet()["on"] is False
    page.get_by_role("switch", name="wet on or off").click()
    bench.saved(3)
    stone = page.get_by_role("group", name="layer stone")
    page.get_by_label("reorder below water").drag_to(stone, target_position={"x": 60, "y": 12})
    bench.saved(4)
    assert names() == ["below water", "stone", "wet"]
    bench.drag(page.get_by_role("spinbutton", name="opacity of wet"), -60)
    bench.saved(5)
    assert 0.5 < bench.wet()["opacity"] < 1
    page.get_by_role("button", name="+ layer").click()
    page.get_by_role("menuitem", name="empty layer").click()
    bench.saved(6)
    assert names()[-1] == "new layer"
    page.get_by_label("add glow to new layer").click()
    page.get_by_role("menuitem", name="emission", exact=True).click()
    bench.saved(7)
    assert "emission_luminance" in bench.document()["looks"][0]["layers"][-1]["channels"]
    page.get_by_role("spinbutton", name="value").first.click()
    page.get_by_role("textbox", name="value").first.fill("2.5")
    page.keyboard.press("Enter")
    bench.saved(8)
    page.get_by_label("delete layer new layer").click()
    bench.saved(9)
    assert names() == ["below water", "stone", "wet"]


def test_a_mask_is_begun_from_nothing_and_refined(bench: Bench) -> None:
    page = bench.page
    page.get_by_label("stone, where").click()
    expect(page.get_by_text("lies everywhere")).to_be_visible()
    page.get_by_role("button", name="Begin a mask").click()
    page.get_by_role("dialog", name="choose an op").get_by_role("button", name=re.compile("^noise")).click()
    bench.saved(2)
    page.get_by_label("add a step").click()
    page.get_by_placeholder("which step?").fill("thres")
    page.keyboard.press("Enter")
    bench.saved(3)
    stone = bench.document()["looks"][0]["layers"][0]
    assert [step["op"] for step in stone["where"]["steps"]] == ["noise", "threshold"]
    expect(page.locator("[data-handle=level]")).to_be_visible(timeout=20_000)
    page.get_by_label("take threshold away").click()
    bench.saved(4)


def test_a_range_is_fitted_to_its_data_with_one_click(bench: Bench) -> None:
    bench.page.get_by_role("button", name="fit all", exact=True).click()
    bench.saved(2)
    fitted = bench.wet()["where"]["steps"][1]["params"]
    assert fitted["from_start"] == pytest.approx(0.17, abs=0.02), "the rim, above the waterline"
    assert fitted["from_end"] == pytest.approx(-0.83, abs=0.02), "the foot"


def test_a_number_dragged_away_and_back_leaves_nothing_unsaved(bench: Bench) -> None:
    # Rows grow when their pictures come: what is to be dragged must have come to rest.
    expect(bench.page.get_by_role("img", name="form of stone")).to_be_visible(timeout=30_000)
    box = bench.page.get_by_role("spinbutton", name="opacity of stone").bounding_box()
    assert box is not None
    mouse = bench.page.mouse
    mouse.move(box["x"] + 5, box["y"] + 5)
    mouse.down()
    mouse.move(box["x"] - 60, box["y"] + 5, steps=4)
    expect(bench.page.get_by_text("not saved", exact=True)).to_be_visible()
    mouse.move(box["x"] + 5, box["y"] + 5, steps=4)
    mouse.up()
    bench.saved(1)


def test_a_recipe_is_shared_by_a_name_and_opened_from_where_it_is_used(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="make shared signal").click()
    page.get_by_label("name of the shared signal").fill("rim wetness")
    page.keyboard.press("Enter")
    bench.saved(2)
    document = bench.document()
    assert document["signals"][-1]["name"] == "rim wetness"
    (own,) = bench.wet()["where"]["steps"]
    assert (own["op"], own["on"], own["params"]) == ("signal", True, {"signal": "rim wetness"})
    page.locator(".sentence").get_by_role("button", name="rim wetness").click()
    expect(page.get_by_text("shared: changes")).to_be_visible()
    expect(page.locator(".sentence")).to_contain_text("the height above")
    page.get_by_label("below water, where").click()
    page.get_by_role("button", name="source ▾").click()
    page.get_by_role("dialog", name="choose an op").get_by_role("button", name=re.compile("^gradient")).click()
    bench.saved(3)
    assert bench.document()["looks"][0]["layers"][2]["where"]["steps"][0]["op"] == "gradient"


def test_any_mask_or_channel_is_shown_alone_and_one_key_goes_back(bench: Bench) -> None:
    bench.full()
    page = bench.page
    page.keyboard.press("a")
    bench.showing("mask")
    mask = bench.pixels()
    assert (mask < 30).mean() + (mask > 225).mean() > 0.5, "a mask is mostly black or white"
    page.keyboard.press("a")
    bench.showing("picture")
    page.get_by_label("show height alone").click()
    bench.showing("step")
    page.get_by_role("button", name="wetness 1").click()
    page.get_by_text("show the whole look's").click()
    bench.showing("channel")
    page.keyboard.press("a")
    bench.showing("picture")


def test_undo_and_redo_work_also_after_a_reload(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("switch", name="wet on or off").click()
    bench.saved(2)
    page.get_by_role("switch", name="stone on or off").click()
    bench.saved(3)
    page.reload()
    bench.saved(3)
    page.keyboard.press("Control+z")
    bench.saved(4)
    page.keyboard.press("Control+z")
    bench.saved(5)
    assert bench.wet()["on"] is True
    expect(page.get_by_role("button", name="undo")).to_be_disabled()
    page.keyboard.press("Control+Shift+z")
    bench.saved(6)
    assert bench.wet()["on"] is False


def test_a_snapshot_is_kept_compared_by_a_wipe_and_restored(bench: Bench) -> None:
    page = bench.page
    bench.full()
    page.get_by_role("button", name="history 0").click()
    page.get_by_role("button", name="Keep this picture").click()
    expect(page.get_by_label("name of the snapshot")).to_be_focused()
    page.keyboard.type("wet rim")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="rename the snapshot wet rim")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("switch", name="wet on or off").click()
    bench.saved(2)
    bench.full()
    page.get_by_role("button", name="history 1").click()
    page.get_by_role("button", name="compare", exact=True).click()
    wipe = page.get_by_role("slider", name=re.compile("wipe"))
    bench.drag(wipe, -200)
    snapshot = page.get_by_alt_text("snapshot wet rim")
    share = float(
        re.search(r"inset\(0px ([\d.]+)%", snapshot.evaluate("(image) => getComputedStyle(image).clipPath"))[1]
    )  # type: ignore[index]
    assert 60 < share < 90
    page.get_by_label("way of comparing").select_option("wipe down")
    bench.drag(wipe, 0, -60)
    assert "inset(0px 0px" in str(snapshot.evaluate("(image) => getComputedStyle(image).clipPath"))
    page.get_by_label("way of comparing").select_option("difference")
    expect(page.get_by_label("gain of the difference")).to_be_visible()
    assert snapshot.evaluate("(image) => getComputedStyle(image).mixBlendMode") == "difference"
    page.get_by_label("way of comparing").select_option("flicker")
    expect(snapshot).to_be_hidden()
    expect(snapshot).to_be_visible()
    page.get_by_label("way of comparing").select_option("beside")
    stage = page.get_by_label("stage", exact=True).bounding_box()
    now = bench.canvas.bounding_box()
    handle = page.get_by_role("slider", name=re.compile("^locator waterline")).bounding_box()
    assert stage and now and handle
    assert now["x"] > stage["x"] + stage["width"] * 0.49 and now["width"] < stage["width"] * 0.51
    assert now["x"] < handle["x"] < now["x"] + now["width"], "handles lie over the picture that they belong to"
    page.get_by_label("changes since wet rim").click()
    expect(page.get_by_text("basin stone · wet · on on → off")).to_be_visible()
    page.get_by_role("button", name="restore", exact=True).click()
    bench.saved(3)
    assert bench.wet()["on"] is True
    page.keyboard.press("Escape")
    page.get_by_role("button", name="end comparing").click()
    expect(snapshot).to_have_count(0)


def test_a_mesh_of_ones_own_wears_the_look(bench: Bench, tmp_path: Path) -> None:
    ball = trimesh.creation.icosphere(4, 0.4)
    ball.visual.vertex_colors = np.tile([90, 140, 60, 255], (len(ball.vertices), 1)).astype(np.uint8)
    ball.export(tmp_path / "float.ply")
    (tmp_path / "broken.glb").write_bytes(b"this is no mesh")
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_text("bring in meshes").click()
    page.get_by_label("where the mesh goes").select_option("basin")
    page.locator("input[type=file][accept*='.glb']").set_input_files(tmp_path / "broken.glb")
    page.get_by_role("button", name="Bring in").click()
    expect(page.get_by_text("this is not a GLB file")).to_be_visible(timeout=30_000)
    assert bench.opened == bench.shot
    page.locator("input[type=file][accept*='.glb']").set_input_files(tmp_path / "float.ply")
    page.get_by_role("button", name="Bring in").click()
    report = page.get_by_role("dialog", name="What came in with float.ply")
    expect(report.get_by_text("5,120 triangles, 2,562 points")).to_be_visible(timeout=60_000)
    expect(report.get_by_text("normals, from the faces around each point")).to_be_visible()
    expect(report.get_by_text("the camera looks at it")).to_be_visible()
    page.keyboard.press("Escape")
    expect(report).to_be_hidden()
    assert bench.opened != bench.shot
    bench.full()
    height, width = bench.pixels().shape
    middle = bench.pixels()[height // 3 : 2 * height // 3, width // 3 : 2 * width // 3]
    assert middle.std() > 5, "it is framed"
    page.keyboard.press("a")
    bench.showing("mask")
    assert bench.pixels()[height // 3 : 2 * height // 3, width // 3 : 2 * width // 3].max() > 100, "and wet at its foot"


def test_the_page_recovers_when_the_renderer_dies(bench: Bench) -> None:
    victim = bench.server.ask("GET", "/api/status").json["engine"]
    os.kill(victim, signal.SIGKILL)
    expect(bench.page.get_by_text("The renderer stopped")).to_be_visible(timeout=20_000)
    bench.page.get_by_role("switch", name="wet on or off").click()
    bench.saved(2)
    bench.full()
    assert bench.server.ask("GET", "/api/status").json["engine"] != victim


def test_what_was_made_is_there_tomorrow(bench: Bench, world: World) -> None:
    bench.page.get_by_role("switch", name="below water on or off").click()
    bench.saved(2)
    kept = world.store.current(bench.shot)
    assert kept.document["looks"][0]["layers"][2]["on"] is False
    assert kept.document == bench.document()


def test_lamps_are_shaped_added_and_taken_away(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_role("button", name="lantern", exact=True).click()
    page.get_by_label("shape of lantern").select_option("spot")
    bench.saved(2)
    page.get_by_role("spinbutton", name="lantern cone").click()
    page.get_by_role("textbox", name="lantern cone").fill("25")
    page.keyboard.press("Enter")
    bench.saved(3)
    page.get_by_role("button", name="+ lamp").click()
    bench.saved(4)
    lights = bench.document()["lights"]
    assert (lights[0]["shape"], lights[0]["cone"], lights[1]["shape"]) == ("spot", 25, "sphere")
    page.get_by_label("take away lamp").click()
    bench.saved(5)
    assert len(bench.document()["lights"]) == 1


def test_the_focus_is_put_on_a_point_of_the_picture(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_role("spinbutton", name="f-stop").click()
    page.get_by_role("textbox", name="f-stop").fill("1.4")
    page.keyboard.press("Enter")
    bench.saved(2)
    page.keyboard.press("Escape")
    box = bench.canvas.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.7)
    page.get_by_role("button", name=re.compile("focus here")).click()
    bench.saved(3)
    camera = bench.document()["camera"]
    away = np.linalg.norm(np.subtract(camera["position"], camera["target"]))
    assert abs(camera["focus_distance"] - away) < 1.2


def test_a_body_is_added_measured_named_copied_and_deleted(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_role("button", name="+ body").click()
    page.get_by_role("group", name="bodies to add").get_by_role("button", name="torus").click()
    bench.saved(2)
    thickness = page.get_by_role("spinbutton", name="thickness of the ring of torus")
    expect(thickness).to_be_visible()
    thickness.focus()
    page.keyboard.press("Enter")
    page.keyboard.type("0.3")
    page.keyboard.press("Enter")
    bench.saved(3)
    page.get_by_role("button", name="torus", exact=True).press("F2")
    page.keyboard.type("ring")
    page.keyboard.press("Enter")
    bench.saved(4)
    page.get_by_role("button", name="duplicate").click()
    bench.saved(5)
    made = bench.document()["objects"][-2:]
    assert [each["name"] for each in made] == ["ring", "ring 2"]
    assert made[0]["geometry"] == {**made[1]["geometry"], "shape": "torus", "thickness": 0.3}
    assert made[0]["position"] != made[1]["position"]
    page.get_by_role("button", name="delete", exact=True).click()
    bench.saved(6)
    assert [each["name"] for each in bench.document()["objects"]][-1] == "ring"
    bench.full()
    assert page.get_by_text("worn by basin, ring").is_visible()


def test_a_locator_is_added_renamed_with_its_uses_and_deleted_after_asking(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_role("button", name="+ locator", exact=True).click()
    bench.saved(2)
    assert [each["name"] for each in bench.document()["locators"]] == ["waterline", "spill", "locator"]
    page.get_by_role("button", name="delete", exact=True).click()
    bench.saved(3)
    page.locator(".panel").get_by_role("button", name="waterline", exact=True).click()
    page.locator(".panel").get_by_role("button", name="rename").click()
    page.keyboard.type("brim")
    page.keyboard.press("Enter")
    bench.saved(4)
    document = bench.document()
    assert document["locators"][0]["name"] == "brim"
    assert '"locator": "waterline"' not in json.dumps(document), "what measures from it follows"
    assert '"locator": "brim"' in json.dumps(document)
    page.get_by_role("button", name="delete", exact=True).click()
    dialog = page.get_by_role("dialog", name="Delete brim?")
    expect(dialog.get_by_text("basin stone · wet")).to_be_visible()
    dialog.get_by_role("button", name="keep it").click()
    expect(dialog).to_be_hidden()
    page.get_by_role("button", name="delete", exact=True).click()
    dialog.get_by_role("button", name="delete").click()
    bench.saved(5)
    assert [each["name"] for each in bench.document()["locators"]] == ["spill"]
