"""Which objects, and which looks, cover which share of each pixel: by the same camera rays as the picture, through lens and shutter.

What a ray meets first counts, clear as well; what is cut out of a surface lets it go on, by the same chance as in the picture.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Int, Integers, kernel
from texallon.core.render.graph import FrameGraph
from texallon.core.render.scene.scene import EVERYTHING
from texallon.core.render.scene.surface import surface_at, take_surface
from texallon.core.render.shutter import open_shutter
from texallon.core.render.transport.context import RenderContext, SampleSource
from texallon.core.render.transport.interface import passes_cut_out
from texallon.core.render.transport.primary import primary_hits
from texallon.core.render.transport.surface_interactions import BOUNCE_TRANSPARENCY
from texallon.core.shade.rows import OPACITY

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
            of_each = np.array([order[each.item.name] for each in scene.instances], np.int16)
            numbers = np.repeat(of_each, [len(each) for each in scene.instances])
            for there, instance, look in _first_surfaces(context, pixels[chosen], sample):
                met["object"][sample, chosen[there]] = numbers[instance]
                met["look"][sample, chosen[there]] = look
    return met


def _first_surfaces(
    context: RenderContext, pixels: Integers, sample: int
) -> Iterator[tuple[Integers, Integers, Integers]]:
    """What the rays of a sample meet and is not cut out there: which pixels, the instances, and their looks."""
    scene = context.scene
    found = primary_hits(scene.rays, context.view, context.primary_seed, sample, pixels)
    cut = np.array(["geometry_opacity" in plan.outputs for plan in context.materials.plans], np.bool_)
    going, hits, direction = np.arange(len(pixels), dtype=np.int32), found.hits, found.direction
    width = np.zeros(len(pixels), np.float32)
    passed = int(context.limits.array(context.bounces)[BOUNCE_TRANSPARENCY])
    for turn in range(passed + 1):
        on = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
        going, hits, direction = going[on], hits.take(on), np.ascontiguousarray(direction[:, on])
        surface = surface_at(scene, hits)
        width[going] += hits.distance * np.float32(context.view.pixel_angle)
        through = np.zeros(len(going), np.bool_)
        partly = np.flatnonzero(cut[surface.look])
        if len(partly):
            chosen, way = hits.take(partly), np.ascontiguousarray(direction[:, partly])
            given = {"view": -way, "footprint": width[None, going[partly]]}
            rows = context.materials.rows(scene, chosen, take_surface(surface, partly), given, False)
            own = np.zeros(len(partly), np.bool_)
            fill_cut_out(rows[OPACITY], pixels[going[partly]], sample, turn, context.seed, own)
            through[partly] = own
        yield going[~through], hits.instance[~through], surface.look[~through]
        if not through.any():
            return
        onwards = np.flatnonzero(through)
        going, direction = going[onwards], np.ascontiguousarray(direction[:, onwards])
        surface = take_surface(surface, onwards)
        side = np.sign(np.einsum("xn,xn->n", direction, surface.flat)).astype(np.float32)
        origin = np.ascontiguousarray(surface.position + side * surface.offset * surface.flat, np.float32)
        hits = scene.rays.nearest(origin, direction, np.zeros(len(going), np.float32), EVERYTHING)


@kernel
def fill_cut_out(
    opacity: Array, pixels: Integers, sample: Int, bounce: Int, seed: Int, out: npt.NDArray[np.bool_]
) -> None:
    """Whether each sample goes through what is cut out of the surface it met, as `passes_cut_out`.

    Parameters
    ----------
    opacity : Array
        `(n,)` share of the surface that is there, 0…1.
    pixels : Integers
        `(n,)` numbers.
    sample, bounce, seed : int
        Of the sample, how many surfaces it met before, and of the frame's random numbers.
    out : array
        `(n,)`, filled.
    """
    for i in range(len(out)):
        out[i] = passes_cut_out(opacity[i], pixels[i], sample, bounce, seed)


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
