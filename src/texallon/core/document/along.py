"""Standing along a line: the middle of a tube, and where on it something stands that follows it."""

import warnings
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.spatial.transform import Rotation

from texallon.core.curve import Doubles, distinct, through
from texallon.core.document.body import Tube
from texallon.core.document.locator import Locator
from texallon.core.document.object import Object
from texallon.core.document.problem import Problem, pointer


class OnLine(NamedTuple):
    """A place on a line: `position (3,)` metres, and the unit `way (3,)` in which the line goes on there."""

    position: Doubles
    way: Doubles


def line_of(tube: Tube) -> Doubles:
    """The line in the middle of a tube, in its object's space.

    Parameters
    ----------
    tube : Tube
        Its measures, metres.

    Returns
    -------
    Array
        `(n, 3)` metres; a single point where all of the tube's lie in one place.
    """
    given = np.asarray(tube.points, np.float64)
    if not tube.smooth:
        return _straight(given, tube.spans, tube.closed)
    by_hand = np.full_like(given, np.nan)
    for at, tangent in enumerate(tube.tangents[: len(given)]):
        if tangent is not None:
            by_hand[at] = tangent
    return through(given, tube.spans, tube.closed, by_hand)


def place_on(tube: Tube, share: float) -> OnLine:
    """Where on a tube's line a share of its length lies.

    Parameters
    ----------
    tube : Tube
        Its measures, metres.
    share : float
        Of the line's length; of a closed line it goes round and round, of others it is held between 0 and 1.
    """
    line = line_of(tube)
    steps = np.diff(line, axis=0)
    lengths = np.linalg.norm(steps, axis=1)
    if not len(lengths):
        return OnLine(line[0], np.array([0.0, 0.0, 1.0]))
    share = share % 1.0 if tube.closed else min(max(share, 0.0), 1.0)
    reached = np.concatenate([[0.0], np.cumsum(lengths)])
    want = share * reached[-1]
    at = min(int(np.searchsorted(reached, want, side="right")) - 1, len(steps) - 1)
    part = (want - reached[at]) / lengths[at]
    # The way turns evenly from the middle of one piece to that of the next, so that nothing jerks where pieces meet.
    beside = at + (1 if part > 0.5 else -1)
    beside = beside % len(steps) if tube.closed else min(max(beside, 0), len(steps) - 1)
    ways = steps / lengths[:, None]
    mixed = ways[at] + abs(part - 0.5) * (ways[beside] - ways[at])
    long = float(np.linalg.norm(mixed))
    return OnLine(line[at] + part * steps[at], mixed / long if long > 1e-9 else ways[at])


def facing(way: Doubles) -> npt.NDArray[np.float64]:
    """The turn that lays the z axis along a way and the y axis as near to upwards as that allows.

    Parameters
    ----------
    way : Array
        `(3,)` of unit length.

    Returns
    -------
    Array
        `(3, 3)`, whose columns are the axes.
    """
    up = np.array([0.0, 1.0, 0.0]) if abs(way[1]) < 0.99999 else np.array([0.0, 0.0, -1.0])
    across = np.cross(up, way)
    across /= np.linalg.norm(across)
    return np.stack([across, np.cross(way, across), way], axis=1)


def on_their_lines(locators: Sequence[Locator], objects: Sequence[Object]) -> list[Locator]:
    """Locators of which those that stand along a line are placed on it, as though they stood by its object.

    Parameters
    ----------
    locators, objects : sequence
        Of the shot, at a time.
    """
    if not any(each.along for each in locators):
        return list(locators)
    tubes = {each.name: each.geometry for each in objects}
    return [_placed(each, tubes) for each in locators]


def _placed(locator: Locator, tubes: Mapping[str, object]) -> Locator:
    tube = tubes.get(locator.along) if locator.along else None
    if not isinstance(tube, Tube):
        return locator
    position, way = place_on(tube, locator.along_share)
    moved = tuple(float(a) + b for a, b in zip(position, locator.position, strict=True))
    changed: dict[str, object] = {"follows": locator.along, "position": moved}
    if locator.turns_along:
        turn = Rotation.from_matrix(facing(way)) * Rotation.from_euler("xyz", locator.rotation, degrees=True)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # where it looks straight up one of three angles is free, and any will do
            changed["rotation"] = tuple(float(angle) for angle in turn.as_euler("xyz", degrees=True))
    return locator.model_copy(update=changed)


def along_problems(locators: Sequence[Locator], objects: Sequence[Object]) -> Iterator[Problem]:
    """Locators that are to stand along what is no tube, or by two things at once.

    Parameters
    ----------
    locators, objects : sequence
        Of the shot.
    """
    known = {each.name: each.geometry for each in objects}
    tubes = [name for name, geometry in known.items() if isinstance(geometry, Tube)]
    for number, locator in enumerate(locators):
        if locator.along is None or locator.along not in known:
            continue
        if not isinstance(known[locator.along], Tube):
            hint = f"such as “{tubes[0]}”" if tubes else "add a tube; it may be hidden"
            yield Problem(pointer("locators", number, "along"), f"“{locator.along}” is no tube", hint)
        elif locator.follows is not None:
            reason = f"it stands along “{locator.along}” and by “{locator.follows}”"
            yield Problem(pointer("locators", number, "follows"), reason, "one of the two")


def _straight(points: Doubles, spans: int, closed: bool) -> Doubles:
    held = distinct(points, closed)
    held = np.concatenate([held, held[:1]]) if closed and len(held) > 2 else held
    share = (np.arange(spans) / spans)[None, :, None]
    pieces = held[:-1, None] * (1 - share) + held[1:, None] * share
    return np.concatenate([pieces.reshape(-1, 3), held[-1:]])
