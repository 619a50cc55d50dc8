"""Pictures of what moves: samples spread over the time in which a shutter is open.

Everything that a shot can move is a function of its resolved time (placements along their curved ways, shapes that looks displace, signals,
lights, media), so a sample is traced in the shot as it is at the sample's own time, all of it: what a ray meets, what shades it and what
lights it belong together. Times are the radical inverse of the sample's number (J. van der Corput, "Verteilungsfunktionen", 1935), shifted
by chance once a frame (R. Cranley and T. Patterson, "Randomization of Number Theoretic Methods for Multiple Integration", SIAM J. Numer. Anal. 13,
1976): any 2ⁿ of them in a row from a multiple of 2ⁿ are evenly spread. Pixels beside each other take the times of a block in other orders,
so that few samples show noise, not copies.
"""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from texallon.core.document.object import Object
from texallon.core.document.resolved import ResolvedShot, resolve
from texallon.core.kernel import Integers
from texallon.core.random_numbers import uniform4
from texallon.core.render.graph import FrameGraph
from texallon.core.render.transport.context import RenderContext, frame_seed
from texallon.core.render.volume.volumes import VolumeUse
from texallon.core.signal.placement import Places, written_out

BLOCK = 16
"""Times that are held at once, at most; what does not move is shared by all."""

TOGETHER = 32_768
"""Pixels of the same time in a sample, at least, where there are so many: paths are followed in large batches, or each costs three times as much."""

SHUTTER = 0xFFFF0010
"""The random dimension of the shift of a frame's times."""


def radical_inverse(number: int) -> float:
    """The binary digits of a number behind the point, in reverse.

    Parameters
    ----------
    number : int
        0 or more.

    Examples
    --------
    >>> [radical_inverse(n) for n in range(4)]
    [0.0, 0.5, 0.25, 0.75]
    """
    return int(f"{number:b}"[::-1], 2) / (1 << number.bit_length()) if number else 0.0


def shutter_times(interval: tuple[float, float], numbers: range, seed: int) -> list[float]:
    """The times of samples within a shutter's interval.

    Parameters
    ----------
    interval : tuple
        From when to when it is open, frames.
    numbers : range
        Of samples.
    seed : int
        Of the frame's random numbers.

    Returns
    -------
    list of float
        Frames.
    """
    opens, closes = interval
    shift = float(uniform4(np.uint32(0), np.uint32(0), np.uint32(SHUTTER), np.uint32(seed))[0])
    return [opens + (closes - opens) * ((radical_inverse(number) + shift) % 1.0) for number in numbers]


class OpenShutter:
    """What samples are traced in while a shutter is open.

    Parameters
    ----------
    context_at : callable
        Gives what to render at a time in frames.
    interval : tuple
        From when to when it is open, frames.
    seed : int
        Of the frame's random numbers.
    block : int
        How many times are held at once; a power of two.
    """

    def __init__(
        self,
        context_at: Callable[[float], RenderContext],
        interval: tuple[float, float],
        seed: int,
        block: int = BLOCK,
    ) -> None:
        self._context_at, self._interval, self._seed = context_at, interval, seed
        self._size = block
        self._number = -1
        self._block: list[RenderContext] = []
        self._before: list[VolumeUse] = []

    def split(self, pixels: Integers, sample: int) -> list[tuple[RenderContext, Integers]]:
        """Which pixels are traced at which times for a sample: each is traced once at every time of a block.

        Parameters
        ----------
        pixels : Integers
            `(n,)` numbers, row by row.
        sample : int
            Number of the sample.
        """
        number, within = divmod(sample, self._size)
        if number != self._number:
            self._take_block(number)
        if len(set(map(id, self._block))) == 1:
            return self._block[0].split(pixels, sample)
        turn = (self._order(pixels, self._block[0].view.width) + within) % self._size
        found: dict[int, tuple[RenderContext, list[Integers]]] = {}
        for place, context in enumerate(self._block):
            chosen = np.flatnonzero(turn == place).astype(np.int32)
            if len(chosen):
                found.setdefault(id(context), (context, []))[1].append(chosen)
        return [(context, np.concatenate(parts)) for context, parts in found.values()]

    def volume_use(self) -> VolumeUse | None:
        """What the volumes of all moments so far were looked up in: bounds that did not hold at any of them count."""
        uses = self._before + self._uses()
        if not uses:
            return None
        sums = {name: sum(getattr(each, name) for each in uses) for name in ("exceeded", "untracked", "coarser")}
        most = max(uses, key=lambda each: each.bricks)
        return most._replace(**sums)

    def _uses(self) -> list[VolumeUse]:
        distinct = {id(context): context.volume_use() for context in self._block}
        return [use for use in distinct.values() if use is not None]

    def _order(self, pixels: Integers, width: int) -> Integers:
        """Where a pixel begins in a block: neighbours far apart (M. Roberts, "The Unreasonable Effectiveness of Quasirandom Sequences", 2018)."""
        across = 0.7548776662466927 * (pixels % width) + 0.5698402909980532 * (pixels // width)
        order: Integers = ((across % 1.0) * self._size).astype(np.int32)
        return order

    def _take_block(self, number: int) -> None:
        known: dict[str, RenderContext] = {}
        first = number * self._size
        self._before += self._uses()
        self._block = []
        for time in shutter_times(self._interval, range(first, first + self._size), self._seed):
            made = replace(self._context_at(time), seed=self._seed)
            # What does not move is one context, and traced in large batches.
            self._block.append(known.setdefault(made.content_key, made))
        self._number = number


def open_shutter(
    graph: FrameGraph, size: tuple[int, int], context_of: Callable[[FrameGraph], RenderContext]
) -> OpenShutter | None:
    """What a shot's samples are traced in while its shutter is open; nothing where it is not.

    Parameters
    ----------
    graph : FrameGraph
        Of the shot at a frame.
    size : tuple
        Width and height of the picture, pixels.
    context_of : callable
        Gives what to render of the shot at another time.
    """
    shot = graph.shot
    document, shutter = shot.document, shot.shutter
    if document is None or not shutter.on or shutter.angle == 0:
        return None

    def context_at(frame: float) -> RenderContext:
        return context_of(graph.at(held_still(resolve(document, frame), shot)))

    seed = frame_seed(shot.seed, shot.time.frame)
    block = min(BLOCK, 1 << (max(size[0] * size[1] // TOGETHER, 1).bit_length() - 1))
    return OpenShutter(context_at, shutter.interval(shot.time.frame), seed, block)


def held_still(moved: ResolvedShot, shot: ResolvedShot) -> ResolvedShot:
    """A shot at another time, with what is not blurred as it is at the frame.

    Parameters
    ----------
    moved : ResolvedShot
        At a time within the shutter's interval.
    shot : ResolvedShot
        At the frame.
    """
    still = {item.name: item for item in shot.objects if not item.blurs}
    if not still:
        return moved
    then, now = Places(shot), Places(moved)

    def held(item: Object) -> Object:
        if item.name not in still:
            return item
        # It may stand in what moves: it is put where it was in the world.
        own = np.linalg.inv(now.parent(item)) @ then.object(item.name)
        placed = written_out(own)
        names = ("position", "rotation", "stretch")
        return still[item.name].model_copy(
            update={**{name: placed[name] for name in names}, "scale": 1.0, "floats": None}
        )

    return moved.model_copy(update={"objects": [held(item) for item in moved.objects]})
