"""Saving pictures from the page: ordered in two clicks, found again in the queue, with motion blur where it is on."""

import io

import pytest
from PIL import Image
from playwright.sync_api import Locator, expect

from tests.browser.conftest import Bench
from tests.browser.test_accessible import faults
from tests.conftest import Server

pytestmark = pytest.mark.browser

SLOW = 120_000


def tiny(bench: Bench) -> None:
    """The bench's shot in few pixels and frames."""
    size = [{"op": "replace", "path": "/resolution", "value": [64, 36]}]
    small = [{"op": "replace", "path": "/sampling/samples", "value": 4}, {"op": "replace", "path": "/frames/last", "value": 3}]  # fmt: skip
    revision = bench.server.ask("GET", f"/api/shots/{bench.shot}").json["revision"]
    assert bench.server.edit(bench.shot, revision, *size, *small).status == 200


def downloaded(bench: Bench, link: Locator) -> bytes:
    with bench.page.expect_download() as waiting:
        link.click()
    return waiting.value.path().read_bytes()


def test_a_frame_is_saved_in_two_clicks_and_found_again_in_the_queue(bench: Bench, server: Server) -> None:
    tiny(bench)
    page = bench.page
    expect(page.get_by_title("save pictures")).to_be_visible()
    page.get_by_role("button", name="render", exact=True).click()
    panel = page.get_by_role("dialog", name="save pictures")
    expect(panel.get_by_text("at most 4 samples of each pixel")).to_be_visible()
    assert faults(page) == []
    panel.get_by_role("button", name="render frame 1").click()
    picture = panel.get_by_role("img", name="frame 1 as rendered")
    expect(picture).to_be_visible(timeout=SLOW)
    with Image.open(io.BytesIO(downloaded(bench, panel.get_by_role("link", name="PNG")))) as found:
        assert found.size == (64, 36)
    panel.get_by_label("frames, such as 1-24, 3,9,12 or 1-24/2").fill("2-3")
    panel.get_by_role("button", name="render these").click()
    panel.get_by_role("button", name="all orders: the queue").click()
    queue = page.get_by_role("dialog", name="queue of frames")
    newest = queue.get_by_role("listitem").filter(has_text="frames 2-3").first
    expect(newest.get_by_text("all 2 done")).to_be_visible(timeout=SLOW)
    assert faults(page) == []
    newest.get_by_role("button", name="frame 3: done").click()
    detail = newest.get_by_role("group", name="frame 3 of order")
    expect(detail.get_by_text("made in")).to_be_visible()
    expect(detail.get_by_role("link", name="GH010.0003.exr")).to_be_visible()
    assert downloaded(bench, newest.get_by_role("link", name="video"))[4:8] == b"ftyp"
    detail.get_by_role("button", name="render it again").click()
    expect(detail.get_by_text("made in")).to_have_count(2, timeout=SLOW)
    orders = len(server.ask("GET", f"/api/renders?shot={bench.shot}").json["renders"])
    newest.get_by_role("button", name="remove order").click()
    newest.get_by_role("button", name="remove order", exact=False).click()
    expect(queue.get_by_role("listitem").filter(has_text="frames 2-3")).to_have_count(0)
    assert len(server.ask("GET", f"/api/renders?shot={bench.shot}").json["renders"]) == orders - 1
    page.keyboard.press("Escape")
    expect(queue).to_be_hidden()
    # A store that is another one now, or out of reach, has none of the files.
    page.route("**/thumbnails/**", lambda route: route.fulfill(status=404))
    page.reload()
    bench.full()
    page.keyboard.press("q")
    expect(queue.get_by_role("button", name="frame 1: not found").first).to_contain_text("1 not found")
    assert faults(page) == []


def test_an_order_is_paused_and_stopped_from_the_queue(bench: Bench) -> None:
    tiny(bench)
    page = bench.page
    many = {"frames": "", "samples": 65536}
    bench.server.ask("POST", f"/api/shots/{bench.shot}/renders", many)
    page.keyboard.press("q")
    queue = page.get_by_role("dialog", name="queue of frames")
    order = queue.get_by_role("listitem").first
    order.get_by_role("button", name="pause").click()
    expect(order.get_by_text("paused at 0 of 3")).to_be_visible()
    order.get_by_role("button", name="go on").click()
    order.get_by_role("button", name="sooner").click()
    expect(order.get_by_text("priority 10")).to_be_visible()
    order.get_by_role("button", name="stop").click()
    expect(order.get_by_text("0 of 3 done, stopped")).to_be_visible()


def test_motion_blur_is_turned_on_and_said(bench: Bench) -> None:
    page = bench.page
    page.keyboard.press("e")
    the_set = page.get_by_role("region", name="the set")
    the_set.get_by_text("sampling", exact=True).click()
    the_set.get_by_role("switch", name="motion blur: off").click()
    bench.saved(2)
    assert bench.document()["shutter"] == {"on": True, "angle": 180, "offset": 0}
    expect(the_set.get_by_text("open from frame 0.75 to 1.25, 20.8 ms")).to_be_visible()
    the_set.get_by_role("button", name="basin", exact=True).click()
    the_set.get_by_role("switch", name="motion blur of basin: yes").click()
    bench.saved(3)
    assert bench.document()["objects"][0]["blurs"] is False
    bench.full()
