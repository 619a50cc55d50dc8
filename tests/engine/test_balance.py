"""Light groups weighed under a moving hand, and what a hand that is down does to the order of work."""

import json
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.engine.driven import Driven
from texallon.core.render.film.light_mix import mix_light_groups
from texallon.engine.light_mix_preview import MOST_PIXELS, LightMixPreview, blurred, downsampled
from texallon.engine.schedule import PAUSE
from texallon.formats.shot_files import ShotFiles

pytestmark = pytest.mark.slow


def groups(height: int = 90, width: int = 160, count: int = 3) -> np.ndarray:
    return np.random.default_rng(4).random((count, height, width, 3)).astype(np.float32)


def test_groups_add_up_by_their_weights() -> None:
    made = groups(131, 77, 5)
    weights = np.random.default_rng(5).random((5, 3)).astype(np.float32)
    assert mix_light_groups(made, weights) == pytest.approx(np.einsum("ghwc,gc->hwc", made, weights), abs=1e-5)


def test_what_changed_is_added_to_what_was_shown() -> None:
    made = groups()
    before = np.ones((3, 3), np.float32)
    balance = LightMixPreview(mix_light_groups(made, before) + np.float32(0.5), before, made)
    after = np.array([[1, 1, 1], [0, 0, 0], [2, 1, 0.5]], np.float32)
    assert balance.mix_light_groups(before) == pytest.approx(mix_light_groups(made, before) + 0.5, abs=1e-5), (
        "what was smoothed stays"
    )
    assert balance.mix_light_groups(after) == pytest.approx(mix_light_groups(made, after) + 0.5, abs=1e-5)


def test_no_light_is_less_than_none() -> None:
    made = groups()
    balance = LightMixPreview(
        mix_light_groups(made, np.ones((3, 3), np.float32)) * np.float32(0.9), np.ones((3, 3), np.float32), made
    )
    assert balance.mix_light_groups(np.zeros((3, 3), np.float32)).min() == 0.0


def test_noisy_groups_change_what_was_smoothed_without_adding_their_noise() -> None:
    # Two lights of even brightness, seen through noise: doubling one of them must give an even picture still.
    rng = np.random.default_rng(1)
    noise = rng.exponential(1.0, (2, 90, 160, 3)).astype(np.float32)
    made = noise * np.array([0.5, 1.0], np.float32)[:, None, None, None]
    even, ones = np.full((90, 160, 3), 1.5, np.float32), np.ones((2, 3), np.float32)
    weights = np.array([[2, 2, 2], [1, 1, 0]], np.float32)
    plain, calm = (LightMixPreview(even, ones, made, noisy).mix_light_groups(weights) for noisy in (False, True))
    assert calm.mean(axis=(0, 1)) == pytest.approx([2.0, 2.0, 1.0], rel=0.03)
    assert calm[:, :, 0].std() < 0.1 * plain[:, :, 0].std()
    assert LightMixPreview(even, ones, made, True).mix_light_groups(ones) == pytest.approx(even, rel=1e-4)


def test_a_group_that_alone_is_lit_comes_up_out_of_the_dark() -> None:
    made = np.stack([np.zeros((40, 60, 3), np.float32), np.full((40, 60, 3), 0.7, np.float32)])
    off = np.array([[1, 1, 1], [0, 0, 0]], np.float32)
    found = LightMixPreview(np.zeros((40, 60, 3), np.float32), off, made, True).mix_light_groups(
        np.ones((2, 3), np.float32)
    )
    assert found == pytest.approx(np.full((40, 60, 3), 0.7, np.float32), rel=1e-4)


def test_what_stands_outside_a_region_stays_under_the_hand() -> None:
    made = groups(count=2)
    made[:, :, 80:] = 0  # only the left half was sampled
    ones = np.ones((2, 3), np.float32)
    found = LightMixPreview(np.full((90, 160, 3), 0.4, np.float32), ones, made, True).mix_light_groups(2 * ones)
    assert found[:, :70] == pytest.approx(0.8, rel=1e-4)
    assert found[:, 90:] == pytest.approx(0.4, rel=1e-4)


def test_a_blur_is_the_mean_of_squares_and_keeps_what_is_even() -> None:
    point = np.zeros((41, 51, 3), np.float32)
    point[20, 25] = 1.0
    found = blurred(point, 2)
    assert found.sum() == pytest.approx(3.0, rel=1e-5)
    assert found[20, 25, 0] == pytest.approx((5 / 25) ** 2, rel=1e-5), "two boxes of five make a tent five high"
    assert abs(found[20, 30, 0]) < 1e-12 and found[20, 29, 0] > 1e-4
    assert blurred(np.full((9, 7, 3), 0.3, np.float32), 4) == pytest.approx(np.float32(0.3), rel=1e-5)


@pytest.mark.parametrize(("height", "width"), [(360, 640), (721, 1283), (40, 60)])
def test_a_large_picture_is_shown_smaller_and_as_bright(height: int, width: int) -> None:
    made = groups(height, width, 2)
    ones = np.ones((2, 3), np.float32)
    found = LightMixPreview(mix_light_groups(made, ones), ones, made).mix_light_groups(ones)
    assert found.shape[0] * found.shape[1] <= MOST_PIXELS
    assert found.shape[1] / found.shape[0] == pytest.approx(width / height, rel=0.01)
    assert found.mean() == pytest.approx(made.sum(axis=0).mean(), rel=0.005)


def test_blocks_are_means_and_what_is_left_over_is_left_out() -> None:
    picture = np.arange(5 * 7 * 3, dtype=np.float32).reshape(5, 7, 3)
    found = downsampled(picture, 2)
    assert found.shape == (2, 3, 3)
    assert found[1, 2] == pytest.approx(picture[2:4, 4:6].mean(axis=(0, 1)))
    assert downsampled(picture, 1) is picture


@pytest.fixture
def grouped(demo_folder: Path) -> tuple[Driven, list[dict[str, Any]]]:
    made = Driven(ShotFiles(root=demo_folder))
    sent = made.sent
    document = json.loads((demo_folder / "GH010.json").read_text())
    document["light_groups"] = [{"name": "lantern"}]
    document["lights"][0]["group"] = "lantern"
    made.change({"do": "document", "document": document, "revision": 1})
    made.change({"do": "view", "width": 480, "height": 270, "show": {"kind": "picture"}})
    for _ in range(400):
        if any(head.get("stage") == "full" for head in sent):
            break
        made.advance(lambda: False)
    sent.clear()
    return made, sent


def weigh(session: Driven, intensity: float, serial: int) -> None:
    patch = [{"op": "add", "path": "/light_groups/0/intensity", "value": intensity}]
    session.change({"do": "preview", "patch": patch, "serial": serial})


def test_a_hand_sees_fewer_pixels_and_when_it_rests_all_of_them(grouped: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = grouped
    before = made.picture.film
    kept = made.snapshot()
    weigh(made, 0.25, 5)
    made.advance(lambda: False)
    assert (sent[-1]["serial"], sent[-1]["width"], sent[-1]["height"]) == (5, 240, 135)
    for _ in range(4):
        made.advance(lambda: False)
    pictures = [(head["width"], head["height"]) for head in sent if head["kind"] == "picture"]
    assert pictures[:2] == [(240, 135), (480, 270)]
    assert made.picture.film is before, "nothing was traced anew"
    made.change({"do": "preview", "patch": []})
    assert made.snapshot() is not None and kept is not None, "a small picture is never one to keep"


def test_nothing_slow_is_begun_under_a_hand_that_moves(grouped: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, _ = grouped
    weigh(made, 0.5, 6)
    made.window.touched -= 10  # as if the picture had taken that long
    made.advance(lambda: False)
    made.advance(lambda: False)
    assert made.not_before > time.monotonic() + PAUSE / 2
    weigh(made, 0.6, 7)
    assert made.not_before == 0.0, "the next move is taken up at once"


def test_weighing_back_shows_the_very_picture_of_before(grouped: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, _ = grouped
    before = made.light
    assert before is not None
    weigh(made, 3.0, 8)
    made.advance(lambda: False)
    assert made.light is not None and made.light.mean() > before.mean()
    weigh(made, 1.0, 9)
    made.advance(lambda: False)
    assert np.array_equal(made.light, before)


def test_a_finished_picture_gets_no_sample_more_whatever_is_edited_or_weighed(
    grouped: tuple[Driven, list[dict[str, Any]]],
) -> None:
    made, sent = grouped
    few = {"op": "add", "path": "/sampling", "value": {"samples": 3}}
    made.change({"do": "preview", "patch": [few], "serial": 2})
    for _ in range(40):
        made.advance(lambda: False)
    film = made.picture.film
    assert film is not None and film.samples == 3 and made.idle
    for patch in (
        [few, {"op": "replace", "path": "/title", "value": "other"}],
        [few, {"op": "add", "path": "/light_groups/0/intensity", "value": 0.5}],
        [few],
    ):
        made.change({"do": "preview", "patch": patch})
        for _ in range(12):
            made.advance(lambda: False)
        assert made.picture.film is film and film.samples == 3 and made.idle
    assert sent[-1]["kind"] != "problem"
