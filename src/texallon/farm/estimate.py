"""How long frames will take and what they need, before they are begun: by a few rows of a few of them."""

import time
from collections.abc import Sequence
from typing import NamedTuple

from texallon.farm.task import FrameTask

ROWS = 16
"""Of each strip that is tried, one tile high."""

STRIPS = 3
"""That are tried of a frame: a sixth, a half and five sixths down."""

TRIED = 4
"""Samples of each strip, after one that is not counted."""

MOST_FRAMES = 3

PNG_BYTES, EXR_BYTES, PASSES_BYTES = 1.3, 3.5, 98.0
"""A pixel, about: as shown, light alone, and with all passes. Measured on frames 10 to 15 of GH010, GH070, GH140 and GH240, 320×180, denoised: 0.7…1.8,
2.9…4.2 and 74…114."""


class TriedFrame(NamedTuple):
    """What a frame took: seconds before its first sample, seconds of a sample of all its pixels, and the most memory of the worker, MB."""

    frame: int
    before: float
    sample: float
    memory: float


class Estimate(NamedTuple):
    """Seconds of a frame (least, mean, most of those that were tried) without what is made once for all, seconds of all on the workers there are with
    that, MB of memory of each worker, and MB on disk. With a noise threshold frames may end sooner."""

    frame: tuple[float, float, float]
    total: float
    workers: int
    memory: float
    disk: float


def tried_frames(frames: Sequence[int]) -> list[int]:
    """Which frames are tried: the first, the middle and the last.

    Parameters
    ----------
    frames : sequence of int
        That are wanted.
    """
    return sorted({frames[0], frames[len(frames) // 2], frames[-1]})[:MOST_FRAMES]


def try_frame(task: FrameTask) -> TriedFrame:
    """Sample strips of a frame, and tell what that takes; runs in a worker.

    Parameters
    ----------
    task : FrameTask
        Of the frame.
    """
    from texallon.core.render.film.division import ShareOfFilm
    from texallon.core.render.film.film import Film
    from texallon.farm.work import given, memory, worker_store
    from texallon.render_file import sample

    document, files, order = given(task)
    store = worker_store()  # as frames find it: what they have in common is made by the first
    width, height = order.size
    rows = min(ROWS, height)
    took, counted = 0.0, 0
    before = 0.0
    for strip in range(STRIPS):
        top = min(max(round(height * (2 * strip + 1) / (2 * STRIPS)) - rows // 2, 0), height - rows)
        moments = [time.perf_counter()]

        def report(done: int, film: Film, moments: list[float] = moments) -> None:
            moments.append(time.perf_counter())

        share = ShareOfFilm((top, top + rows), 0, TRIED + 1)
        sample(document, files, order, store, report, share)
        # The first sample pays for what is filled and compiled on the way.
        took += moments[-1] - moments[1]
        counted += TRIED * rows * width
        before += moments[1] - moments[0]
    of_all = took / counted * width * height
    return TriedFrame(task.picture.frame, before, of_all, memory())


def estimate(tried: Sequence[TriedFrame], task: FrameTask, count: int, workers: int) -> Estimate:
    """What an order takes, by the frames that were tried.

    Parameters
    ----------
    tried : sequence of TriedFrame
        One at least.
    task : FrameTask
        Of one of its frames.
    count : int
        Frames in all.
    workers : int
        That there are.
    """
    # The least that comes before a first sample comes before each; the rest (meshes, histories, bricks) is made once by each worker.
    always = min(each.before for each in tried)
    once = sum(each.before - always for each in tried)
    seconds = sorted(always + each.sample * task.picture.samples for each in tried)
    mean = sum(seconds) / len(seconds)
    pixels = task.picture.size[0] * task.picture.size[1]
    exr = PASSES_BYTES if task.picture.passes else EXR_BYTES
    disk = pixels * (PNG_BYTES * (".png" in task.suffixes) + exr * (".exr" in task.suffixes))
    rounds = -(-count // max(workers, 1))
    return Estimate(
        (seconds[0], mean, seconds[-1]),
        once + mean * rounds,
        max(workers, 1),
        max(each.memory for each in tried),
        disk * count / 1e6,
    )
