"""Surfaces that are divided and displaced, and falloff shapes over the picture."""

from playwright.sync_api import expect

from tests.browser.conftest import Bench


def test_an_object_is_divided_and_displaced_and_what_that_comes_to_is_told_before(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name="pillar", exact=True).click()
    the_set.get_by_label("faces of pillar").select_option("midpoint")
    bench.saved(2)
    expect(the_set.get_by_text("faces at most")).to_contain_text("there is room")
    levels = the_set.get_by_role("spinbutton", name="levels of pillar")
    levels.focus()
    page.keyboard.press("Enter")
    page.keyboard.type("8")
    page.keyboard.press("Enter")
    told = the_set.get_by_text("There is no room for so many")
    expect(told).to_be_visible(timeout=30_000)
    the_set.get_by_role("button", name="use level").click()
    expect(told).to_be_hidden(timeout=30_000)
    the_set.get_by_role("switch", name="fewer levels of pillar where it is far away").click()
    the_set.get_by_role("switch", name="displacement moves pillar").click()
    the_set.get_by_role("switch", name="pillar is moved outwards only").click()
    bench.saved(7)
    pillar = next(item for item in bench.document()["objects"] if item["name"] == "pillar")
    assert pillar["displacement"] == {"zero": 0.0, "most": 1.0, "outwards_only": True}
    assert pillar["subdivision"]["edge_pixels"] == 2 and 0 < pillar["subdivision"]["levels"] < 8
    the_set.get_by_label("faces of pillar").select_option("as they are")
    bench.saved(8)
    assert bench.errors == []


def test_the_falloff_shapes_of_the_open_recipe_lie_over_the_picture(bench: Bench) -> None:
    page = bench.page
    shapes = page.locator("[data-outline]")
    expect(shapes).to_have_count(0)
    layers = bench.document()["looks"][0]["layers"]
    wet = next(at for at, layer in enumerate(layers) if layer["name"] == "wet")
    falloff = {"op": "falloff", "params": {"shape": "capsule", "width": 0.5, "origin": {"locator": "waterline"}}}
    joined = {"op": "multiply", "params": {"by": {"steps": [falloff]}}}
    edit = {"op": "add", "path": f"/looks/0/layers/{wet}/where/steps/-", "value": joined}
    bench.server.edit(bench.shot, 1, edit)
    expect(shapes).to_have_attribute("data-outline", "capsule", timeout=30_000)
    assert len(shapes.get_attribute("d") or "") > 100
