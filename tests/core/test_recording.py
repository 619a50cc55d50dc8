"""Movements by hand as keys: few, close to the movement, and free of a hand's trembling."""

import numpy as np
import pytest

from texallon.core.document.keys import value_at
from texallon.core.document.recording import keys_of_recording

FRAMES = np.arange(1, 97, dtype=float)


def sampled(made: list, column: int, still: float) -> np.ndarray:
    keys = made[column]
    return np.array([value_at(keys, frame) if keys else still for frame in FRAMES])


def swung(trembling: float = 0.0) -> np.ndarray:
    share = (FRAMES - 1) / 95
    way = np.stack([2 * share, np.sin(5 * share), np.full_like(share, 0.7)], axis=1)
    return way + np.random.default_rng(3).normal(0, trembling, way.shape) * [1, 1, 0]


def test_keys_lead_as_near_as_was_asked_and_are_few() -> None:
    values = swung()
    counts = []
    for tolerance in (0.1, 0.02, 0.002):
        made = keys_of_recording(FRAMES.tolist(), values, 0, tolerance)
        off = np.linalg.norm(np.stack([sampled(made.keys, k, 0.7) for k in range(3)], axis=1) - values, axis=1)
        assert off.max() <= tolerance and made.off == pytest.approx(off.max(), abs=1e-9)
        assert made.keys[2] == [], "what stood still has no keys"
        counts.append(len(made.keys[0]))
        assert [key.frame for key in made.keys[0]] == [key.frame for key in made.keys[1]]
    assert 3 <= counts[0] < counts[1] < counts[2] < 40


def test_a_straight_even_way_is_two_keys() -> None:
    made = keys_of_recording(FRAMES.tolist(), np.stack([FRAMES * 0.1, FRAMES * -0.3], axis=1), 2.0)
    assert [len(each) for each in made.keys] == [2, 2]
    assert made.keys[1][-1].value == pytest.approx(-0.3 * 96)


def test_smoothing_takes_the_trembling_not_the_way_and_leaves_the_ends() -> None:
    shaken, clean = swung(0.02), swung()
    rough = keys_of_recording(FRAMES.tolist(), shaken, 0, 0.01)
    smooth = keys_of_recording(FRAMES.tolist(), shaken, 3.0, 0.01)
    assert len(smooth.keys[0]) < len(rough.keys[0]) / 2
    found = np.stack([sampled(smooth.keys, k, 0.7) for k in range(2)], axis=1)
    assert np.linalg.norm(found - clean[:, :2], axis=1).mean() < 0.02
    assert found[0] == pytest.approx(shaken[0, :2], abs=1e-9) and found[-1] == pytest.approx(shaken[-1, :2], abs=1e-9)
    # A bell of s frames leaves exp(−(ωs)²/2) of a wave: of one of 48 frames, 0.926 with s = 3 (its Fourier transform).
    wave = np.sin(2 * np.pi * FRAMES / 48)[:, None]
    even = keys_of_recording(FRAMES.tolist(), wave, 3.0, 1e-6)
    assert sampled(even.keys, 0, 0)[24:72] == pytest.approx(0.9258 * wave[24:72, 0], abs=2e-3)


def test_a_hand_that_stays_leaves_nothing_and_a_jump_is_kept() -> None:
    assert keys_of_recording([1.0, 2.0, 9.0], np.ones((3, 2)), 2.0).keys == [[], []]
    jump = np.where(FRAMES < 40, 0.0, 1.0)[:, None]
    made = keys_of_recording(FRAMES.tolist(), jump, 0)
    assert sampled(made.keys, 0, 0) == pytest.approx(jump[:, 0], abs=0.01)


def test_two_frames_are_the_least_and_they_rise() -> None:
    assert len(keys_of_recording([1.0, 5.0], np.array([[0.0], [1.0]]), 9.0).keys[0]) == 2
    for frames in ([1.0], [1.0, 1.0], [3.0, 1.0]):
        with pytest.raises(ValueError, match="each after"):
            keys_of_recording(frames, np.zeros((len(frames), 1)), 0)
