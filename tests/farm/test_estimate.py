"""What an order is expected to take, by numbers that can be followed."""

from dataclasses import replace

import pytest

from texallon.farm.estimate import EXR_BYTES, PASSES_BYTES, PNG_BYTES, TriedFrame, estimate, tried_frames
from texallon.farm.task import FrameTask
from texallon.frame_files import Order

TASK = FrameTask("memory://v", "d", Order((200, 100), 50, 1, 1), "S.0001", {}, (".exr", ".png"))


def test_the_first_the_middle_and_the_last_frame_are_tried() -> None:
    assert tried_frames(range(1, 49)) == [1, 25, 48]
    assert tried_frames([7]) == [7]
    assert tried_frames([3, 9]) == [3, 9]
    assert tried_frames([5, 6, 7]) == [5, 6, 7]


def test_what_is_made_once_is_counted_once_and_samples_for_every_frame() -> None:
    # A second before each frame, and nine more that the first takes for what all have in common.
    tried = [TriedFrame(1, 10.0, 0.1, 300.0), TriedFrame(25, 1.0, 0.2, 500.0), TriedFrame(48, 1.0, 0.3, 400.0)]
    found = estimate(tried, TASK, 48, 1)
    assert found.frame == pytest.approx((1 + 5, 1 + 10, 1 + 15))
    assert found.total == pytest.approx(9 + 48 * 11)
    assert found.memory == 500.0 and found.workers == 1


@pytest.mark.parametrize(("workers", "rounds"), [(0, 48), (1, 48), (2, 24), (5, 10), (48, 1), (100, 1)])
def test_workers_share_the_frames_in_whole_rounds(workers: int, rounds: int) -> None:
    found = estimate([TriedFrame(1, 0.0, 0.1, 100.0)], TASK, 48, workers)
    assert found.total == pytest.approx(rounds * 5.0) and found.workers == max(workers, 1)


@pytest.mark.parametrize(
    ("suffixes", "passes", "bytes_"),
    [
        ((".png",), False, PNG_BYTES),
        ((".exr",), False, EXR_BYTES),
        ((".exr",), True, PASSES_BYTES),
        ((".exr", ".png"), True, PASSES_BYTES + PNG_BYTES),
    ],
)
def test_disk_is_by_pixels_kinds_of_file_and_passes(suffixes: tuple[str, ...], passes: bool, bytes_: float) -> None:
    task = replace(TASK, suffixes=suffixes, picture=replace(TASK.picture, passes=passes))
    found = estimate([TriedFrame(1, 0.0, 0.1, 100.0)], task, 10, 1)
    assert found.disk == pytest.approx(10 * 200 * 100 * bytes_ / 1e6)
