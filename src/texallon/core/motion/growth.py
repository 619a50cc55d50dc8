"""Growth: one field of arrival times for a whole shot, from which the mask of any frame follows at once."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Cost, checkpoint, derived
from texallon.core.document.remembered import FAR, Growth
from texallon.core.geometry.mesh import MeshError
from texallon.core.kernel import Array, kernel
from texallon.core.motion.fronts import Fronts, spread_fronts
from texallon.core.motion.point_graph import Doubles, Longs, PointGraph
from texallon.core.motion.touches import Block

MOST_ROUNDS = 256
"""Times that one point is touched anew, where what was touched fades or heals."""

SLOWEST = 1e-3
"""Of the mean speed: no signal holds a front back more than this."""


@dataclass(frozen=True, eq=False)
class Covered:
    """Arrivals one after the other at p points.

    Attributes
    ----------
    arrival : Doubles
        `(rounds, p)` seconds at which a front comes; `inf` where none does.
    left : Doubles
        `(rounds, p)` seconds at which what sent it no longer touches, as much later as it came later.
    healed : Doubles
        `(rounds, p)` of the mask, what had been taken away at all until it came.
    """

    arrival: Doubles
    left: Doubles
    healed: Doubles

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        return int(self.arrival.nbytes + self.left.nbytes + self.healed.nbytes)


@derived("growth")
def grown(graph: PointGraph, blocks: tuple[Block, ...], growth: Growth, ragged: Array | None, rate: float) -> Covered:
    """When fronts come to each point, from all that a shot's frames touch.

    Parameters
    ----------
    graph : PointGraph
        With p points.
    blocks : tuple of Block
        All of the shot.
    growth : Growth
        How it spreads.
    ragged : Array, optional
        `(v,)` what makes fronts faster, 0…1.
    rate : float
        Frames per second.
    """
    at, begun, ended = _touches(blocks[-1], growth)
    count = len(graph.places)
    slowness = _slowness(graph, growth, ragged, at, begun) if growth.speed > 0 else np.full(count, np.inf)
    arrivals, leaves, healed = [], [], []
    rounds = _rounds(at, begun)
    if len(rounds) > MOST_ROUNDS:
        raise MeshError(
            f"“{growth.name}” is touched anew {len(rounds):,} times at one point, and each time is kept: at most {MOST_ROUNDS}. "
            "Let its signal flicker less, or let what it touched neither fade nor heal"
        )
    for number in rounds:
        checkpoint()()
        some, start, end = at[number], begun[number], ended[number]
        found = spread_fronts(graph.places, graph.corners, graph.edges, slowness, some, start)
        lasted = np.append(end - start, 0.0)[found.start_of]
        arrivals.append(found.arrival)
        leaves.append(found.arrival + lasted)
        healed.append(_healed_at(blocks, found.arrival * rate) if growth.heals is not None else np.zeros(count))
    if not arrivals:
        never = np.full((1, count), np.inf)
        return Covered(never, never, np.zeros((1, count)))
    return Covered(np.array(arrivals), np.array(leaves), np.array(healed))


def _healed_at(blocks: tuple[Block, ...], frames: Doubles) -> Doubles:
    """What had been taken away until a frame of its own at each point, `(p,)`; at the last where that comes later, or never."""
    made = np.concatenate([np.asarray(each.arrays["healed"]) for each in blocks])
    at = np.clip(frames, 0, len(made) - 1)
    low = np.floor(at).astype(np.int64)
    high, share, point = np.minimum(low + 1, len(made) - 1), at - low, np.arange(len(at))
    found: Doubles = made[low, point] * (1 - share) + made[high, point] * share
    return found


def _touches(touches: Block, growth: Growth) -> tuple[Longs, Doubles, Doubles]:
    """Points, and from when to when each was touched."""
    arrays = touches.arrays
    if growth.fades == 0 and growth.heals is None:
        first = np.asarray(arrays["first"], np.float64)
        some = np.flatnonzero(np.isfinite(first))
        return some, first[some], np.full(len(some), np.inf)
    since = np.asarray(arrays["since"], np.float64)
    still = np.flatnonzero(np.isfinite(since))
    return (
        np.concatenate([np.asarray(arrays["at"], np.int64), still]),
        np.concatenate([np.asarray(arrays["begun"], np.float64), since[still]]),
        np.concatenate([np.asarray(arrays["ended"], np.float64), np.full(len(still), np.inf)]),
    )


def _rounds(at: Longs, begun: Doubles) -> list[Longs]:
    """Numbers of touches: the first of each point, the second of each, and so on."""
    order = np.lexsort((begun, at))
    points = at[order]
    starts = np.flatnonzero(np.r_[True, points[1:] != points[:-1]]) if len(points) else np.zeros(0, np.int64)
    rank = np.arange(len(points)) - np.repeat(starts, np.diff(np.r_[starts, len(points)]))
    return [order[rank == number] for number in range(int(rank.max(initial=-1)) + 1)]


def _slowness(graph: PointGraph, growth: Growth, ragged: Array | None, at: Longs, begun: Doubles) -> Doubles:
    """Seconds for a metre at each point. What is uneven takes as long in the mean as what is even."""
    even = np.full(len(graph.places), 1 / growth.speed)
    if ragged is None or growth.unevenness == 0 or not len(at):
        return even
    value = np.clip(graph.at_points(ragged), 0, 1)
    factor = np.maximum(1 + growth.unevenness * (2 * value - 1), SLOWEST)
    uneven: Doubles = even / factor

    def way(slowness: Doubles) -> Doubles:
        found: Fronts = spread_fronts(graph.places, graph.corners, graph.edges, slowness, at, np.zeros(len(at)))
        return found.arrival

    straight, crooked = way(even), way(uneven)
    there = np.isfinite(straight) & (straight > 0)
    if not there.any():
        return uneven
    # Fronts find the quick ways: without this they would be faster in the mean than what they spread over.
    weight = graph.share[there]
    return uneven * float((straight[there] * weight).sum() / max((crooked[there] * weight).sum(), 1e-300))


@derived("growth at a frame", cost=Cost.INSTANT)
def growth_at(
    graph: PointGraph, covered: Covered, blocks: tuple[Block, ...], growth: Growth, frames: float, rate: float
) -> Array:
    """The mask, its age and the way to the front at each vertex, `(3, v)`.

    Parameters
    ----------
    graph : PointGraph
        With p points.
    covered : Covered
        Of the shot.
    blocks : tuple of Block
        Of the shot, where something is kept of each frame.
    growth : Growth
        How it spreads.
    frames : float
        Since the shot's first.
    rate : float
        Frames per second.
    """
    seconds = frames / rate
    count = len(graph.places)
    found = np.zeros((3, count), np.float32)
    if frames < 0:
        healed = most = np.zeros(0)
    else:
        healed = between(blocks, "healed", frames) if growth.heals is not None else np.zeros(0)
        most = between(blocks, "most", frames) if growth.speed == 0 else np.zeros(0)
    _fill_growth(covered.arrival, covered.left, covered.healed, seconds, growth.speed, growth.edge, growth.fades, healed, found)  # fmt: skip
    if len(most):
        found[0] = most
    if graph.distinct:
        return found
    return np.ascontiguousarray(found[:, graph.one])


@kernel
def _fill_growth(
    arrival: Doubles, left: Doubles, healed: Doubles, seconds: float, speed: float, edge: float, fades: float,
    healed_now: Doubles, out: Array,
) -> None:  # fmt: skip
    """Mask, age and way to the front at each point, `(3, p)`: of several fronts the mask is that of the one that covers most, the age that of the
    one that came last, the way that to the one that came first."""
    rounds, count = arrival.shape
    for i in range(count):
        mask = 0.0
        first, last = np.inf, -np.inf
        for r in range(rounds):
            came = arrival[r, i]
            first = min(first, came)
            if came > seconds or seconds < 0:
                continue
            last = max(last, came)
            share = min((seconds - came) * speed / edge, 1.0) if edge > 0 else 1.0
            share = share * share * (3 - 2 * share)
            alone = seconds - left[r, i]
            if fades > 0 and alone > 0:
                share *= max(1 - fades * alone, 0.0)
            if len(healed_now):
                share *= min(max(1 - (healed_now[i] - healed[r, i]), 0.0), 1.0)
            mask = max(mask, share)
        out[0, i] = mask if speed > 0 else 0.0
        out[1, i] = seconds - last if last > -np.inf else 0.0
        if speed > 0:
            out[2, i] = min(max((first - seconds) * speed, -FAR), FAR)
        else:
            out[2, i] = 0.0 if last > -np.inf else FAR


def between(blocks: tuple[Block, ...], name: str, frames: float) -> Doubles:
    """What is kept of each frame, `(p,)`, between two frames; before the first and after the last as there.

    Parameters
    ----------
    blocks : tuple of Block
        Of the shot.
    name : str
        Of their arrays.
    frames : float
        Since the shot's first.
    """
    held = [np.asarray(each.arrays[name]) for each in blocks]
    last = sum(map(len, held)) - 1
    low = min(max(int(np.floor(frames)), 0), last)
    share = min(max(frames - low, 0.0), 1.0)
    found: Doubles = _row(held, low) * (1 - share) + _row(held, min(low + 1, last)) * share
    return found


def _row(held: list[npt.NDArray[np.generic]], number: int) -> Doubles:
    for each in held:
        if number < len(each):
            break
        number -= len(each)
    found: Doubles = np.asarray(each[number], np.float64)
    return found
