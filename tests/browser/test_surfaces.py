"""Surfaces that are divided and displaced, and falloff shapes over the picture."""

import pytest
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


def test_a_tube_is_led_through_the_picture(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name="+ body").click()
    the_set.get_by_role("button", name="tube", exact=True).click()
    bench.saved(2)
    first = page.get_by_role("slider", name="point 1 of tube in the picture", exact=True)
    expect(first).to_be_visible(timeout=30_000)

    def points() -> list[list[float]]:
        found: list[list[float]] = bench.document()["objects"][-1]["geometry"]["points"]
        return found

    before = points()
    bench.drag(first, 30, 10)
    bench.saved(3)
    dragged = points()
    assert dragged[1:] == before[1:] and dragged[0] != before[0]
    assert dragged[0][1] == before[0][1], "over the ground"
    first.focus()
    page.keyboard.press("PageUp")
    bench.saved(4)
    assert round(points()[0][1] - dragged[0][1], 6) == 0.05
    the_set.get_by_role("button", name="+ point by a click").click()
    box = bench.canvas.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.85)
    bench.saved(5)
    assert len(points()) == 4
    the_set.get_by_role("button", name="delete point 4 of tube").click()
    bench.saved(6)
    assert len(points()) == 3
    the_set.get_by_role("switch", name="tube ends where it begins").click()
    bench.saved(7)
    assert bench.document()["objects"][-1]["geometry"]["closed"] is True

    # Its tangents: dragged in the picture, moved by keys, given back to the neighbours.
    page.get_by_role("slider", name="point 2 of tube in the picture", exact=True).focus()
    after = page.get_by_role("slider", name="tangent after point 2 of tube in the picture")
    expect(after).to_have_attribute("aria-valuetext", "by its neighbours")
    bench.drag(after, 25, -5)
    bench.saved(8)
    tangents = bench.document()["objects"][-1]["geometry"]["tangents"]
    assert tangents[0] is None and tangents[2] is None and any(tangents[1])
    expect(after).to_have_attribute("aria-valuetext", "by hand")
    page.get_by_role("slider", name="tangent before point 2 of tube in the picture").focus()
    page.keyboard.press("PageDown")
    bench.saved(9)
    risen = bench.document()["objects"][-1]["geometry"]["tangents"]
    assert round(risen[1][1] - tangents[1][1], 6) == 0.05, "the other end goes down, and this one up"
    page.keyboard.press("Delete")
    bench.saved(10)
    assert bench.document()["objects"][-1]["geometry"]["tangents"] == []
    the_set.get_by_role("switch", name="tangent of point 1 of tube by hand").click()
    bench.saved(11)
    assert any(bench.document()["objects"][-1]["geometry"]["tangents"][0])

    # A line from a file in its place.
    rows = b"x,y,z,radius\n0,0,0,0.02\n0.5,0.4,0,0.05\n1,0,0,0.02\n"
    the_set.get_by_label("line of tube from a file").set_input_files(
        {"name": "way.csv", "mimeType": "text/csv", "buffer": rows}
    )
    bench.saved(12)
    tube = bench.document()["objects"][-1]["geometry"]
    assert tube["points"] == [[0, 0, 0], [0.5, 0.4, 0], [1, 0, 0]] and tube["radius"] == 0.05
    assert not tube["closed"] and tube["tangents"] == []


def test_an_attribute_is_read_by_another_name_and_in_another_range(bench: Bench) -> None:
    page = bench.page
    tables = bench.server.ask("GET", f"/api/shots/{bench.shot}/attributes").json["tables"]
    owner, table = next((name, table) for name, table in tables.items() if table and table[0]["low"] > 0)
    stored = table[0]["name"]
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name=owner, exact=True).click()
    show = the_set.get_by_role("button", name=f"show {stored} of {owner} alone")
    show.click()
    bench.showing("attribute")
    expect(show).to_have_attribute("aria-pressed", "true")
    show.click()
    bench.showing("picture")
    the_set.get_by_role("button", name=f"read {stored} of {owner} by another name").click()
    bench.saved(2)
    name = the_set.get_by_role("textbox", name=f"name of {stored} of {owner}")
    name.fill("mine")
    name.press("Enter")
    bench.saved(3)
    the_set.get_by_label(f"part of {stored} of {owner}").select_option("length")
    bench.saved(4)
    the_set.get_by_role("button", name=f"fit mine of {owner}").click()
    bench.saved(5)
    item = next(each for each in bench.document()["objects"] if each["name"] == owner)
    (edit,) = item["attributes"]
    assert (edit["attribute"], edit["name"], edit["part"]) == (stored, "mine", "length")
    assert (edit["from_start"], edit["from_end"]) == pytest.approx((table[0]["low"], table[0]["high"]))
    told = bench.server.ask("GET", f"/api/shots/{bench.shot}/attributes").json["tables"][owner]
    assert "mine" in [each["name"] for each in told]
    the_set.get_by_role("button", name=f"do not read {stored} of {owner} as mine").click()
    bench.saved(6)


def test_an_object_is_copied_in_rows_and_on_a_ring(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name="pillar", exact=True).click()
    the_set.get_by_label("copies of pillar", exact=True).select_option("grid")
    bench.saved(2)
    pillar = next(item for item in bench.document()["objects"] if item["name"] == "pillar")
    assert pillar["array"] == {"along": "grid", "counts": [3, 1, 3], "spacing": [1.0, 1.0, 1.0]}
    the_set.get_by_label("copies of pillar", exact=True).select_option("ring")
    bench.saved(3)
    the_set.get_by_role("switch", name="copies of pillar are turned with the ring").click()
    bench.saved(4)
    pillar = next(item for item in bench.document()["objects"] if item["name"] == "pillar")
    assert pillar["array"] == {"along": "ring", "count": 8, "radius": 1.0, "turned": False}
    the_set.get_by_label("copies of pillar", exact=True).select_option("none")
    bench.saved(5)


def test_copies_stand_on_a_surface_and_a_signal_changes_them(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_role("button", name="+ body").click()
    the_set.get_by_role("button", name="box", exact=True).click()
    bench.saved(2)
    the_set.get_by_label("copies of box", exact=True).select_option("surface")
    bench.saved(3)
    the_set.get_by_label("what copies of box stand along").select_option("floor")
    bench.saved(4)
    apart = the_set.get_by_role("spinbutton", name="how far apart copies of box are")
    apart.focus()
    page.keyboard.press("Enter")
    page.keyboard.type("0.7")
    page.keyboard.press("Enter")
    bench.saved(5)
    the_set.get_by_role("button", name="let a signal change the copies").click()
    bench.saved(6)
    the_set.get_by_label("what change 1 does to copies of box").select_option("resize")
    bench.saved(7)
    the_set.get_by_label("another body for copies of box").select_option("pebbles")
    bench.saved(8)
    assert bench.document()["objects"][-1]["bodies"] == ["pebbles"]
    the_set.get_by_role("button", name="no copies of box have the body of pebbles").click()
    bench.saved(9)
    box = bench.document()["objects"][-1]
    assert box["bodies"] == []
    assert box["array"]["along"] == "surface" and box["array"]["object"] == "floor" and box["array"]["apart"] == 0.7
    assert [change["does"] for change in box["copies"]] == ["resize"]
    canvas = page.locator("canvas")
    expect(canvas).to_have_attribute("data-revision", "9", timeout=60_000)
    the_set.get_by_role("button", name="take change 1 of copies of box away").click()
    bench.saved(10)
    # What they stand on is taken away: the box is alone again, and that was said before.
    the_set.get_by_role("button", name="floor", exact=True).click()
    the_set.get_by_role("button", name="delete", exact=True).click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("copies of box stand along it")
    dialog.get_by_role("button", name="delete").click()
    bench.saved(11)
    assert bench.document()["objects"][-1]["array"] is None
    assert bench.errors == []
