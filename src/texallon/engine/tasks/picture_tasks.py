"""The finished picture: a coarse one at once, one of half size, then samples until it is as good as was asked for."""

import time

from texallon.core.derived import Cost
from texallon.core.render.film.bloom import bloomed
from texallon.core.render.quick_shapes import quick_shapes
from texallon.core.render.transport.context import RenderContext
from texallon.engine.display import displayed, is_plain
from texallon.engine.encode import jpeg
from texallon.engine.handles import gizmo, locator_handles
from texallon.engine.outlines import outlines
from texallon.engine.schedule import Importance
from texallon.engine.stage_picture import StageImage, StagePicture
from texallon.engine.work import LastShown, Work
from texallon.messages.from_page import DisplaySettings
from texallon.messages.to_page import PictureHead

STEADY = 0.6
"""Seconds after which a window that nobody touches is sampled in large batches."""


class PictureMaker:
    """What the three tasks of the picture share: it in the making, and what was shown of it."""

    def __init__(self, picture: StagePicture, shown: LastShown) -> None:
        self.picture, self.shown = picture, shown
        self._for: tuple[int, RenderContext] | None = None

    def context(self, work: Work) -> RenderContext:
        """What is rendered, made once for each state of the window."""
        if self._for is None or self._for[0] != work.epoch:
            window = work.window
            made = self.picture.begin(work.graph, window.size, window.display.region, lambda: work.wanted())
            self._for = (work.epoch, made)
        return self._for[1]

    def show(self, work: Work, image: StageImage, context: RenderContext) -> None:
        """Send a picture as the window wants to see it, and keep the finished one as it would be rendered."""
        picture = bloomed(image.picture, work.shot.bloom, image.rough, work.store)
        exposure, settings = work.shot.camera.exposure, work.window.display
        seen = displayed(settings, picture, exposure, context.check)
        shown = self.shown
        shown.light = picture
        if image.kind == "full" and not image.rough:
            plain = seen if is_plain(settings) else displayed(DisplaySettings(), picture, exposure, context.check)
            shown.plain, shown.revision, shown.samples = plain, work.window.revision, image.samples
        left = self.picture.seconds_left()
        head = {
            "stage": image.kind,
            "samples": image.samples,
            "seconds": round(self.picture.seconds, 3),
            "left": None if left is None else round(left, 1),
            "finished": self.picture.finished(),
            "width": seen.shape[1],
            "height": seen.shape[0],
            "show": work.window.target,
            "range": None,
            "scale": "",
            "handles": locator_handles(work.shot, work.graph.view(*work.window.size)),
            "outlines": outlines(work.shot, work.window.bench.recipe, work.graph.view(*work.window.size)),
            "volumes": None if context.volumes is None else context.volumes.use()._asdict(),
            "gizmo": gizmo(work.shot, work.window.chosen, work.graph.view(*work.window.size)),
        }
        work.send(PictureHead, head, jpeg(seen, rough=image.rough))


class FirstPicture:
    """The soonest picture of a state."""

    name = "first picture"
    cost, importance = Cost.INSTANT, Importance.LOOKED_AT

    def __init__(self, maker: PictureMaker) -> None:
        self._maker = maker

    def pending(self, work: Work) -> bool:
        return work.window.target.kind == "picture"

    def step(self, work: Work) -> None:
        maker, follows = self._maker, work.window.follows
        quick = quick_shapes(work.graph)
        if quick is None:
            context = maker.context(work)
            image = maker.picture.first(context, follows)
        else:
            image, context = maker.picture.sketch(quick, work.window.size, lambda: work.wanted(), follows)
        maker.show(work, image, context)
        work.done.add(self.name)


class HalfPicture:
    """A picture of half size, where there are no samples of the full one yet."""

    name = "half picture"
    cost, importance = Cost.SLOW, Importance.LOOKED_AT

    def __init__(self, maker: PictureMaker) -> None:
        self._maker = maker

    def pending(self, work: Work) -> bool:
        window = work.window
        return window.target.kind == "picture" and not window.display.paused and not self._maker.picture.begun

    def step(self, work: Work) -> None:
        context = self._maker.context(work)
        self._maker.show(work, self._maker.picture.half(context), context)
        work.done.add(self.name)


SETTLED, BRICKS = 4, "bricks on disk"
"""After so many samples most bricks of a view are there, and are kept for the next run; by what name that is noted as done."""


class Samples:
    """One sample after the other, until the picture is finished."""

    name = "samples"
    cost, importance = Cost.BACKGROUND, Importance.USEFUL

    def __init__(self, maker: PictureMaker) -> None:
        self._maker = maker

    def pending(self, work: Work) -> bool:
        return work.window.target.kind == "picture" and not work.window.display.paused

    def step(self, work: Work) -> None:
        maker = self._maker
        context = maker.context(work)
        steady = time.monotonic() - work.window.touched > STEADY
        image = maker.picture.more(context, steady)
        if image is not None:
            maker.show(work, image, context)
        film, finished = maker.picture.film, maker.picture.finished()
        if finished or (film is not None and film.samples >= SETTLED and BRICKS not in work.done):
            work.done.add(BRICKS)
            work.graph.filled.keep_on_disk()
        if finished:
            work.done.add(self.name)
