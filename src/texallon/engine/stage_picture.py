"""The stage's picture in the making: a coarse film, one of half size, the full one, each a derived value of what it shows."""

import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from weakref import WeakKeyDictionary

import numpy as np

from texallon.core.derived import Derived, DerivedStore, Given, content_key
from texallon.core.document.light_group import LightGroup
from texallon.core.document.resolved import ResolvedShot
from texallon.core.document.shot import Shot
from texallon.core.kernel import Array
from texallon.core.render.film.division import Region
from texallon.core.render.film.film import Film
from texallon.core.render.film.light_mix import mix_light_groups
from texallon.core.render.film.pictures import denoised_group, denoised_picture, new_film
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import group_weights
from texallon.core.render.shutter import OpenShutter, open_shutter
from texallon.core.render.transport.context import RenderContext
from texallon.core.render.volume.volumes import Volumes
from texallon.engine.light_mix_preview import QUIET, LightMixPreview

SMOOTHED = 64
"""Samples up to which the stage shows the denoised picture."""

COARSE_PIXELS = 14_400
"""Size of the first picture, about."""

LEAST_PIXELS = 1_500
"""Size of the picture that follows a hand, at least: it is as large as can be made in time."""

MOST_PIXELS = 57_600
"""And at most: half of a stage of 640×360."""

FOLLOWING = 0.07
"""Seconds that such a picture may take, so that ten or more are seen in one: to prepare, to sample and to smooth."""

LEAST_FOLLOWING = 0.02
"""Of those, for sampling and smoothing at least, however long an edit takes to prepare."""

FOLLOWING_BOUNCES = (2, 4)
"""Times that light turns in such a picture: the fewer where even the least one takes too long, and more again where there is time."""

ROUGHLY = 0.5
"""How finely the stage looks volumes up, against finished pictures: less than a third of the bricks, which agree in the mean."""

HASTILY = 0.6
"""How finely pictures that follow a hand look them up, against that: of a smoothed sample nobody sees the difference, and half as many bricks are met."""

SHOWN_AT = (1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48)
"""Samples after which a picture is sent; from there on every 32."""


def without_light_mix(document: Shot) -> Shot:
    """A document apart from how its light groups are weighted and from which views are kept: neither changes what is sampled."""
    names = [LightGroup.model_construct(name=each.name) for each in document.light_groups]
    return document.model_copy(update={"light_groups": names, "views": []})


@dataclass(frozen=True)
class StageImage:
    """A picture `(height, width, 3)` for the stage, of a kind (`coarse`, `half`, `full`), from some samples."""

    picture: Array
    kind: str
    samples: int
    rough: bool = False
    """Whether a better one follows at once."""


@dataclass(frozen=True)
class _Smooth:
    """What was shown of a film in some state, and how the light groups were weighted."""

    state: str
    weights: Array
    picture: Array


@dataclass
class _Times:
    """Of one film: seconds spent on it in all, those that sampling took, and the samples that were made in them."""

    spent: float = 0.0
    sampling: float = 0.0
    samples: int = 0


class StagePicture:
    """The picture of one window. What it is made from lies in the store; here is what was shown, to go on from."""

    def __init__(self, store: DerivedStore, pool: ThreadPoolExecutor) -> None:
        self._store, self._pool = store, pool
        self._graph: FrameGraph | None = None
        self._film_value: Derived[Film] | None = None
        self.film: Film | None = None
        """The full picture in the making, once it has any samples."""
        self._shutter: OpenShutter | None = None
        self._half: Film | None = None
        self._rough: Array | None = None
        self._smooth: _Smooth | None = None
        self._quick = False
        self._preview: tuple[tuple[str, bool], LightMixPreview] | None = None
        self._weights = np.ones((1, 3), np.float32)
        self._region: Region | None = None
        self._samples = 0
        self._following = float(COARSE_PIXELS)
        self._bounces = FOLLOWING_BOUNCES[1]
        """Pixels of a picture that can be made while a hand moves, by how long the last ones took."""
        self._preparing = 0.0
        """Seconds that it took to prepare the picture begun last."""
        self._times: WeakKeyDictionary[Film, _Times] = WeakKeyDictionary()
        self._time = _Times()

    def begin(
        self, graph: FrameGraph, size: tuple[int, int], region: Region | None, wanted: Callable[[], bool]
    ) -> RenderContext:
        """What to render. A film that shows the same is gone on with, also after other states came between."""
        shot, context_of = graph.shot, self._context_of(graph.shot, size, wanted)
        context = self._prepare(graph, context_of)
        self._shutter = open_shutter(graph, size, context_of)
        # What moves while the shutter is open is known to the whole document, not by the shot at one time.
        moves = None if self._shutter is None else without_light_mix(shot.document or shot)
        film = new_film.of(
            content_key((context.content_key, moves)), *size, len(context.lights.names), False, shot.sampling.noise, region
        )  # fmt: skip
        self._region, self._samples = region, shot.sampling.samples
        if self._film_value is None or film.content_key != self._film_value.content_key:
            self._half = self._smooth = self._rough = self._preview = None
            self._film_value = film
        kept = self._store.value(film)
        self._time = self._times.setdefault(kept, _Times())
        self.film = kept if kept.samples else None
        return context

    def sketch(
        self, graph: FrameGraph, size: tuple[int, int], wanted: Callable[[], bool], follows: bool
    ) -> tuple[StageImage, RenderContext]:
        """A coarse picture of a shot that stands in for another until that is made, and what was rendered; no film is gone on with."""
        context = self._prepare(graph, self._context_of(graph.shot, size, wanted))
        self.film = self._film_value = self._shutter = self._half = self._smooth = self._preview = None
        self._time, self._samples = _Times(), graph.shot.sampling.samples
        return self.first(context, follows), context

    def _context_of(
        self, shot: ResolvedShot, size: tuple[int, int], wanted: Callable[[], bool]
    ) -> Callable[[FrameGraph], RenderContext]:
        def context_of(moment: FrameGraph) -> RenderContext:
            made = moment.context(*size, final=False, steady=True)
            made = replace(made, wanted=wanted, volumes=self._roughly(made.volumes, shot))
            made.check()
            return made

        return context_of

    def _prepare(self, graph: FrameGraph, context_of: Callable[[FrameGraph], RenderContext]) -> RenderContext:
        self._graph = graph
        begun = time.perf_counter()
        context = context_of(graph)
        self._preparing = time.perf_counter() - begun
        self._weights = group_weights(graph.shot)
        return context

    @property
    def seconds(self) -> float:
        """Spent on the picture so far, also before other states came between."""
        return self._time.spent

    @seconds.setter
    def seconds(self, value: float) -> None:
        self._time.spent = value

    @property
    def begun(self) -> bool:
        """Whether the full picture has any samples."""
        return self.film is not None

    def first(self, context: RenderContext, follows: bool = False) -> StageImage:
        """The soonest picture: of the film where it has samples, else a coarse one.

        Parameters
        ----------
        context : RenderContext
            What is rendered.
        follows : bool
            Whether a hand is moving, which the picture is to follow: it is then only as large as can be made in time.
        """
        film = self.film
        if film is not None:
            return StageImage(self._mixed(film), "full", film.samples, self._quick)
        width, height = context.view.width, context.view.height
        wanted = self._following if follows else COARSE_PIXELS
        scale = max(2, round((width * height / wanted) ** 0.5))
        small = self._part_film(context, scale)
        resized = replace(self._resized(context, small, hasty=True), disperses=False)
        if follows:
            resized = replace(resized, bounces=min(resized.bounces, self._bounces))
        begun = time.perf_counter()
        small.add_sample(resized, self._pool, self._store)
        if resized.volumes is not None:
            resized.volumes.fill_noted(self._pool)
        self._rough = small.denoised(context.check, self._weights)
        if follows:
            left = max(FOLLOWING - self._preparing, LEAST_FOLLOWING)
            fits = small.width * small.height * left / max(time.perf_counter() - begun, 1e-4)
            self._following = min(max((self._following + fits) / 2, LEAST_PIXELS), MOST_PIXELS)
            fewest, most = FOLLOWING_BOUNCES
            more = (self._following > 4 * LEAST_PIXELS) - (fits < LEAST_PIXELS)
            self._bounces = min(max(self._bounces + more, fewest), most)
        return StageImage(self._rough, "coarse", small.samples)

    def half(self, context: RenderContext) -> StageImage:
        """A picture of half size."""
        film = self._half or self._part_film(context, 2)
        self._half = film
        film.add_sample(replace(self._resized(context, film), disperses=False), self._pool)
        self._rough = film.denoised(context.check, self._weights)
        return StageImage(self._rough, "half", film.samples)

    def more(self, context: RenderContext, steady: bool = False) -> StageImage | None:
        """One more sample; a picture where it is time for one.

        Parameters
        ----------
        steady : bool
            Whether nothing has been asked for a while, so that paths are followed in large batches.
        """
        if self._quick and self.film is not None:  # what was weighted anew in haste is made well first
            shown = StageImage(self._mixed_well(self.film), "full", self.film.samples)
            self._quick = False
            return shown
        if self.film is not None and self.finished():  # no sample more than was asked for
            return self.first(context)
        assert self._film_value is not None
        film = self._store.value(self._film_value)
        begun = time.perf_counter()
        if self._shutter is None:
            film.add_sample(context, self._pool, self._store, large=steady)
        else:  # each sample has other pixels at each time: what camera rays hit is not met again
            film.add_sample(self._shutter, self._pool, large=steady)
        self._time.sampling += time.perf_counter() - begun
        self._time.samples += 1
        self.film = film
        count = film.samples
        if count in SHOWN_AT or count % 32 == 0 or self.finished():
            return StageImage(self._smoothed(film), "full", count)
        return None

    def finished(self) -> bool:
        """Whether the picture is as good as the shot asks for."""
        film = self.film
        return film is not None and (film.samples >= self._samples or film.done)

    def seconds_left(self) -> float | None:
        """How long until it is, at most."""
        film = self.film
        if film is None or not film.samples:
            return None
        left = 0 if film.done else max(self._samples - film.samples, 0)
        if left and not self._time.samples:  # others have made what there is: how long one takes is not known yet
            return None
        return left * self._time.sampling / max(self._time.samples, 1)

    def _resized(self, context: RenderContext, film: Film, hasty: bool = False) -> RenderContext:
        graph = self._graph
        assert graph is not None
        volumes, view = self._roughly(context.volumes, graph.shot, hasty), graph.view(film.width, film.height)
        return replace(context, view=view, volumes=volumes, points_seen=lambda: graph.points_seen(view))

    @staticmethod
    def _roughly(volumes: Volumes | None, shot: ResolvedShot, hasty: bool = False) -> Volumes | None:
        detail = shot.sampling.volume_detail * ROUGHLY * (HASTILY if hasty else 1)
        return None if volumes is None else volumes.looked_up(detail, hasty)

    def _part_film(self, context: RenderContext, scale: int) -> Film:
        view = context.view
        return Film(max(view.width // scale, 8), max(view.height // scale, 8), len(context.lights.names))

    def _state(self, film: Film) -> str:
        """Tells a film in its present state from what it was, and from others."""
        assert self._film_value is not None
        return f"{self._film_value.content_key}/{film.samples}"

    def _mixed(self, film: Film) -> Array:
        """The film with its light groups weighted as the shot says now; in haste, where they were weighted otherwise before."""
        weights, smooth, state = self._weights, self._smooth, self._state(film)
        self._quick = False
        if smooth is None or smooth.state != state or smooth.weights.shape != weights.shape:
            return self._smoothed(film)
        if (smooth.weights == weights).all():
            return smooth.picture
        self._quick = True
        wanted = [denoised_group.of(Given(film, state), number) for number in range(film.groups)]
        known = all(self._store.known(each) for each in wanted)
        if self._preview is None or self._preview[0] != (state, known):
            if known:
                groups = np.stack([self._store.value(each) for each in wanted])
            else:
                groups = np.stack([film.group(number) for number in range(film.groups)])
            noisy = not known and film.samples < QUIET
            self._preview = ((state, known), LightMixPreview(smooth.picture, smooth.weights, groups, noisy))
        return self._preview[1].mix_light_groups(weights)

    def _mixed_well(self, film: Film) -> Array:
        """The same without haste: each light group is smoothed by itself, so that the next weights are an addition."""
        weights, state = self._weights, self._state(film)
        if film.samples > SMOOTHED:
            return self._smoothed(film)
        wanted = [denoised_group.of(Given(film, state), number) for number in range(film.groups)]
        pictures = np.stack([self._store.value(each) for each in wanted])
        picture = self._filled(mix_light_groups(pictures, weights), film)
        self._smooth = _Smooth(state, weights, picture)
        return picture

    def _smoothed(self, film: Film) -> Array:
        weights, state = self._weights, self._state(film)
        if film.samples <= SMOOTHED:
            picture = self._store.value(denoised_picture.of(Given(film, state), weights, "fast"))
        else:
            picture = film.picture(weights)
        picture = self._filled(picture, film)
        self._smooth = _Smooth(state, weights, picture)
        return picture

    def _filled(self, picture: Array, film: Film) -> Array:
        """Outside the region the rough picture stays."""
        sampled = film.sampled()
        if sampled.all() or self._rough is None:
            return picture
        height, width, _ = picture.shape
        small = self._rough
        rows = np.arange(height) * small.shape[0] // height
        columns = np.arange(width) * small.shape[1] // width
        return np.where(sampled[:, :, None], picture, small[rows[:, None], columns[None]])
