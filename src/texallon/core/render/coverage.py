"""Which objects, and which looks, cover which share of each pixel: by the same camera rays as the picture, through lens and shutter.

What a ray meets first counts, clear or cut out as well.
"""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Integers
from texallon.core.render.graph import FrameGraph
from texallon.core.render.scene.surface import surface_at
from texallon.core.render.shutter import open_shutter
from texallon.core.render.transport.context import RenderContext, SampleSource
from texallon.core.render.transport.primary import primary_hits

MOST_SAMPLES = 64
"""Of each pixel, unless the picture has fewer; files say how many."""

TOGETHER = 1 << 20
"""Pixels whose samples are held at once."""

MOST_RANKS = 16
"""Different things in one pixel that are distinguished, the ones that cover most."""

Numbers = npt.NDArray[np.int32]


class Coverage(NamedTuple):
    """For each pixel what covers it, that which covers most first: `numbers (h, w, ranks)` in the document's order, −1 for none, and `shares (h, w, ranks)` of
    the pixel. What is left to 1 is covered by nothing."""

    numbers: Numbers
    shares: Array


def coverage(graph: FrameGraph, width: int, height: int, samples: int) -> dict[str, Coverage]:
    """What covers each pixel: of `object` and of `look`.

    Parameters
    ----------
    graph : FrameGraph
        Of the shot at a frame.
    width : int
        Pixels across.
    height : int
        Pixels down.
    samples : int
        Of the picture, at most.
    """
    shot = graph.shot

    def context_of(moment: FrameGraph) -> RenderContext:
        return moment.context(width, height)

    source = open_shutter(graph, (width, height), context_of) or context_of(graph)
    count = min(samples, MOST_SAMPLES)
    order = {item.name: number for number, item in enumerate(shot.objects)}
    parts = []
    for start in range(0, width * height, TOGETHER):
        pixels = np.arange(start, min(start + TOGETHER, width * height), dtype=np.int32)
        parts.append({kind: _ranked(met) for kind, met in _met(source, pixels, count, order).items()})
    return {kind: _joined([each[kind] for each in parts], width, height) for kind in ("object", "look")}


def _met(source: SampleSource, pixels: Integers, count: int, order: dict[str, int]) -> dict[str, npt.NDArray[np.int16]]:
    """What samples of some pixels met, `(samples, pixels)`: positions of objects and of looks, −1 for none."""
    met = {kind: np.full((count, len(pixels)), -1, np.int16) for kind in ("object", "look")}
    for sample in range(count):
        for context, chosen in source.split(pixels, sample):
            scene = context.scene
            hits = primary_hits(scene.rays, context.view, context.primary_seed, sample, pixels[chosen]).hits
            on = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
            of_each = np.array([order[each.item.name] for each in scene.instances], np.int16)
            numbers = np.repeat(of_each, [len(each) for each in scene.instances])
            met["object"][sample, chosen[on]] = numbers[hits.instance[on]]
            met["look"][sample, chosen[on]] = surface_at(scene, hits.take(on)).look
    return met


def _joined(parts: list[Coverage], width: int, height: int) -> Coverage:
    """Pixels one after the other as a picture."""
    ranks = max(each.numbers.shape[1] for each in parts)
    numbers = np.full((width * height, ranks), -1, np.int32)
    shares = np.zeros((width * height, ranks), np.float32)
    start = 0
    for each in parts:
        stop = start + len(each.numbers)
        numbers[start:stop, : each.numbers.shape[1]] = each.numbers
        shares[start:stop, : each.shares.shape[1]] = each.shares
        start = stop
    return Coverage(numbers.reshape(height, width, ranks), shares.reshape(height, width, ranks))


def _ranked(met: npt.NDArray[np.int16]) -> Coverage:
    """What samples `(samples, pixels)` met, counted: `(pixels, ranks)`."""
    count, pixels = met.shape
    ordered = np.sort(met, axis=0)
    begins = np.ones_like(ordered, bool)
    begins[1:] = ordered[1:] != ordered[:-1]
    begins &= ordered >= 0
    sample, pixel = np.nonzero(begins)
    # Where the next begins in the same pixel, or after the last sample.
    along = np.lexsort((sample, pixel))
    sample, pixel = sample[along], pixel[along]
    following = np.append(sample[1:], count)
    following[np.append(pixel[1:] != pixel[:-1], True)] = count
    shares, numbers = (following - sample) / count, ordered[sample, pixel]
    # The largest first; of equal ones the one that stands first in the document.
    best = np.lexsort((numbers, -shares, pixel))
    pixel, shares, numbers = pixel[best], shares[best], numbers[best]
    starts = np.searchsorted(pixel, pixel)
    rank = np.arange(len(pixel)) - starts
    ranks = min(max(int(rank.max(initial=0)) + 1, 2), MOST_RANKS)
    ranks += ranks % 2
    kept = rank < ranks
    result = Coverage(np.full((pixels, ranks), -1, np.int32), np.zeros((pixels, ranks), np.float32))
    result.numbers[pixel[kept], rank[kept]] = numbers[kept]
    result.shares[pixel[kept], rank[kept]] = shares[kept]
    return result
