"""Smooth lines through points, and frames along them that do not turn about the line."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Doubles = npt.NDArray[np.float64]


class Frames(NamedTuple):
    """Along a line of n points: unit `tangent`, and `side`, which is upright on it, each `(n, 3)`; `length (n,)` metres from its beginning."""

    tangent: Doubles
    side: Doubles
    length: Doubles


def through(points: Doubles, spans: int, closed: bool, tangents: Doubles | None = None) -> Doubles:
    """A smooth line through points, with as many pieces between two of them as are wanted.

    It never overshoots into loops, however unevenly the points lie: the centripetal spline.

    Parameters
    ----------
    points : Floats
        `(k, 3)`; those that repeat the one before are left out.
    spans : int
        Pieces between two points.
    closed : bool
        Whether it ends where it begins: then that point comes twice.
    tangents : Floats, optional
        `(k, 3)` from points to the control points that follow, and back to those before; not numbers where the neighbours say.

    Returns
    -------
    Floats
        `(n, 3)`.

    References
    ----------
    P. Barry, R. Goldman, "A Recursive Evaluation Algorithm for a Class of Catmull-Rom Splines", SIGGRAPH 1988.
    C. Yuksel, S. Schaefer, J. Keyser, "Parameterization and Applications of Catmull-Rom Curves", Computer-Aided Design 43 (2011).
    """
    if tangents is not None and np.isfinite(tangents).all(axis=1).any():
        return _led(points, spans, closed, tangents)
    points = distinct(points, closed)
    if len(points) < 2:
        return points
    held = _with_ends(points, closed)
    knots = _knots(held)
    share = np.arange(spans) / spans
    pieces = [_piece(held[at : at + 4], knots[at : at + 4], share) for at in range(len(held) - 3)]
    return np.concatenate([*pieces, held[-2:-1]])


def natural_tangents(points: Doubles, closed: bool) -> Doubles:
    """From each point to the control point that follows it on the smooth line through all, `(k, 3)`: what tangents by hand begin from.

    Parameters
    ----------
    points : Floats
        `(k, 3)`, none twice in a row.
    closed : bool
        Whether the line ends where it begins.

    Returns
    -------
    Floats
        `(k, 3)` metres.
    """
    if len(points) < 2:
        return np.zeros_like(points)
    before, after = _controls(_with_ends(points, closed))
    if closed and len(points) > 2:
        return after
    return np.concatenate([after, before[-1:]])


def _led(points: Doubles, spans: int, closed: bool, tangents: Doubles) -> Doubles:
    """A line of cubic pieces, of which some control points are given."""
    kept = distinct_at(points, closed)
    points, given = points[kept], tangents[kept]
    if len(points) < 2:
        return points
    round_about = closed and len(points) > 2
    before, after = _controls(_with_ends(points, closed))
    first = np.arange(len(before))
    last = (first + 1) % len(points) if round_about else first + 1
    out, into = given[first], given[last]
    after = np.where(np.isfinite(out), out, after)[:, None]
    before = np.where(np.isfinite(into), into, before)[:, None]
    a, b = points[first][:, None], points[last][:, None]
    t = (np.arange(spans) / spans)[None, :, None]
    s = 1 - t
    pieces = s**3 * a + 3 * s * s * t * (a + after) + 3 * s * t * t * (b - before) + t**3 * b
    return np.concatenate([pieces.reshape(-1, 3), points[last[-1:]]])


def _controls(held: Doubles) -> tuple[Doubles, Doubles]:
    """For each piece of the line, where its control points lie: seen from its end backwards, and from its beginning."""
    t = _knots(held)
    step = np.diff(held, axis=0) / np.diff(t)[:, None]
    wide = (held[2:] - held[:-2]) / (t[2:] - t[:-2])[:, None]
    slope = step[:-1] - wide + step[1:]  # at each point but the outermost: Barry and Goldman's line has this derivative
    long = np.diff(t)[1:-1, None]
    return slope[1:] * long / 3, slope[:-1] * long / 3


def _with_ends(points: Doubles, closed: bool) -> Doubles:
    if closed and len(points) > 2:
        return np.concatenate([points[-1:], points, points[:2]])
    # Beyond its ends a line goes on as its mirror image, so that it leaves them straight.
    return np.concatenate([2 * points[:1] - points[1:2], points, 2 * points[-1:] - points[-2:-1]])


def _knots(held: Doubles) -> Doubles:
    return np.concatenate([[0.0], np.cumsum(np.sqrt(np.linalg.norm(np.diff(held, axis=0), axis=1)))])


def distinct(points: Doubles, closed: bool) -> Doubles:
    """Points without those that repeat the one before.

    Parameters
    ----------
    points : Floats
        `(k, 3)`.
    closed : bool
        Whether the last may not repeat the first either.
    """
    kept: Doubles = points[distinct_at(points, closed)]
    return kept


def distinct_at(points: Doubles, closed: bool) -> npt.NDArray[np.int64]:
    """Which points these are.

    Parameters
    ----------
    points : Floats
        `(k, 3)`.
    closed : bool
        Whether the last may not repeat the first either.

    Returns
    -------
    Integers
        Their places, rising.
    """
    apart = np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-9
    kept = np.flatnonzero(np.concatenate([[True], apart]))
    if closed and len(kept) > 2 and np.linalg.norm(points[kept[-1]] - points[kept[0]]) <= 1e-9:
        return kept[:-1]
    return kept


def _piece(held: Doubles, knots: Doubles, share: Doubles) -> Doubles:
    t = (knots[1] + share * (knots[2] - knots[1]))[:, None]

    def between(a: Doubles, b: Doubles, first: int, last: int) -> Doubles:
        mixed: Doubles = ((knots[last] - t) * a + (t - knots[first]) * b) / (knots[last] - knots[first])
        return mixed

    low = [between(held[k], held[k + 1], k, k + 1) for k in range(3)]
    middle = [between(low[k], low[k + 1], k, k + 2) for k in range(2)]
    return between(middle[0], middle[1], 1, 2)


def frames(line: Doubles, closed: bool, twist: float = 0.0) -> Frames:
    """Frames that turn as little as can be, and evenly by a twist; of a closed line what is left over is spread, so that its ends meet.

    Parameters
    ----------
    line : Floats
        `(n, 3)` points, none twice in a row.
    closed : bool
        Whether its last point is its first.
    twist : float
        Degrees a metre.

    References
    ----------
    W. Wang, B. Jüttler, D. Zheng, Y. Liu, "Computation of Rotation Minimizing Frames", ACM Transactions on Graphics 27 (2008).
    """
    steps = np.diff(line, axis=0)
    lengths = np.linalg.norm(steps, axis=1)
    length = np.concatenate([[0.0], np.cumsum(lengths)])
    ways = steps / lengths[:, None]
    tangent = np.concatenate([ways[:1], ways[:-1] + ways[1:], ways[-1:]])
    if closed:
        tangent[0] = tangent[-1] = ways[0] + ways[-1]
    size = np.linalg.norm(tangent, axis=1, keepdims=True)
    tangent = np.where(size > 1e-9, tangent / np.maximum(size, 1e-9), np.concatenate([ways, ways[-1:]]))
    sides = np.empty_like(line)
    sides[0] = _upright_on(tangent[0])
    for at in range(len(line) - 1):
        sides[at + 1] = _carried(line[at : at + 2], tangent[at : at + 2], sides[at])
    turn = np.radians(twist) * length
    if closed:
        left = _angle(sides[-1], sides[0], tangent[0]) + float(np.remainder(-turn[-1] + np.pi, 2 * np.pi) - np.pi)
        turn = turn + left * length / length[-1]
    other = np.cross(tangent, sides)
    side = np.cos(turn)[:, None] * sides + np.sin(turn)[:, None] * other
    return Frames(tangent, side, length)


def _upright_on(tangent: Doubles) -> Doubles:
    up = np.array([0.0, 1.0, 0.0]) if abs(tangent[1]) < 0.9 else np.array([1.0, 0.0, 0.0])
    side = np.cross(tangent, up)
    upright: Doubles = side / np.linalg.norm(side)
    return upright


def _carried(points: Doubles, tangents: Doubles, side: Doubles) -> Doubles:
    """A side at the next point: mirrored twice, first in the plane between both points, then so that the tangents agree."""
    step = points[1] - points[0]
    square = step @ step
    mirrored = side - 2 / square * (step @ side) * step
    tangent = tangents[0] - 2 / square * (step @ tangents[0]) * step
    rest = tangents[1] - tangent
    square = rest @ rest
    made: Doubles = mirrored if square < 1e-24 else mirrored - 2 / square * (rest @ mirrored) * rest
    made = made - tangents[1] * (made @ tangents[1])
    return made / np.linalg.norm(made)


def _angle(a: Doubles, b: Doubles, axis: Doubles) -> float:
    """By how much a must be turned about an axis to be b, radians."""
    return float(np.arctan2(np.cross(a, b) @ axis, a @ b))
