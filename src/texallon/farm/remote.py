"""What workers are asked to do, by name: whoever asks need not load what renders."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from texallon.core.render.film.division import ShareOfFilm
from texallon.farm.task import FrameReport, FrameTask, VideoTask

if TYPE_CHECKING:
    from texallon.core.render.film.shares import SampledShare

CODE = "texallon_code"
"""The name by which the scheduler knows each worker's state of the code."""

TOPIC = "texallon"
"""Under which workers say how far they are."""


def render_frame_task(task: FrameTask) -> FrameReport:
    """As `work.render_frame_task`."""
    from texallon.farm import work

    return work.render_frame_task(task)


def sample_share(task: FrameTask, share: ShareOfFilm) -> "SampledShare":
    """As `work.sample_share`."""
    from texallon.farm import work

    return work.sample_share(task, share)


def finish_frame(task: FrameTask, shares: Sequence["SampledShare"], begun: float) -> FrameReport:
    """As `work.finish_frame`."""
    from texallon.farm import work

    return work.finish_frame(task, shares, begun)


def video_of_frames(task: VideoTask) -> None:
    """As `work.video_of_frames`."""
    from texallon.farm import work

    work.video_of_frames(task)
