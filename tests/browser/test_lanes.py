"""Stories of time: a number gets keys by the pin beside it, its lane shows them, and the frames between follow."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Bench

pytestmark = pytest.mark.browser


def test_a_number_gets_keys_that_are_moved_changed_and_taken_away(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    row = page.locator(".row", has=page.get_by_text("focal length", exact=True)).first
    first = bench.document()["camera"]["focal_length"]
    row.hover()
    row.get_by_role("button", name="set a key").click()
    bench.saved(2)
    frames = page.get_by_role("slider", name="frame")
    frames.focus()
    frames.press("PageDown")
    frames.press("PageDown")
    row.hover()
    row.get_by_role("button", name="set a key").click()
    bench.saved(3)
    page.get_by_role("button", name="lanes 1").click()
    lanes = page.get_by_role("region", name="lanes")
    pin = lanes.get_by_role("button", name="key of camera · focal length at frame 21")
    pin.focus()
    before = bench.pixels()
    value = lanes.get_by_label("value of the key")
    value.dblclick()
    page.keyboard.type("95")
    page.keyboard.press("Enter")
    bench.saved(4)
    lanes.get_by_label("from this key to the next").select_option("linear")
    bench.saved(5)
    (track,) = bench.document()["tracks"]
    assert track["at"] == "/camera/focal_length"
    assert [(key["frame"], key["value"]) for key in track["keys"]] == [(1, first), (21, 95)]
    bench.full()
    assert abs(bench.pixels().astype(float) - before).mean() > 1, "the frame is seen through the longer lens"
    frames.focus()
    frames.press("PageUp")
    # Halfway by the monotone cubic of two keys, a straight line.
    expect(row.get_by_text(f"{(first + 95) / 2:g}")).to_be_visible()
    pin.focus()
    pin.press("ArrowRight")
    bench.saved(6)
    assert [key["frame"] for key in bench.document()["tracks"][0]["keys"]] == [1, 22]
    lanes.get_by_role("button", name="key of camera · focal length at frame 22").press("Delete")
    bench.saved(7)
    frames.press("Home")
    row.get_by_role("button", name="take the key away").click()
    bench.saved(8)
    assert bench.document()["tracks"] == [] and bench.document()["camera"]["focal_length"] == first
    expect(lanes.get_by_text("Nothing has keys yet")).to_be_visible()


def two_tracks(bench: Bench) -> None:
    def keys(*pairs: tuple[int, float]) -> list[dict[str, float]]:
        return [{"frame": frame, "value": value} for frame, value in pairs]

    length = bench.document()["camera"]["focal_length"]
    tracks = [
        {"at": "/camera/focal_length", "keys": keys((1, length), (13, length + 10), (25, length + 5), (48, length))},
        {"at": "/camera/position/1", "keys": keys((13, 0.6), (48, 0.9))},
    ]
    bench.server.edit(bench.shot, 1, {"op": "replace", "path": "/tracks", "value": tracks})
    bench.page.get_by_role("button", name="lanes 2").click()


def frames_of(bench: Bench) -> list[list[float]]:
    return [[key["frame"] for key in track["keys"]] for track in bench.document()["tracks"]]


def test_many_keys_are_chosen_with_a_frame_shifted_stretched_copied_and_taken_away(bench: Bench) -> None:
    two_tracks(bench)
    page = bench.page
    lanes = page.get_by_role("region", name="lanes")
    first = lanes.get_by_role("button", name="key of camera · focal length at frame 1", exact=True).bounding_box()
    low = lanes.get_by_role("button", name="key of camera · position · y at frame 13").bounding_box()
    assert first and low
    page.mouse.move(first["x"] + 40, first["y"] - 1)
    page.mouse.down()
    page.mouse.move(low["x"] + 40, low["y"] + 30, steps=4)
    page.mouse.up()
    chosen = lanes.get_by_role("group", name="chosen keys")
    expect(chosen.get_by_text("2 keys, frames 13 … 13")).to_be_visible()
    chosen.get_by_role("button", name="a frame later").click()
    bench.saved(3)
    assert frames_of(bench) == [[1, 14, 25, 48], [14, 48]]
    lanes.get_by_role("button", name="key of camera · focal length at frame 14").click()
    lanes.get_by_role("button", name="key of camera · focal length at frame 25").click(modifiers=["Shift"])
    end = lanes.get_by_role("button", name="stretch the chosen keys by their end")
    end.focus()
    end.press("ArrowLeft")
    bench.saved(4)
    assert frames_of(bench)[0] == [1, 14, 24, 48]
    page.keyboard.press("Control+c")
    frames = page.get_by_role("slider", name="frame")
    frames.focus()
    frames.press("Home")
    frames.press("PageDown")
    frames.press("PageDown")
    frames.press("PageDown")
    chosen.get_by_role("button", name="put in from frame 31").click()
    bench.saved(5)
    assert frames_of(bench)[0] == [1, 14, 24, 31, 41, 48]
    lanes.get_by_role("button", name="key of camera · focal length at frame 31").click()
    page.keyboard.press("Control+a")
    page.keyboard.press("Delete")
    bench.saved(6)
    assert [track["at"] for track in bench.document()["tracks"]] == ["/camera/position/1"]


def test_a_key_is_dragged_in_time_and_value_and_its_curve_led_by_a_slope(bench: Bench) -> None:
    two_tracks(bench)
    page = bench.page
    lanes = page.get_by_role("region", name="lanes")
    key = lanes.get_by_role("button", name="key of camera · focal length at frame 13")
    key.click()
    slope = lanes.get_by_role("button", name="slope out of frame 13 of camera · focal length")
    expect(slope).to_be_visible()
    mark = key.locator("i").bounding_box()
    assert mark
    before = bench.document()["tracks"][0]["keys"][1]["value"]
    page.mouse.move(mark["x"] + 4, mark["y"] + 4)
    page.mouse.down()
    page.mouse.move(mark["x"] + 60, mark["y"] + 44, steps=5)
    page.mouse.up()
    bench.saved(3)
    moved = bench.document()["tracks"][0]["keys"][1]
    assert 13 < moved["frame"] < 25 and moved["value"] < before - 2
    box = lanes.get_by_role("button", name=f"slope out of frame {moved['frame']:g} of camera").bounding_box()
    assert box
    page.mouse.move(box["x"] + 12, box["y"] + 12)
    page.mouse.down()
    page.mouse.move(box["x"] + 12, box["y"] - 20, steps=5)
    page.mouse.up()
    bench.saved(4)
    led = bench.document()["tracks"][0]["keys"][1]
    assert led["slope_in"] == led["slope_out"] and led["slope_out"] > 0
    lanes.get_by_role("button", name=f"slope into frame {moved['frame']:g} of camera").press("Alt+ArrowDown")
    bench.saved(5)
    parted = bench.document()["tracks"][0]["keys"][1]
    assert parted["slope_in"] < parted["slope_out"] == led["slope_out"]


def test_what_is_removed_takes_its_keys_along(bench: Bench) -> None:
    page = bench.page
    lamp = bench.document()["lights"][0]
    keys = [{"frame": 1, "value": 5.0}, {"frame": 20, "value": 50.0}]
    track = {"at": f"/lights/{lamp['id']}/power", "keys": keys}
    bench.server.edit(bench.shot, 1, {"op": "add", "path": "/tracks/-", "value": track})
    bench.saved(2)
    page.get_by_role("button", name="lanes 1").click()
    expect(page.get_by_role("region", name="lanes").get_by_text(lamp["name"])).to_be_visible()
    page.get_by_role("button", name="scene").click()
    page.get_by_role("button", name=lamp["name"], exact=True).first.click()
    page.get_by_role("button", name=f"take away {lamp['name']}").click()
    bench.saved(3)
    assert bench.document()["tracks"] == []
    assert lamp["id"] not in [each["id"] for each in bench.document()["lights"]]


def test_a_thing_turns_with_one_click_and_its_formula_is_changed(bench: Bench) -> None:
    page = bench.page
    thing = bench.document()["objects"][0]
    page.get_by_role("button", name="scene").click()
    page.get_by_role("button", name=thing["name"], exact=True).first.click()
    page.get_by_role("button", name="turntable").first.click()
    bench.saved(2)
    (track,) = bench.document()["tracks"]
    assert track["at"] == f"/objects/{thing['id']}/rotation/1" and track["formula"].endswith("+ 36 * time")
    page.get_by_role("button", name="lanes 1").click()
    lanes = page.get_by_role("region", name="lanes")
    expect(lanes.get_by_text("36/s")).to_be_visible()
    formula = lanes.get_by_role("textbox")
    formula.fill("tiem * 9")
    formula.press("Enter")
    expect(page.get_by_text("did you mean “time”").first).to_be_visible()
    assert bench.document()["tracks"][0]["formula"] == track["formula"], "what can't be read changes nothing"
    formula.fill("9 * time")
    formula.press("Enter")
    bench.saved(3)
    expect(lanes.get_by_text("9/s", exact=True)).to_be_visible()
    lanes.get_by_label("how", exact=False).first.select_option(label="swings")
    bench.saved(4)
    assert "sin(2 * pi" in bench.document()["tracks"][0]["formula"]
    lanes.get_by_role("button", name="by keys").click()
    bench.saved(5)
    (track,) = bench.document()["tracks"]
    assert track["formula"] is None and len(track["keys"]) == 1


def test_a_mask_grows_on_a_thing_and_is_seen_alone(bench: Bench) -> None:
    page = bench.page
    thing = bench.document()["objects"][0]
    page.get_by_role("button", name="scene").click()
    page.get_by_role("button", name=thing["name"], exact=True).first.click()
    page.get_by_role("button", name="let a mask grow on it").first.click()
    bench.saved(2)
    name = page.get_by_label(f"name of what {thing['name']} remembers, 1")
    name.fill("moss")
    name.press("Enter")
    bench.saved(3)
    page.get_by_label(f"signal that moss of {thing['name']} starts from").select_option("waterline wetness")
    bench.saved(4)
    (kept,) = bench.document()["objects"][0]["remembers"]
    assert (kept["kind"], kept["name"], kept["signal"]) == ("growth", "moss", "waterline wetness")
    page.get_by_role("button", name=f"grows: show moss of {thing['name']} alone").click()
    bench.full()
    first = bench.pixels().astype(float)
    frames = page.get_by_role("slider", name="frame")
    frames.focus()
    bench.newer(lambda: frames.press("End"))
    # What was touched at the first frame has spread over the stone by the last.
    assert bench.pixels().astype(float).mean() > first.mean() + 1
    page.get_by_role("button", name=f"forget moss of {thing['name']}").click()
    bench.saved(5)
    assert bench.document()["objects"][0]["remembers"] == []


def test_frames_that_were_seen_play_in_real_time_until_something_changes(bench: Bench) -> None:
    page = bench.page
    kept = page.locator(".kept")
    expect(kept).to_have_count(1)
    frames = page.get_by_role("slider", name="frame")
    frames.focus()
    for _ in range(2):
        bench.newer(lambda: frames.press("ArrowRight"))
    expect(kept).to_have_count(3)
    seen = bench.pixels()
    bench.newer(lambda: frames.press("Home"))
    page.get_by_role("button", name="play", exact=True).click()
    # Frames 2 and 3 come from what is kept, those after them from the renderer; they are kept too.
    expect(kept.nth(5)).to_be_attached(timeout=30_000)
    page.get_by_role("button", name="stop", exact=True).click()
    bench.newer(lambda: frames.press("Home"))
    for _ in range(2):
        bench.newer(lambda: frames.press("ArrowRight"))
    assert abs(bench.pixels().astype(float) - seen).mean() < 3
    bench.server.edit(bench.shot, 1, {"op": "replace", "path": "/seed", "value": 7})
    expect(kept).to_have_count(1, timeout=30_000)


def test_parameters_of_steps_and_opacities_take_keys_too(bench: Bench) -> None:
    page = bench.page
    parameter = page.locator("article .parameter", has=page.get_by_role("button", name="set a key")).first
    parameter.hover()
    parameter.get_by_role("button", name="set a key").click()
    bench.saved(2)
    (track,) = bench.document()["tracks"]
    assert "/params/" in track["at"] and track["keys"][0]["frame"] == 1
    opacity = page.locator(".line", has=page.get_by_label("opacity of", exact=False)).first
    opacity.hover()
    opacity.get_by_role("button", name="set a key").click()
    bench.saved(3)
    frames = page.get_by_role("slider", name="frame")
    frames.focus()
    bench.newer(lambda: frames.press("End"))
    number = opacity.get_by_label("opacity of", exact=False).first
    number.click()
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    bench.saved(4)
    track = next(each for each in bench.document()["tracks"] if each["at"].endswith("/opacity"))
    assert [(key["frame"], key["value"]) for key in track["keys"]] == [(1, 1.0), (48, 0.2)]
    assert bench.document()["looks"][0]["layers"][-1]["opacity"] == 1.0, "the number beneath stays"
    bench.newer(lambda: frames.press("Home"))
    expect(number).to_have_text("100 %")


def test_a_camera_that_has_keys_is_moved_in_the_picture_at_the_frame_that_is_shown(bench: Bench) -> None:
    page = bench.page
    high = bench.document()["camera"]["position"][1]
    keys = [{"frame": 1, "value": high}, {"frame": 48, "value": high + 1.0}]
    bench.server.edit(
        bench.shot, 1, {"op": "add", "path": "/tracks/-", "value": {"at": "/camera/position/1", "keys": keys}}
    )
    bench.saved(2)
    frames = page.get_by_role("slider", name="frame")
    frames.focus()
    bench.newer(lambda: frames.press("End"))
    bench.newer(lambda: bench.drag(bench.canvas, 0, 60))
    bench.saved(3)
    (track,) = bench.document()["tracks"]
    assert [key["frame"] for key in track["keys"]] == [1, 48]
    assert track["keys"][0]["value"] == high, "the other key stays"
    assert abs(track["keys"][1]["value"] - high - 1.0) > 0.05
    bench.full()
    there = bench.pixels().astype(float)
    bench.newer(lambda: frames.press("ArrowLeft"))
    bench.newer(lambda: frames.press("ArrowRight"))
    assert abs(bench.pixels().astype(float) - there).mean() < 4, "it stays where it was let go"


def test_a_movement_is_recorded_by_hand_while_the_shot_plays(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="scene").click()
    page.get_by_role("button", name="waterline", exact=True).first.click()
    page.get_by_role("button", name="record by hand: waterline").click()
    handle = page.get_by_label("move waterline over the ground")
    expect(handle).to_be_visible()
    box = handle.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    frames = page.get_by_role("slider", name="frame")
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(12):
        page.mouse.move(x + 6 * step, y + (step % 3))
        expect(frames).not_to_have_attribute("aria-valuenow", str(1 + step), timeout=20_000)
    page.mouse.up()
    bench.saved(2)
    tracks = {track["at"].rsplit("/", 2)[-1]: track["keys"] for track in bench.document()["tracks"]}
    assert tracks and set(tracks) <= {"0", "2"}, "it moved over the ground"
    counts = [len(keys) for keys in tracks.values()]
    last = max(key["frame"] for keys in tracks.values() for key in keys)
    assert last > 12 and all(2 <= count < last for count in counts), "fewer keys than frames"
    ends = [keys[-1]["value"] - keys[0]["value"] for keys in tracks.values()]
    assert max(map(abs, ends)) > 0.02
    expect(page.get_by_role("button", name="record by hand: waterline")).to_have_attribute("aria-pressed", "false")
    expect(frames).to_have_attribute("aria-valuenow", "1")


def test_a_locator_goes_along_the_line_of_a_tube(bench: Bench) -> None:
    page = bench.page
    rail = {"name": "rail", "geometry": {"shape": "tube"}, "look": "still water", "visible": False}
    bench.server.edit(bench.shot, 1, {"op": "add", "path": "/objects/-", "value": rail})
    page.get_by_role("button", name="scene").click()
    page.get_by_role("button", name="spill", exact=True).click()
    page.get_by_label("line of spill", exact=True).select_option("rail")
    bench.saved(3)
    page.get_by_role("button", name="goes along it once").click()
    bench.saved(4)
    locator = next(each for each in bench.document()["locators"] if each["name"] == "spill")
    (track,) = bench.document()["tracks"]
    assert locator["along"] == "rail"
    assert track["at"] == f"/locators/{locator['id']}/along_share" and "share" in track["formula"]
    page.get_by_role("switch", name="spill is turned the way of its line").click()
    bench.saved(5)
    assert next(each for each in bench.document()["locators"] if each["name"] == "spill")["turns_along"] is False


def test_three_frames_stand_side_by_side(bench: Bench) -> None:
    page = bench.page
    page.get_by_role("button", name="three frames side by side").click()
    beside = page.get_by_role("region", name="frames side by side")
    kept = page.locator(".kept")
    expect(kept).to_have_count(3, timeout=60_000)
    frames = page.get_by_role("slider", name="frame")
    # All three were looked at; then the frame that was shown before is shown again.
    expect(frames).to_have_attribute("aria-valuenow", "1", timeout=30_000)

    def brightness(index: int) -> float:
        return page.evaluate(
            """index => {
                const canvas = document.querySelectorAll('.beside canvas')[index];
                const data = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data;
                return data.reduce((sum, each) => sum + each, 0) / data.length;
            }""",
            index,
        )

    assert min(brightness(index) for index in range(3)) > 70, "none is empty (opaque black has 63.75)"
    beside.get_by_label("frame of picture 2").click()
    page.keyboard.type("9")
    page.keyboard.press("Enter")
    expect(page.locator("canvas[data-frame='9']")).to_be_visible()
    expect(kept).to_have_count(4, timeout=60_000)
    beside.get_by_role("button", name="go there").nth(2).click()
    expect(frames).to_have_attribute("aria-valuenow", "48")
