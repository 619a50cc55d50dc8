"""One mask, channel or step alone: at once from one sample a pixel, then with smooth edges."""

from dataclasses import asdict, replace

import numpy as np

from texallon.core.derived import Cost
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.render.quick_shapes import quick_shapes
from texallon.engine.encode import Bytes, jpeg
from texallon.engine.handles import gizmo, locator_handles
from texallon.engine.outlines import outlines
from texallon.engine.paint import Range, bounded, grid_picture, paint, range_of, scale_strip
from texallon.engine.schedule import Importance
from texallon.engine.stage_target import signal_plan
from texallon.engine.work import Work
from texallon.messages.to_page import PictureHead

SMOOTH_EDGES = 8
"""Samples within each pixel that a signal shown alone ends with."""

SENT_AT = (1, 4, SMOOTH_EDGES)
"""Samples after which it is sent."""


class SignalPainter:
    """Adds up samples of the signal for one state of the window."""

    def __init__(self) -> None:
        self._epoch = -1
        self._sum = np.zeros((1, 1, 3), np.float32)
        self._span = Range(0.0, 1.0, 0.1)
        self.samples = 0

    def begin(self, work: Work) -> None:
        """Forget what was added up for another state."""
        if self._epoch != work.epoch:
            self._epoch, self.samples = work.epoch, 0

    def add(self, work: Work) -> None:
        """One more sample, sent where it is time."""
        self.begin(work)
        picture, kind = self._painted(work, work.gbuffer(*work.window.size, sample=self.samples))
        self._sum = picture.astype(np.float32) if self.samples == 0 else self._sum + picture
        self.samples += 1
        if self.samples in SENT_AT:
            self._send(work, np.rint(self._sum / self.samples).astype(np.uint8), kind == "number", "full")

    def send_coarse(self, work: Work) -> None:
        """A picture of half the size, whose points stand for what those of the whole do."""
        width, height = (max(each // 2, 1) for each in work.window.size)
        picture, kind = self._painted(work, work.gbuffer(width, height, detail=0.5))
        self._send(work, picture, kind == "number", "coarse")

    def _painted(self, work: Work, points: GBuffer) -> tuple[Bytes, str]:
        target = work.window.target
        plan, kind = signal_plan(work.shot, target)
        look = work.seen_index(points, target.look)
        value = points.batch(look).values(plan, work.pool)["value"]
        if kind == "warp":
            return grid_picture(points, look, value), kind
        if self.samples == 0:
            self._span = bounded(value) if target.kind == "mask" else range_of(value)
        return paint(points, look, value, kind == "colour", self._span, target.style), kind

    def _send(self, work: Work, shown: Bytes, has_range: bool, stage: str) -> None:
        head = {
            "stage": stage,
            "samples": self.samples,
            "seconds": 0.0,
            "left": None,
            "finished": False,
            "width": shown.shape[1],
            "height": shown.shape[0],
            "show": work.window.target,
            "range": asdict(self._span) if has_range else None,
            "scale": scale_strip(self._span, work.window.target.style) if has_range else "",
            "handles": locator_handles(work.shot, work.graph.view(*work.window.size)),
            "outlines": outlines(work.shot, work.window.bench.recipe, work.graph.view(*work.window.size)),
            "gizmo": gizmo(work.shot, work.window.chosen, work.graph.view(*work.window.size)),
        }
        work.send(PictureHead, head, jpeg(shown))


class CoarseSignal:
    """The signal at half the size, where points are not known yet: while what is seen is moved or displaced anew, or the eye moves."""

    name = "coarse signal"
    cost, importance = Cost.INSTANT, Importance.LOOKED_AT

    def __init__(self, painter: SignalPainter) -> None:
        self._painter = painter

    def pending(self, work: Work) -> bool:
        return work.window.target.kind != "picture"

    def step(self, work: Work) -> None:
        self._painter.begin(work)
        quick = quick_shapes(work.graph)
        if quick is not None:
            self._painter.send_coarse(replace(work, graph=quick))
        elif not work.gbuffer(*work.window.size).is_traced(work.look_index(work.window.target.look)):
            self._painter.send_coarse(work)
        work.done.add(self.name)


class FirstSignal:
    """The signal from one sample a pixel."""

    name = "first signal"
    cost, importance = Cost.INSTANT, Importance.LOOKED_AT

    def __init__(self, painter: SignalPainter) -> None:
        self._painter = painter

    def pending(self, work: Work) -> bool:
        return work.window.target.kind != "picture"

    def step(self, work: Work) -> None:
        self._painter.begin(work)
        self._painter.add(work)
        work.done.add(self.name)


class SmoothEdges:
    """More samples within each pixel."""

    name = "smooth edges"
    cost, importance = Cost.BACKGROUND, Importance.USEFUL

    def __init__(self, painter: SignalPainter) -> None:
        self._painter = painter

    def pending(self, work: Work) -> bool:
        return work.window.target.kind != "picture"

    def step(self, work: Work) -> None:
        self._painter.add(work)
        if self._painter.samples >= SMOOTH_EDGES:
            work.done.add(self.name)
