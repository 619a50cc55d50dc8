"""A film: samples added up into pictures, one for each light group and, where wanted, for each way that light came."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Derived, DerivedStore, Given
from texallon.core.kernel import Array, Integers
from texallon.core.render.film.denoise import denoise
from texallon.core.render.film.division import SUMMED, Region
from texallon.core.render.film.noise_level import TILE, tile_errors
from texallon.core.render.transport.context import RenderContext, SampleSource
from texallon.core.render.transport.integrator import trace
from texallon.core.render.transport.light_aovs import LIGHT_AOVS
from texallon.core.render.transport.primary import PrimaryHits, primary_hits
from texallon.core.render.volume.volumes import VolumeUse

BATCH, FINAL_BATCH = 32768, 65536
"""Paths followed together: few enough that an edit interrupts at once, or enough to make the arrays worth while."""

LEAST = 2048
"""Fewer are not worth a thread."""

FIRST_LOOK, LOOK_EVERY = 16, 8
"""Samples after which noise is looked at first, and how often from then on."""

KEPT_SAMPLES = 8
"""Samples whose primary hits are kept: an edit begins with these again."""


def _primary(context: RenderContext, pixels: Integers, sample: int) -> Derived[PrimaryHits]:
    rays = Given(context.scene.rays, context.scene.rays_key)
    return primary_hits.of(rays, context.view, context.primary_seed, sample, pixels)


def batch_size(count: int, most: int, threads: int) -> int:
    """Into parts of what size to divide paths, so that all threads are busy to the end.

    Parameters
    ----------
    count : int
        Pixels that are sampled.
    most : int
        Paths followed together.
    threads : int
        Number of threads.
    """
    rounds = -(-count // (most * threads))
    return max(-(-count // (rounds * threads)), LEAST)


class Sums(NamedTuple):
    """Samples added up: `light (layers, 3, n)` by light group and by the way it came, `guides (6, n)` albedo and normal of what is seen first,
    `half (3, n)` the light of every second sample."""

    light: Array
    guides: Array
    half: Array


class Film:
    """Sums of samples for a picture of `width` × `height` pixels, scene-linear float32.

    `groups` pictures add up to the whole; with `write_aovs` so do those of `LIGHT_AOVS`. Only pixels within `region` and `rows` (first, and
    the one after the last) are sampled, and with `noise` above 0 only those whose part of the picture is noisier than that.
    """

    def __init__(
        self,
        width: int,
        height: int,
        groups: int = 1,
        write_aovs: bool = False,
        noise: float = 0.0,
        region: Region | None = None,
        rows: tuple[int, int] | None = None,
        first_sample: int = 0,
    ) -> None:
        self.width, self.height, self.groups, self.noise = width, height, groups, noise
        self.samples = first_sample
        """Samples of the pixels that were sampled most, with those before the first of this film."""
        self._layers = groups + (len(LIGHT_AOVS) if write_aovs else 0)
        self.counts = np.zeros(width * height, np.int32)
        self._before: Sums | None = None
        self._now = self._empty()
        self._active = _pixels_in(region, width, height)
        if rows is not None:
            self._active = self._active[(self._active >= rows[0] * width) & (self._active < rows[1] * width)]
        self.volumes: VolumeUse | None = None
        """What the shot's volumes were looked up in, where it has any and the picture is finished."""

    @property
    def done(self) -> bool:
        """Whether no pixel is noisier than wanted."""
        return len(self._active) == 0

    def add_sample(
        self,
        source: SampleSource,
        pool: ThreadPoolExecutor | None = None,
        store: DerivedStore | None = None,
        large: bool = False,
    ) -> None:
        """Trace one more sample for every pixel that wants one; raises `Interrupted` when the job is no longer wanted.

        Parameters
        ----------
        source : SampleSource
            What is rendered: at a moment, or while a shutter is open.
        pool : ThreadPoolExecutor, optional
            Threads that chunks are run by.
        store : DerivedStore, optional
            Where values are kept.
        large : bool, optional
            Whether paths are followed in large batches.
        """
        active = self._active
        count = len(active)
        if count == 0:
            return
        sample = self.samples
        if sample % SUMMED == 0:
            self._close_block()
        buffers = np.empty((self._layers, 3, count), np.float32)
        guides = np.empty((6, count), np.float32)

        def work(batch: tuple[RenderContext, Integers]) -> None:
            context, chosen = batch
            context.check()
            pixels = active[chosen]
            known = None if store is None or sample >= KEPT_SAMPLES else store.value(_primary(context, pixels, sample))
            result = trace(context, pixels, sample, known)
            buffers[:, :, chosen] = result.buffers
            guides[0:3, chosen], guides[3:6, chosen] = result.albedo, result.normal

        batches, moments = [], source.split(active, sample)
        threads = max((os.cpu_count() or 1) // max(len(moments), 1), 1)
        for context, chosen in moments:
            most = FINAL_BATCH if context.final or (large and sample >= KEPT_SAMPLES) else BATCH
            size = batch_size(len(chosen), most, threads)
            batches += [(context, chosen[start : start + size]) for start in range(0, len(chosen), size)]
        for _ in map(work, batches) if pool is None else pool.map(work, batches):
            pass
        whole = count == self.width * self.height
        every: slice | Integers = slice(None) if whole else active
        self._now.light[:, :, every] += buffers
        self._now.guides[:, every] += guides
        if sample % 2:
            self._now.half[:, every] += buffers[: self.groups].sum(axis=0)
        self.counts[every] += 1
        self.samples += 1
        if self.noise > 0 and self.samples >= FIRST_LOOK and self.samples % LOOK_EVERY == 0:
            self._look_at_noise()

    def _empty(self) -> Sums:
        count = self.width * self.height
        shapes = (self._layers, 3, count), (6, count), (3, count)
        return Sums(*(np.zeros(shape, np.float32) for shape in shapes))

    def _close_block(self) -> None:
        """Begin the sums of the next samples; nothing is held twice before there are any to begin after."""
        if not self.counts.any():
            return
        if self._before is None:
            self._before, self._now = self._now, self._empty()
            return
        for total, part in zip(self._before, self._now, strict=True):
            total += part
            part[:] = 0

    def add_block(self, sums: Sums, counts: Integers, rows: slice = slice(None)) -> None:
        """Add what was sampled elsewhere: samples from a multiple of `SUMMED` on, of some rows.

        Parameters
        ----------
        sums : Sums
            Of the pixels of these rows.
        counts : Integers
            `(n,)` samples of each.
        rows : slice, optional
            Numbers of the pixels; all unless given.
        """
        if self._before is None:
            self._before = self._empty()
        for total, part in zip(self._before, sums, strict=True):
            total[..., rows] += part
        self.counts[rows] += counts
        self.samples = max(self.samples, int(self.counts.max()))

    @property
    def sums(self) -> Sums:
        """Of all samples so far."""
        if self._before is None:
            return self._now
        return Sums(*(total + part for total, part in zip(self._before, self._now, strict=True)))

    def _light(self, chosen: slice | int) -> Array:
        now: Array = self._now.light[chosen]
        return now if self._before is None else self._before.light[chosen] + now

    def _guides(self, chosen: slice) -> Array:
        now: Array = self._now.guides[chosen]
        return now if self._before is None else self._before.guides[chosen] + now

    def _look_at_noise(self) -> None:
        size = (self.height, self.width)
        whole = self._light(slice(self.groups)).sum(axis=0)
        half = self._now.half if self._before is None else self._before.half + self._now.half
        errors = tile_errors(whole, half, self.counts, size)
        of_active = errors[self._active // self.width // TILE, self._active % self.width // TILE]
        self._active = self._active[of_active > self.noise]

    def _mean(self, sums: Array) -> Array:
        mean = sums / np.maximum(self.counts, 1).astype(np.float32)
        return np.ascontiguousarray(mean.T.reshape(self.height, self.width, 3))

    def picture(self, weights: npt.ArrayLike | None = None) -> Array:
        """The mean of the samples so far, `(height, width, 3)`; `weights (groups, 3)` weigh light groups, all alike unless given.

        Parameters
        ----------
        weights : Array, optional
            `(groups, 3)` of light groups, red, green and blue.

        Returns
        -------
        Array
            `(height, width, 3)`.
        """
        if weights is None:
            return self._mean(self._light(slice(self.groups)).sum(axis=0))
        factors = np.asarray(weights, np.float32)
        return self._mean(np.einsum("gcn,gc->cn", self._light(slice(self.groups)), factors, dtype=np.float32))

    def group(self, number: int) -> Array:
        """One light group's picture, not weighted.

        Parameters
        ----------
        number : int
            Position of the light group; 0 for lights without one.
        """
        return self._mean(self._light(number))

    def part(self, name: str) -> Array:
        """The picture of light that came one way (see `LIGHT_AOVS`), groups not weighted.

        Parameters
        ----------
        name : str
            One of `LIGHT_AOVS`.
        """
        return self._mean(self._light(self.groups + LIGHT_AOVS.index(name)))

    def albedo(self) -> Array:
        """The mean albedo of what is seen first, `(height, width, 3)`: white where light passes or mirrors."""
        return self._mean(self._guides(slice(0, 3)))

    def normal(self) -> Array:
        """The mean normal of what is seen first."""
        return self._mean(self._guides(slice(3, 6)))

    def sampled(self) -> npt.NDArray[np.bool_]:
        """Which pixels have any sample, `(height, width)`."""
        return (self.counts > 0).reshape(self.height, self.width)

    def denoised(
        self,
        check: Callable[[], None] = lambda: None,
        weights: npt.ArrayLike | None = None,
        quality: Literal["fast", "high"] = "fast",
    ) -> Array:
        """The picture smoothed with the help of what the camera sees first; `high` quality for finished pictures.

        Parameters
        ----------
        check : callable, optional
            Called between pieces of work; may raise `Interrupted`.
        weights : Array, optional
            `(groups, 3)` of light groups, red, green and blue.
        quality : str, optional
            `high` for finished pictures.
        """
        check()
        picture = self.picture(weights)
        check()
        return denoise(picture, self.albedo(), self.normal(), check, quality=quality)


def _pixels_in(region: Region | None, width: int, height: int) -> Integers:
    every = np.arange(width * height, dtype=np.int32)
    if region is None:
        return every
    left, top, right, bottom = region
    x, y = (every % width + 0.5) / width, (every // width + 0.5) / height
    return every[(x >= left) & (x <= right) & (y >= top) & (y <= bottom)]
