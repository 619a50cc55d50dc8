"""A film: samples added up into a picture."""

from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Integers
from texallon.core.render.denoise import denoise
from texallon.core.render.integrator import Job, primary_hits, trace

BATCH = 12288
"""Paths followed together: few enough that an edit interrupts at once, enough to make the arrays worth while."""

Primary = tuple[Array, Array, Hits]


class PrimaryCache:
    """Camera rays and their hits for the first samples of one view, so that a material edit does not trace them again."""

    def __init__(self, most_bytes: int = 200_000_000) -> None:
        self.most_bytes = most_bytes
        self._kept: OrderedDict[tuple[object, ...], Primary] = OrderedDict()
        self._size = 0

    def get(self, job: Job, pixels: Integers, sample: int) -> Primary:
        """The primary hits of some pixels, traced only the first time."""
        key = (job.scene.key, job.view.key(), job.seed, sample, int(pixels[0]), len(pixels))
        kept = self._kept.get(key)
        if kept is None:
            kept = primary_hits(job, pixels, sample)
            self._kept[key] = kept
            self._size += _bytes(kept)
            while self._size > self.most_bytes and len(self._kept) > 1:
                _, dropped = self._kept.popitem(last=False)
                self._size -= _bytes(dropped)
        return kept


def _bytes(primary: Primary) -> int:
    origin, direction, hits = primary
    return origin.nbytes + direction.nbytes + hits.distance.nbytes * 3 + hits.place.nbytes


class Film:
    """Sums of samples for a picture of `width` × `height` pixels, scene-linear float32."""

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height, self.samples = width, height, 0
        self._sums = np.zeros((9, width * height), np.float32)

    def add_sample(self, job: Job, pool: ThreadPoolExecutor | None = None, cache: PrimaryCache | None = None) -> None:
        """Trace one more sample for every pixel; raises `Interrupted` when the job is no longer wanted."""
        count = self.width * self.height
        sample = self.samples
        made = np.empty((9, count), np.float32)

        def work(start: int) -> None:
            job.check()
            pixels = np.arange(start, min(start + BATCH, count), dtype=np.int32)
            known = cache.get(job, pixels, sample) if cache is not None and sample < 8 else None
            result = trace(job, pixels, sample, known)
            stop = start + len(pixels)
            made[0:3, start:stop], made[3:6, start:stop] = result.radiance, result.albedo
            made[6:9, start:stop] = result.normal

        starts = range(0, count, BATCH)
        for _ in map(work, starts) if pool is None else pool.map(work, starts):
            pass
        self._sums += made
        self.samples += 1

    def _mean(self, first: int) -> Array:
        mean = self._sums[first : first + 3] / np.float32(max(self.samples, 1))
        return np.ascontiguousarray(mean.T.reshape(self.height, self.width, 3))

    def picture(self) -> Array:
        """The mean of the samples so far, `(height, width, 3)`."""
        return self._mean(0)

    def albedo(self) -> Array:
        """The mean albedo of what is seen first, `(height, width, 3)`: white where light passes or mirrors."""
        return self._mean(3)

    def denoised(self, check: Callable[[], None] = lambda: None) -> Array:
        """The picture smoothed with the help of what the camera sees first."""
        means = []
        for first in (0, 3, 6):
            check()
            means.append(self._mean(first))
        return denoise(means[0], means[1], means[2], check)
