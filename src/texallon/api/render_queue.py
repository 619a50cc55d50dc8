"""The server's queue of frames: its list is the database's, its workers are of a cluster of its own or of a farm."""

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Literal

from distributed import Client
from pydantic import BaseModel, Field
from sqlalchemy.exc import SQLAlchemyError

from texallon.farm.cluster import FarmSettings, OwnCluster, connect
from texallon.farm.dispatcher import Dispatcher
from texallon.farm.estimate import Estimate, TriedFrame, estimate, tried_frames, try_frame
from texallon.farm.ledger import WantedFrame, given_up, words_of
from texallon.farm.order import Places, tasks_of
from texallon.farm.remote import video_of_frames
from texallon.farm.task import FrameReport, Progress, VideoTask
from texallon.farm.vault import Vault
from texallon.formats.exr import Beyond, Compression
from texallon.frame_files import Order, RangeOrder, Suffix
from texallon.store.renders import Render, RenderStore


class RenderHow(BaseModel):
    """How the frames of an order are made."""

    size: list[int] = Field(min_length=2, max_length=2)
    samples: int = Field(ge=1, le=65536)
    noise: float = Field(0.0, ge=0, le=1)
    denoise: bool = True
    passes: bool = False
    formats: list[Literal["exr", "png"]] = Field(["exr", "png"], min_length=1, max_length=2)
    compression: Compression = "zip"
    beyond: Beyond = "float"
    burn_in: bool = False

    @property
    def suffixes(self) -> tuple[Suffix, ...]:
        """Of its files."""
        return tuple(suffix for suffix in (".exr", ".png") if suffix[1:] in self.formats)  # type: ignore[return-value]


def folder_of(render_id: int) -> str:
    """Where an order's files lie among the results."""
    return f"{render_id:06d}"


class RenderQueue:
    """Sends the frames of orders to workers, begun with the first that waits.

    Parameters
    ----------
    store : RenderStore
        The list of orders.
    vault : Vault
        Where workers find what they need, and put what they make.
    farm : FarmSettings
        A farm's address, or how many workers of this machine's own.
    kept : Path
        A folder for workers of this machine's own.
    """

    def __init__(self, store: RenderStore, vault: Vault, farm: FarmSettings, kept: Path) -> None:
        self.store, self.vault, self.farm = store, vault, farm
        self.own = None if farm.address else OwnCluster(farm.workers, farm.threads, kept)
        self.progress: dict[tuple[int, int], Progress] = {}
        """How far frames are that run, by order and frame."""
        self.dispatcher = Dispatcher(self, self._connected)
        self._of_id: dict[str, tuple[int, int]] = {}

    def start(self) -> None:
        """Begin; what ran when the server last ended waits again."""
        self.dispatcher.start()

    def close(self) -> None:
        """End, with the workers of this machine's own."""
        self.dispatcher.close()
        if self.own is not None:
            self.own.close()
        self.store.release()

    def _connected(self) -> Client:
        address = self.farm.address or (self.own.address if self.own is not None else "")
        return connect(address, self.farm.tls)

    def estimate(self, how: RenderHow, frames: Sequence[int], shot: str, document: str) -> Estimate:
        """What an order would take, by a few rows of a few frames; waits for a worker. Raises `FarmError`.

        Parameters
        ----------
        how : RenderHow
            How frames are made.
        frames : sequence of int
            Which.
        shot : str
            Its name.
        document : str
            Digest in the vault.
        """
        wanted = tasks_of(range_of(how, tried_frames(frames)), "estimate", shot, Places(self.vault.url, document))
        tried = self.dispatcher.run_all(try_frame, [(each.task,) for each in wanted])
        workers = self.farm.workers if not self.farm.address else len(self.dispatcher.workers)
        return estimate([TriedFrame(*each) for each in tried], wanted[0].task, len(frames), workers)

    def video(self, render: Render) -> str:
        """Have a worker make a video of an order whose frames are all done; gives its name among the results. Raises `FarmError` or `ValueError`.

        Parameters
        ----------
        render : Render
            With its frames.
        """
        how, folder = RenderHow.model_validate(render.how), folder_of(render.id)
        names = [next((name for name in each.files if name.endswith(".png")), each.files[0]) for each in render.frames]
        made = VideoTask(
            self.vault.url, render.document, tuple(f"{folder}/{name}" for name in names), f"{folder}/video.mp4",
            how.burn_in and "png" not in how.formats,
        )  # fmt: skip
        self.dispatcher.run_all(video_of_frames, [(made,)])
        return made.out

    passing: tuple[type[Exception], ...] = (SQLAlchemyError,)

    # -- as a ledger ----------------------------------------------------------------------------------------------

    def waits(self) -> bool:
        return self.store.holds() and self.store.waits()

    def take(self) -> WantedFrame | None:
        found = self.store.take() if self.store.holds() else None
        if found is None:
            return None
        render, frame, of = found
        order = range_of(RenderHow.model_validate(render.how), [frame], render.said, folder_of(render.id))
        # One frame alone is divided among all workers; of several each worker has its own.
        workers = len(self.dispatcher.workers) // of
        places = Places(self.vault.url, render.document)
        wanted = tasks_of(order, str(render.id), render.shot, places, workers)[0]
        self._of_id[wanted.id] = (render.id, frame)
        return wanted

    def unwanted(self, running: Sequence[str]) -> Iterable[str]:
        if not running:
            return []
        wanted = self.store.running(self._of_id[each] for each in running)
        return [each for each in running if self._of_id[each] not in wanted]

    def progressed(self, frame: str, progress: Progress) -> None:
        self.progress[self._of_id[frame]] = progress

    def _ended(self, frame: str) -> tuple[int, int]:
        """Of which order a frame is, and its number; from now on it is on its way no more."""
        which = self._of_id.pop(frame)
        self.progress.pop(which, None)
        return which

    def done(self, frame: str, report: FrameReport) -> None:
        render_id, number = self._ended(frame)
        thumbnail = self.vault.put(report.thumbnail, ".png")
        result = {
            "seconds": round(report.seconds, 3), "memory": round(report.memory, 1), "worker": report.worker,
            "files": [name.rpartition("/")[2] for name in report.files], "thumbnail": thumbnail, "kept": report.kept,
        }  # fmt: skip
        said = "its files were there" if report.kept else f"made in {report.seconds:.1f} s by worker {report.worker}"
        self.store.done(render_id, number, result, "; ".join([said, *report.warnings]))

    def failed(self, frame: str, why: str, lost: bool) -> None:
        render_id, number = self._ended(frame)
        self.store.failed(render_id, number, words_of(why, lost), lost, given_up)

    def put_back(self, frame: str) -> None:
        render_id, number = self._ended(frame)
        self.store.put_back(render_id, number)


def range_of(how: RenderHow, frames: Sequence[int], said: str = "", folder: str = "") -> RangeOrder:
    """What workers are asked for.

    Parameters
    ----------
    how : RenderHow
        How frames are made.
    frames : sequence of int
        Which.
    said : str, optional
        The digest by which files name the document.
    folder : str, optional
        Among the results.
    """
    picture = Order(
        (how.size[0], how.size[1]), how.samples, 0, frames[0], how.noise, denoise=how.denoise,
        passes=how.passes and "exr" in how.formats, beyond=how.beyond, compression=how.compression, burn_in=how.burn_in,
    )  # fmt: skip
    return RangeOrder(frames, Path(folder), how.suffixes, picture, said)
