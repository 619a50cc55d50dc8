"""Requests and responses about orders for frames."""

from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from texallon.api.render_queue import RenderHow, RenderQueue
from texallon.formats.exr import Compression
from texallon.store.renders import Render, RenderedFrame

MOST_AT_ONCE = 5_000
"""Frames of an order."""


class RenderPath(BaseModel):
    render_id: int = Field(ge=1, le=2**31 - 1)


class RenderFilePath(RenderPath):
    file: str = Field(pattern=r"^[\w.-]{1,120}\.(png|exr)$")


class RenderFramePath(RenderPath):
    frame: int = Field(ge=-1_000_000, le=1_000_000)


class RenderQuery(BaseModel):
    shot: int | None = Field(None, ge=1, le=2**31 - 1)
    count: int = Field(20, ge=1, le=500)


class RenderOrder(BaseModel):
    """Which frames (such as `12`, `1-48` or `1-48/4`; all where empty), and how they are made: as the shot says unless given."""

    frames: str = Field("", max_length=400)
    size: list[int] | None = Field(None, min_length=2, max_length=2)
    samples: int | None = Field(None, ge=1, le=65536)
    noise: float | None = Field(None, ge=0, le=1)
    denoise: bool = True
    passes: bool = False
    formats: list[Literal["exr", "png"]] = Field(["exr", "png"], min_length=1, max_length=2)
    compression: Compression = "zip"
    burn_in: bool = False
    priority: int = Field(0, ge=-100, le=100)


class RenderChange(BaseModel):
    """What is to become of an order."""

    state: Literal["going", "paused", "stopped"] | None = None
    priority: int | None = Field(None, ge=-100, le=100)


class FramesAgain(BaseModel):
    """Frames to render again; those that failed or were stopped where none are named."""

    frames: list[int] = Field(default_factory=list, max_length=MOST_AT_ONCE)


class RenderFrameBody(BaseModel):
    """A frame: `done` samples of `total` where it runs."""

    frame: int
    state: Literal["waiting", "running", "done", "failed", "stopped"]
    tries: int
    losses: int
    seconds: float
    memory: float
    worker: str
    log: list[str]
    files: list[str]
    thumbnail: bool
    kept: bool
    done: int
    total: int


class RenderBody(BaseModel):
    """An order. `left` is about how many seconds are left, where that can be said; `over` whether no frame waits or runs."""

    id: int
    shot_id: int
    shot: str
    revision: int
    how: RenderHow
    state: Literal["going", "paused", "stopped"]
    priority: int
    author: str
    created: str
    counts: dict[str, int]
    share: float
    left: float | None
    over: bool
    frames: list[RenderFrameBody]


class RenderList(BaseModel):
    renders: list[RenderBody]


class EstimateBody(BaseModel):
    """Seconds of a frame (least, middle, most), of all on the workers there are, MB of memory of each worker, and MB on disk. With a noise
    threshold frames may end sooner."""

    frame: list[float]
    frames: int
    total: float
    workers: int
    memory: float
    disk: float


class WorkerBody(BaseModel):
    """A worker: its name, its machine, and how many bytes it may take."""

    name: str
    host: str
    memory: int


class FarmBody(BaseModel):
    """The workers there are, at which address (empty for this machine's own), those that run another state of the code and are sent nothing, and
    why none can be reached where that is so."""

    address: str
    workers: list[WorkerBody]
    refused: list[str]
    trouble: str


def body_of(render: Render, queue: RenderQueue) -> dict[str, Any]:
    """An order as the page sees it."""
    frames = [_frame_body(render, each, queue) for each in render.frames]
    counts = dict.fromkeys(("waiting", "running", "done", "failed", "stopped"), 0)
    for each in frames:
        counts[each["state"]] += 1
    under_way = sum(each["done"] / max(each["total"], 1) for each in frames if each["state"] == "running")
    members = asdict(render) | {
        "frames": frames,
        "counts": counts,
        "share": (counts["done"] + under_way) / max(len(frames), 1),
        "left": _seconds_left(render, frames, queue),
        "over": counts["waiting"] + counts["running"] == 0,
    }
    return {name: members[name] for name in RenderBody.model_fields}


def _frame_body(render: Render, frame: RenderedFrame, queue: RenderQueue) -> dict[str, Any]:
    progress = queue.progress.get((render.id, frame.frame)) if frame.state == "running" else None
    members = asdict(frame) | {
        "thumbnail": frame.thumbnail is not None,
        "done": 0 if progress is None else progress.done,
        "total": 0 if progress is None else progress.total,
    }
    if progress is not None:
        members |= {"worker": progress.worker, "memory": round(progress.memory, 1)}
        if frame.begun is not None:
            members["seconds"] = round((datetime.now(UTC) - datetime.fromisoformat(frame.begun)).total_seconds(), 1)
    return {name: members[name] for name in RenderFrameBody.model_fields}


def _seconds_left(render: Render, frames: list[dict[str, Any]], queue: RenderQueue) -> float | None:
    """By what the frames of the order took that are made: none where none is, or it does not go on."""
    took = [each["seconds"] for each in frames if each["state"] == "done" and not each["kept"]]
    running = [each for each in frames if each["state"] == "running" and each["done"]]
    took += [each["seconds"] * each["total"] / each["done"] for each in running if 4 * each["done"] >= each["total"]]
    if render.state != "going" or not took:
        return None
    mean = sum(took) / len(took)
    waiting = sum(each["state"] == "waiting" for each in frames)
    begun = sum(1 - each["done"] / max(each["total"], 1) for each in frames if each["state"] == "running")
    return round(mean * (waiting + begun) / max(len(queue.dispatcher.workers), 1), 1)
