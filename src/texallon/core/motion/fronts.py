"""When a front that spreads over a surface from timed starts reaches each of its points."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Float, Int, Integers, allocating, inlined, kernel

Doubles = npt.NDArray[np.float64]
Longs = npt.NDArray[np.int64]

NEVER = np.inf
"""The arrival where no front comes."""

ENOUGH = 1e-9
"""Of a whole arrival: what is earlier by less is not handed on."""


class Corners(NamedTuple):
    """For each point the corners of faces that it is: entries `first[i]` to `first[i + 1]` of `one` and `other`, the two other points."""

    first: Longs
    one: Longs
    other: Longs


class Edges(NamedTuple):
    """For each point its neighbours: entries `first[i]` to `first[i + 1]` of `to`, with their `length` in metres."""

    first: Longs
    to: Longs
    length: Doubles


class Fronts(NamedTuple):
    """What comes to each of p points.

    Attributes
    ----------
    arrival : Doubles
        `(p,)` seconds; `inf` where nothing comes.
    start_of : Longs
        `(p,)` the start that its front began at, by number; −1 where nothing comes.
    """

    arrival: Doubles
    start_of: Longs


def corners_of(count: int, faces: Longs) -> Corners:
    """The corners of faces by points.

    Parameters
    ----------
    count : int
        Of points, p.
    faces : Longs
        `(f, 3)`.
    """
    at = faces.T.ravel()
    order = np.argsort(at, kind="stable")
    first = np.zeros(count + 1, np.int64)
    np.cumsum(np.bincount(at, minlength=count), out=first[1:])
    one = np.concatenate([faces[:, 1], faces[:, 2], faces[:, 0]])[order]
    other = np.concatenate([faces[:, 2], faces[:, 0], faces[:, 1]])[order]
    return Corners(first, np.ascontiguousarray(one), np.ascontiguousarray(other))


@inlined
def _flat(places: Doubles, a: Int, b: Int, c: Int) -> Float:
    """Where c lies beside the edge from a to b, laid flat: along it, and away from it; and the edge's length."""
    ux, uy, uz = places[b, 0] - places[a, 0], places[b, 1] - places[a, 1], places[b, 2] - places[a, 2]
    vx, vy, vz = places[c, 0] - places[a, 0], places[c, 1] - places[a, 1], places[c, 2] - places[a, 2]
    length = np.sqrt(ux * ux + uy * uy + uz * uz)
    along = (ux * vx + uy * vy + uz * vz) / max(length, 1e-300)
    away = np.sqrt(max(vx * vx + vy * vy + vz * vz - along * along, 0.0))
    return along, away, length


@inlined
def _round(da: Float, db: Float, along: Float, away: Float, length: Float) -> Float:
    """How far a point lies from a start that lies `da` and `db` from the ends of an edge, on its other side; −1 where the way does not cross the edge."""
    at = (da * da - db * db + length * length) / (2 * length)
    squared = da * da - at * at
    if squared < 0:
        return -1.0
    beyond = np.sqrt(squared)
    crossing = at + (along - at) * beyond / max(beyond + away, 1e-300)
    if crossing < 0 or crossing > length:
        return -1.0
    return np.sqrt((along - at) ** 2 + (away + beyond) ** 2)


@inlined
def _straight(late: Float, along: Float, away: Float, length: Float) -> Float:
    """How much farther than a a point lies before a straight front that reaches b `late` metres after a; −1 where it does not come across the edge."""
    sine = late / length
    if sine <= -1 or sine >= 1:
        return -1.0
    cosine = np.sqrt(1 - sine * sine)
    start = along - away * sine / cosine
    if start < 0 or start > length:
        return -1.0
    return along * sine + away * cosine


@kernel
def _push(keys: Doubles, items: Longs, size: Int, key: Float, item: Int) -> Int:
    at = size
    while at > 0:
        above = (at - 1) >> 1
        if keys[above] <= key:
            break
        keys[at], items[at] = keys[above], items[above]
        at = above
    keys[at], items[at] = key, item
    return size + 1


@kernel
def _pop(keys: Doubles, items: Longs, size: Int) -> Int:
    size -= 1
    key, item = keys[size], items[size]
    at = 0
    while True:
        below = 2 * at + 1
        if below >= size:
            break
        if below + 1 < size and keys[below + 1] < keys[below]:
            below += 1
        if keys[below] >= key:
            break
        keys[at], items[at] = keys[below], items[below]
        at = below
    keys[at], items[at] = key, item
    return size


@allocating
def _spread(
    places: Doubles,
    corners: Corners,
    edges: Edges,
    slowness: Doubles,
    arrival: Doubles,
    start_of: Longs,
    begun: Doubles,
) -> None:
    count = len(places)
    room = 4 * count + 16
    keys, items = np.empty(room), np.empty(room, np.int64)
    size = 0
    for i in range(count):
        if arrival[i] < np.inf:
            size = _push(keys, items, size, arrival[i], i)
    while size > 0:
        key, i = keys[0], items[0]
        size = _pop(keys, items, size)
        if key > arrival[i]:
            continue  # it was reached sooner since
        if size + 8 * (corners.first[i + 1] - corners.first[i]) + (edges.first[i + 1] - edges.first[i]) + 8 > room:
            wider, longer = np.empty(2 * room), np.empty(2 * room, np.int64)
            wider[:size], longer[:size] = keys[:size], items[:size]
            keys, items, room = wider, longer, 2 * room
        for k in range(edges.first[i], edges.first[i + 1]):
            c = edges.to[k]
            found = arrival[i] + 0.5 * (slowness[i] + slowness[c]) * edges.length[k]
            if found < arrival[c] - ENOUGH * (1 + abs(found)):
                arrival[c], start_of[c] = found, start_of[i]
                size = _push(keys, items, size, found, c)
        for k in range(corners.first[i], corners.first[i + 1]):
            for turn in range(2):
                b = corners.one[k] if turn == 0 else corners.other[k]
                c = corners.other[k] if turn == 0 else corners.one[k]
                along, away, length = _flat(places, i, c, b)
                slow = (slowness[i] + slowness[b] + slowness[c]) / 3
                found = arrival[i] + 0.5 * (slowness[i] + slowness[c]) * length
                if found < arrival[c] - ENOUGH * (1 + abs(found)):
                    arrival[c], start_of[c] = found, start_of[i]
                    size = _push(keys, items, size, found, c)
                if arrival[b] == np.inf or slow <= 0 or slow == np.inf:
                    continue
                along, away, length = _flat(places, i, b, c)
                if length <= 0:
                    continue
                found = np.inf
                if start_of[i] == start_of[b]:
                    start = begun[start_of[i]]
                    way = _round((arrival[i] - start) / slow, (arrival[b] - start) / slow, along, away, length)
                    if way >= 0:
                        found = start + way * slow
                if found == np.inf:
                    way = _straight((arrival[b] - arrival[i]) / slow, along, away, length)
                    if way >= 0:
                        found = arrival[i] + way * slow
                if found < arrival[c] - ENOUGH * (1 + abs(found)):
                    nearer = i if along < 0.5 * length else b
                    arrival[c], start_of[c] = found, start_of[nearer]
                    size = _push(keys, items, size, found, c)


def spread_fronts(
    places: Doubles, corners: Corners, edges: Edges, slowness: Doubles, at: Longs, begun: Doubles
) -> Fronts:
    """When fronts come to the points of a surface from places that start them.

    Within a face a front that one start sent is a circle about where that lies, with the face laid flat; where fronts of two meet it is
    straight. A point is looked at again whenever it is reached sooner, so that faces with obtuse corners need nothing of their own.

    Parameters
    ----------
    places : Doubles
        `(p, 3)` metres.
    corners : Corners
        Of the faces between them.
    edges : Edges
        Ways beside the faces; none where there are faces.
    slowness : Doubles
        `(p,)` seconds for a metre, greater than 0; infinite where nothing passes.
    at : Longs
        `(s,)` points where fronts start.
    begun : Doubles
        `(s,)` seconds.

    Returns
    -------
    Fronts
        For each point.

    References
    ----------
    R. Kimmel, J. Sethian, "Computing geodesic paths on manifolds", PNAS 95 (1998); M. Novotni, R. Klein, "Computing Geodesic Distances on
    Triangular Meshes", WSCG 2002 (circular fronts).
    """
    count = len(places)
    arrival, start_of = np.full(count, NEVER), np.full(count, -1, np.int64)
    # The earliest of a point's starts; of equal ones the first.
    order = np.argsort(begun, kind="stable")[::-1]  # of what is written to one point the last stays
    arrival[at[order]], start_of[at[order]] = begun[order], order
    if len(at):
        _spread(places, corners, edges, slowness, arrival, start_of, np.ascontiguousarray(begun, np.float64))
    return Fronts(arrival, start_of)


def no_faces() -> Longs:
    """Faces of what has none."""
    return np.zeros((0, 3), np.int64)


def edges_between(count: int, first: Integers | Longs, second: Integers | Longs, length: Array | Doubles) -> Edges:
    """Ways between points, both ways.

    Parameters
    ----------
    count : int
        Of points.
    first, second : Longs
        `(e,)` their ends.
    length : Doubles
        `(e,)` metres.
    """
    start, end = np.concatenate([first, second]).astype(np.int64), np.concatenate([second, first]).astype(np.int64)
    order = np.argsort(start, kind="stable")
    begin = np.zeros(count + 1, np.int64)
    np.cumsum(np.bincount(start, minlength=count), out=begin[1:])
    return Edges(begin, end[order], np.concatenate([length, length]).astype(np.float64)[order])
