"""What boils, pops and jumps, in frames that are made so; and what moves, brightens or stands, which does not."""

import numpy as np
import pytest

from texallon.core.render.film.flicker import NOTICED, Flicker, find_flicker

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


@pytest.mark.parametrize("seed", range(5))
@pytest.mark.parametrize("kind", ["pops", "boils"])
def test_a_change_anywhere_is_found_where_it_is_and_a_slight_one_is_not(seed: int, kind: str) -> None:
    chance = np.random.default_rng(seed)
    top, left = chance.integers(0, SIZE[0] // 16 - 2) * 16, chance.integers(0, SIZE[1] // 16 - 2) * 16
    patch = (slice(top, top + 32), slice(left, left + 32))
    at = int(chance.integers(1, len(FRAMES) - 1))
    for amount in (0.02, 0.5):
        passes = still()
        for number, each in enumerate(passes):
            if kind == "boils":
                each[patch] *= 1 + amount * (-1) ** number
            elif number == at:
                each[patch] *= 1 + amount
        result = found(passes)
        if amount < NOTICED:
            assert result == []
            continue
        assert {each.kind for each in result} == {kind}
        x0, y0, x1, y1 = result[0].place
        assert x0 * SIZE[1] <= left and x1 * SIZE[1] >= left + 32 and y0 * SIZE[0] <= top and y1 * SIZE[0] >= top + 32
        # No more than a tile beside it is taken along.
        assert (x1 - x0) * SIZE[1] <= 64 and (y1 - y0) * SIZE[0] <= 64
        if kind == "pops":
            assert result[0].first == result[0].last == FRAMES[at]


@pytest.mark.parametrize("speed", [(0.0, 0.0), (2.5, 0.0), (-7.25, 3.5), (0.3, -11.0)])
def test_what_pops_is_found_while_all_of_the_picture_moves(speed: tuple[float, float]) -> None:
    y, x = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(float)
    slides = [pattern(x - speed[0] * k, y - speed[1] * k) for k in range(len(FRAMES))]
    assert found(slides, speed) == []
    slides[6][32:64, 48:80] *= 1.5
    kinds = {(each.kind, each.first, each.last) for each in found(slides, speed)}
    assert ("pops", FRAMES[6], FRAMES[6]) in kinds
