"""What boils, pops and jumps, in frames that are made so; and what moves, brightens or stands, which does not."""

import numpy as np
import pytest

from texallon.core.render.film.flicker import Flicker, find_flicker

SIZE = (96, 128)
FRAMES = list(range(11, 23))


def pattern(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """A smooth surface with detail of some pixels."""
    value = 0.5 + 0.2 * np.sin(x / 5) * np.cos(y / 7) + 0.1 * np.sin(x / 17 + 1)
    return np.repeat(value[:, :, None], 3, axis=2).astype(np.float32)


def still(count: int = len(FRAMES)) -> list[np.ndarray]:
    y, x = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(float)
    return [pattern(x, y) for _ in range(count)]


def found(passes: list[np.ndarray], velocity: tuple[float, float] | None = None) -> list[Flicker]:
    by = [] if velocity is None else [np.full((*SIZE, 2), velocity, np.float32) for _ in passes]
    return find_flicker(FRAMES[: len(passes)], passes, by)


def test_what_stands_brightens_or_moves_does_not_flicker() -> None:
    assert found(still()) == []
    assert found([each * (1 + 0.05 * k) for k, each in enumerate(still())]) == []
    y, x = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(float)
    slides = [pattern(x - 13.3 * k, y + 7.7 * k) for k in range(len(FRAMES))]
    assert found(slides, (13.3, -7.7)) == []
    assert found(slides) != [], "without velocities what moves seems to boil"


def test_a_patch_that_is_other_in_one_frame_pops_there() -> None:
    passes = still()
    passes[5][32:64, 48:80] *= 1.6
    (only,) = found(passes)
    assert only.kind == "pops" and only.first == only.last == FRAMES[5]
    assert only.place == pytest.approx((48 / 128, 32 / 96, 80 / 128, 64 / 96))
    assert only.strength > 2


def test_a_patch_that_is_other_in_every_frame_boils() -> None:
    passes = still()
    chance = np.random.default_rng(3)
    for each in passes:
        each[16:48, 16:64] *= chance.uniform(0.5, 1.5)
    kinds = {each.kind for each in found(passes)}
    assert "boils" in kinds
    boils = next(each for each in found(passes) if each.kind == "boils")
    assert boils.place[0] <= 16 / 128 and boils.place[2] >= 64 / 128 and boils.place[3] <= 0.55


def test_a_picture_that_is_another_from_one_frame_on_jumps() -> None:
    passes = still()
    for each in passes[7:]:
        each *= 2.5
    (only,) = found(passes)
    assert only.kind == "jumps" and (only.first, only.last) == (FRAMES[6], FRAMES[7]) and only.place == (0, 0, 1, 1)


def test_few_frames_and_what_is_black_say_nothing() -> None:
    assert found(still(2)) == [] and found(still(3)) == []
    assert found([np.zeros((*SIZE, 3), np.float32)] * 6) == []
    # What is no number in one frame hides nothing in the others.
    passes = still()
    passes[1][:, :, :] = np.nan
    passes[8][32:64, 48:80] *= 1.6
    assert [(each.kind, each.first) for each in found(passes)] == [("pops", FRAMES[8])]
