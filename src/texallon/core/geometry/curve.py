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


def through(points: Doubles, spans: int, closed: bool) -> Doubles:
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

    Returns
    -------
    Floats
        `(n, 3)`.

    References
    ----------
    P. Barry, R. Goldman, "A Recursive Evaluation Algorithm for a Class of Catmull-Rom Splines", SIGGRAPH 1988.
    C. Yuksel, S. Schaefer, J. Keyser, "Parameterization and Applications of Catmull-Rom Curves", Computer-Aided Design 43 (2011).
    """
    points = distinct(points, closed)
    if len(points) < 2:
        return points
    if closed and len(points) > 2:
        held = np.concatenate([points[-1:], points, points[:2]])
    else:
        # Beyond its ends a line goes on as its mirror image, so that it leaves them straight.
        held = np.concatenate([2 * points[:1] - points[1:2], points, 2 * points[-1:] - points[-2:-1]])
    knots = np.concatenate([[0.0], np.cumsum(np.sqrt(np.linalg.norm(np.diff(held, axis=0), axis=1)))])
    share = np.arange(spans) / spans
    pieces = [_piece(held[at : at + 4], knots[at : at + 4], share) for at in range(len(held) - 3)]
    return np.concatenate([*pieces, held[-2:-1]])


def distinct(points: Doubles, closed: bool) -> Doubles:
    """Points without those that repeat the one before.

    Parameters
    ----------
    points : Floats
        `(k, 3)`.
    closed : bool
        Whether the last may not repeat the first either.
    """
    apart = np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-9
    kept: Doubles = points[np.concatenate([[True], apart])]
    return kept[:-1] if closed and len(kept) > 2 and np.linalg.norm(kept[-1] - kept[0]) <= 1e-9 else kept


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
