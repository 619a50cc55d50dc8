"""What workers do: sample a frame or a share of it, and make its files. These functions run in the workers' processes.

What frames have in common (meshes, plans, what remembers) is kept by a worker from frame to frame, by content. A frame whose files are there, made
from the same in the same way, is kept as it is: any task may be begun twice and does no harm.
"""

import io
import os
import resource
import shutil
import tempfile
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

from PIL import Image

from texallon.core.derived import DerivedStore, interruptible
from texallon.core.document import parse_json, read_shot
from texallon.core.document.object import FileRef
from texallon.core.document.shot import Shot
from texallon.core.render.film.division import ShareOfFilm
from texallon.core.render.film.film import Film
from texallon.core.render.film.shares import SampledShare, join_shares, sampled_share
from texallon.farm.code_state import check_code
from texallon.farm.kept import kept_folder
from texallon.farm.remote import TOPIC
from texallon.farm.task import FrameReport, FrameTask, VideoTask
from texallon.farm.vault import Vault
from texallon.formats.disk_cache import DiskCache
from texallon.formats.shot_files import ShotFiles
from texallon.frame_files import Order, is_of
from texallon.render_file import Bytes, develop, sample
from texallon.video_of_frames import frames_in, make_video, shown_as_video

TELL_EVERY = 0.4
"""Seconds between two such messages."""

THUMBNAIL = (160, 90)
"""Pixels of a small picture, at most."""


class VaultFiles(ShotFiles):
    """A document's files out of a vault, each fetched once."""

    def __init__(self, vault: Vault, kept: Path) -> None:
        super().__init__()
        self._vault, self._kept = vault, kept

    def path(self, ref: FileRef) -> Path:
        if not ref.sha256:
            raise FileNotFoundError(f"the file “{ref.file}” has no digest by which a worker could find it")
        try:
            return self._vault.fetch(ref.sha256, Path(ref.file).suffix.lower(), self._kept)
        except FileNotFoundError as error:
            raise FileNotFoundError(f"the file “{ref.file}” that the shot refers to is not there") from error


@lru_cache(maxsize=1)
def worker_store() -> DerivedStore:
    """What this worker keeps from frame to frame."""
    return DerivedStore(disk=DiskCache(kept_folder() / "derived"))


@lru_cache(maxsize=8)
def _vault(url: str, results: str = "") -> Vault:
    return Vault(url, results)


@lru_cache(maxsize=8)
def document_of(url: str, digest: str) -> Shot:
    """A document in a vault.

    Parameters
    ----------
    url : str
        Of the vault.
    digest : str
        SHA-256 of the document.
    """
    path = _vault(url).fetch(digest, ".json", kept_folder() / "files")
    return read_shot(parse_json(path.read_text()))


def given(task: FrameTask) -> tuple[Shot, ShotFiles, Order]:
    """What a task speaks of: its document, where its files are, and how it is made.

    Parameters
    ----------
    task : FrameTask
        Of a frame.

    Raises
    ------
    OtherCodeError
        Where it is for another state of the code.
    """
    check_code(task.code)
    threads = task.picture.threads or int(os.environ.get("TEXALLON_WORKER_THREADS") or os.cpu_count() or 1)
    files = VaultFiles(_vault(task.vault), kept_folder() / "files")
    return document_of(task.vault, task.document), files, replace(task.picture, threads=threads)


def sample_share(task: FrameTask, share: ShareOfFilm) -> SampledShare:
    """Sample a share of a frame.

    Parameters
    ----------
    task : FrameTask
        Of the frame.
    share : ShareOfFilm
        Which rows and samples.
    """
    document, files, order = given(task)
    wanted = _wanted()
    _wait(task.delay, wanted)
    with interruptible(wanted):
        film = sample(document, files, order, worker_store(), _teller(share.last), share, wanted)
    return sampled_share(film, share)


def finish_frame(task: FrameTask, shares: Sequence[SampledShare], begun: float = 0.0) -> FrameReport:
    """Join shares that several workers have sampled, and make the frame's files.

    Parameters
    ----------
    task : FrameTask
        Of the frame.
    shares : sequence of SampledShare
        All of it, in any order.
    begun : float
        When the first was asked for, seconds since the epoch; 0 for now.
    """
    started = time.time()
    document, files, order = given(task)
    film = Film(*order.size, len(document.light_groups) + 1, order.passes, order.noise)
    join_shares(film, shares)
    with interruptible(_wanted()):
        return _made(task, document, files, order, film, min(begun or started, started))


def render_frame_task(task: FrameTask) -> FrameReport:
    """Render a frame from start to end, unless its files are there.

    Parameters
    ----------
    task : FrameTask
        What is wanted.
    """
    started = time.time()
    kept = kept_files(task)
    if kept is not None:
        return FrameReport(0.0, memory(), _worker_name(), kept, _thumbnail_of(task), (), True)
    document, files, order = given(task)
    wanted = _wanted()
    _wait(task.delay, wanted)
    with interruptible(wanted):
        film = sample(document, files, order, worker_store(), _teller(order.samples), None, wanted)
        return _made(task, document, files, order, film, started)


def video_of_frames(task: VideoTask) -> None:
    """Make a video of frames that are there.

    Parameters
    ----------
    task : VideoTask
        Which frames, and where it goes.

    Raises
    ------
    FileNotFoundError, ValueError
        Where a frame is not there any more, or frames differ in size.
    """
    vault = _vault(task.vault)
    rate = document_of(task.vault, task.document).frames.rate
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for each in task.frames:
            with vault.opened(each) as path:
                shutil.copy(path, folder / path.name)
        make_video(frames_in(folder), folder / "video.mp4", rate, task.burn_in)
        vault.write(task.out, (folder / "video.mp4").read_bytes())


def kept_files(task: FrameTask) -> tuple[str, ...] | None:
    """The names of a frame's files where all are there and say that they were made from the same.

    Parameters
    ----------
    task : FrameTask
        What is wanted.
    """
    vault = _vault(task.vault, task.results)
    for name in task.files:
        try:
            with vault.opened(name) as path:
                if not is_of(path, task.made_from):
                    return None
        except FileNotFoundError:
            return None
    return task.files


def _made(task: FrameTask, document: Shot, files: ShotFiles, order: Order, film: Film, started: float) -> FrameReport:
    vault = _vault(task.vault, task.results)
    with tempfile.TemporaryDirectory() as name:
        outs = [Path(name) / Path(each).name for each in task.files]
        shown = develop(document, files, order, film, outs, dict(task.made_from), worker_store())
        for out, own in zip(outs, task.files, strict=True):
            if not is_of(out, task.made_from):
                raise OSError(f"{out.name}: what was written can't be read again")
            vault.write(own, out.read_bytes())
    warnings = [] if film.volumes is None else film.volumes.warnings()
    return FrameReport(time.time() - started, memory(), _worker_name(), task.files, _thumbnail(shown), tuple(warnings))


def _thumbnail(shown: Bytes) -> bytes:
    small = Image.fromarray(shown)
    small.thumbnail(THUMBNAIL)
    data = io.BytesIO()
    small.save(data, format="PNG")
    return data.getvalue()


def _thumbnail_of(task: FrameTask) -> bytes:
    """Of a frame whose files are there."""
    name = next((each for each in task.files if each.endswith(".png")), task.files[0])
    with _vault(task.vault, task.results).opened(name) as path:
        return _thumbnail(shown_as_video(path))


def memory() -> float:
    """The most memory that this process has had, MB."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def _worker_name() -> str:
    from distributed import get_worker

    try:
        return str(get_worker().name)
    except ValueError:  # not in a worker: in a test, or by hand
        return ""


def _wanted() -> Callable[[], bool]:
    """Whether this task is still wanted: a worker's own list of tasks tells when one was given up while it runs."""
    from distributed import get_worker

    try:
        worker = get_worker()
    except ValueError:
        return lambda: True
    key = worker.get_current_task()

    def wanted() -> bool:
        task = worker.state.tasks.get(key)
        return task is not None and task.state in ("executing", "long-running")

    return wanted


def _teller(total: int) -> Callable[[int, Film], None]:
    """Tells the scheduler how far a task is, now and then."""
    from distributed import get_worker

    try:
        worker = get_worker()
    except ValueError:
        return lambda done, film: None
    key, last = str(worker.get_current_task()), [0.0]

    def report(done: int, film: Film) -> None:
        now = time.monotonic()
        if now - last[0] >= TELL_EVERY or done == total:
            last[0] = now
            # The library writes the worker's address under "worker".
            said = {"key": key, "done": done, "total": total, "by": str(worker.name), "memory": memory()}
            worker.log_event(TOPIC, said)

    return report


def _wait(seconds: float, wanted: Callable[[], bool]) -> None:
    """Stand still for a while, as a slow machine would; ends sooner where nobody waits for it."""
    until = time.monotonic() + seconds
    while time.monotonic() < until and wanted():
        time.sleep(min(0.05, max(until - time.monotonic(), 0)))
