"""Going from one shot to another in the page."""

import re

import pytest
import trimesh
from playwright.sync_api import expect

from tests.api.test_api import upload
from tests.browser.conftest import Bench

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
