"""What the page says of a farm whose machines run another state of the code: which they are, and that nothing is sent to them."""

from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from tests.browser.conftest import Bench
from tests.browser.test_accessible import faults
from tests.browser.test_queue import tiny
from tests.conftest import World, copy_of_shot, free_port, serving, world_beside
from tests.farm.test_by_hand import running, stale_worker

pytestmark = pytest.mark.browser


def test_a_worker_of_other_code_is_named_in_the_queue(
    browser: Browser, world: World, demo_folder: Path, tmp_path: Path
) -> None:
    port = free_port()
    address = f"tcp://127.0.0.1:{port}"
    with (
        world_beside(world) as own,  # whose frames no other server of the tests sends
        running("scheduler", "--port", str(port)),
        stale_worker(address),
        serving(own, TEXALLON_FARM=address, TEXALLON_RENDER_STORE=str(tmp_path)) as server,
    ):
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        bench = Bench(context.new_page(), server, copy_of_shot(own, demo_folder))
        tiny(bench)
        page = bench.page
        page.get_by_role("button", name="render", exact=True).click()
        panel = page.get_by_role("dialog", name="save pictures")
        panel.get_by_role("button", name="all orders: the queue").click()
        queue = page.get_by_role("dialog", name="queue of frames")
        said = queue.get_by_text("1 worker runs another state of the code and is sent nothing: stale")
        expect(said).to_be_visible(timeout=60_000)  # before anything is ordered
        box = said.bounding_box()
        assert box is not None and box["x"] >= 0 and box["x"] + box["width"] <= 1280, "it can be read whole"
        assert faults(page) == []
        queue.get_by_role("button", name="close").click()
        page.get_by_role("button", name="render", exact=True).click()
        panel.get_by_role("button", name="render frame 1").click()
        panel.get_by_role("button", name="all orders: the queue").click()
        expect(queue.get_by_text("no worker runs this state of the code, only others: stale")).to_be_visible()
        newest = queue.get_by_role("listitem").filter(has_text="frame 1").first
        expect(newest).to_be_visible()
        expect(newest.get_by_text("made in")).to_have_count(0)
        assert bench.foreign == [] and bench.errors == []
        context.close()
