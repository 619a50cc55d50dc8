"""Going from one shot to another in the page."""

import io
import re

import pytest
import trimesh
from PIL import Image
from playwright.sync_api import expect

from tests.api.test_api import upload
from tests.browser.conftest import Bench
from tests.conftest import World
from texallon.starter.begin import begin_shot

pytestmark = pytest.mark.browser

WATCH = """() => {
  window.seen = [];
  const look = () => {
    const canvas = document.querySelector('canvas');
    window.seen.push([
      document.querySelector('[data-shot-id]')?.dataset.shotId ?? '',
      canvas.dataset.stage ?? '',
      canvas.dataset.shot ?? '',
      document.querySelector('[data-loading]')?.textContent ?? '',
    ]);
  };
  new MutationObserver(look).observe(document.body, { subtree: true, childList: true, attributes: true, characterData: true });
}"""
"""Takes down, at every change of the page, which shot is chosen, what the stage shows and of which shot, and what is being loaded."""


def test_a_shot_with_a_large_mesh_says_what_it_loads_and_shows_nothing_else(bench: Bench) -> None:
    page = bench.page
    bench.full()
    ball = trimesh.creation.icosphere(7, 0.5)
    other = upload(bench.server, bench.shot, "ball.ply", ball.export(file_type="ply")).json["shot"]["id"]
    page.reload()
    bench.full()
    page.evaluate(WATCH)
    bench.browse("GH010 ball")
    expect(page.locator("[data-loading]")).to_be_visible(timeout=10_000)
    bench.full()
    expect(page).to_have_url(re.compile(f"shot={other}"))
    after = [each for each in page.evaluate("window.seen") if each[0] == str(other)]
    assert any("basin" in each[3] for each in after), "the object whose mesh is read is named"
    shown = [each for each in after if each[1]]
    assert shown, "a picture came"
    assert {each[2] for each in shown} == {str(other)}, "and none of the shot before under the new name"


def test_pictures_appear_in_the_list_as_they_are_made(bench: Bench, world: World) -> None:
    page = bench.page
    number = begin_shot(world.store, world.files, "pictures to come", "T", "", "starter")
    page.goto(f"{bench.server.address}/?shot={number}")
    expect(page.locator("[data-shot-id]")).to_have_text(re.compile("^T"), timeout=30_000)
    page.locator("[data-shot-id]").click()
    browser = page.get_by_role("dialog", name="projects and shots")
    card = browser.get_by_role("button", name=re.compile("^open T( |$)"))
    expect(card).to_be_visible()
    expect(card.locator("img")).to_have_count(0)
    made = io.BytesIO()
    Image.new("RGB", (160, 90), (200, 120, 40)).save(made, "PNG")
    world.store.keep_picture(number, world.files.put(made.getvalue(), ".png"), 1)
    expect(card.locator("img")).to_be_visible(timeout=20_000)
    picture = card.locator("img").evaluate("(image) => [image.complete, image.naturalWidth, image.naturalHeight]")
    assert picture == [True, 160, 90]
