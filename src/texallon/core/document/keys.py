"""Values over time by keys: between two keys, and beyond the first and the last."""

from bisect import bisect_right
from collections.abc import Sequence
from math import floor
from typing import Literal

from pydantic import Field

from texallon.core.document.base import Finite
from texallon.core.document.ids import Identified

Interpolation = Literal["smooth", "linear", "eased", "stepped"]
"""How a value goes from one key to the next: along a cubic by the slopes at both, straight, from rest to rest, or not until the next."""

Beyond = Literal["hold", "loop", "ping-pong", "go on"]
"""What a value does before the first or after the last key: it stays, all begins again, it goes back and forth, or it goes on as steeply."""


class Key(Identified):
    """A value at a frame, and how it goes on to the next."""

    frame: Finite
    value: Finite
    interpolation: Interpolation = "smooth"
    slope_in: Finite | None = Field(
        None, description="Per frame, of what comes before; from the neighbours unless given."
    )
    slope_out: Finite | None = Field(
        None, description="Per frame, of what comes after; from the neighbours unless given."
    )


def value_at(keys: Sequence[Key], frame: float, before: Beyond = "hold", after: Beyond = "hold") -> float:
    """The value at a frame.

    Parameters
    ----------
    keys : sequence of Key
        At least one; their frames rise.
    frame : float
        Any.
    before, after : str
        What happens beyond the first and the last key.

    Examples
    --------
    >>> value_at([Key(frame=1, value=0.0, interpolation="linear"), Key(frame=11, value=5.0)], 5)
    2.0
    >>> value_at([Key(frame=0, value=0.0, interpolation="linear"), Key(frame=4, value=4.0)], 5, after="ping-pong")
    3.0
    """
    first, last = keys[0].frame, keys[-1].frame
    if len(keys) == 1:
        return keys[0].value
    if frame < first or frame > last:
        how = before if frame < first else after
        if how == "hold":
            return keys[0 if frame < first else -1].value
        if how == "go on":
            end = first if frame < first else last
            return keys[0 if frame < first else -1].value + (frame - end) * _slope_at(keys, end)
        turns = (frame - first) / (last - first)
        part = turns - floor(turns)
        if how == "ping-pong" and floor(turns) % 2:
            part = 1 - part
        frame = first + part * (last - first)
    return _between(keys, _interval(keys, frame), frame)


def speed_at(keys: Sequence[Key], frame: float, before: Beyond = "hold", after: Beyond = "hold") -> float:
    """Change per frame at a frame, by a hundred-thousandth of a frame to both sides.

    Parameters
    ----------
    keys : sequence of Key
        At least one; their frames rise.
    frame : float
        Any.
    before, after : str
        What happens beyond the first and the last key.
    """
    step = 1e-5
    return (value_at(keys, frame + step, before, after) - value_at(keys, frame - step, before, after)) / (2 * step)


def slopes_at(keys: Sequence[Key]) -> list[tuple[float, float]]:
    """The slopes at keys, of what comes before and of what comes after, per frame: those given, else those from the neighbours.

    Parameters
    ----------
    keys : sequence of Key
        Their frames rise.

    Examples
    --------
    >>> slopes_at([Key(frame=0, value=0.0), Key(frame=4, value=2.0, slope_in=0.0)])
    [(0.5, 0.5), (0.0, 0.5)]
    """
    if len(keys) < 2:
        return [(0.0, 0.0)] * len(keys)
    return [(_into(keys, k), _out(keys, k)) for k in range(len(keys))]


def _interval(keys: Sequence[Key], frame: float) -> int:
    return min(max(bisect_right(keys, frame, key=lambda each: each.frame) - 1, 0), len(keys) - 2)


def _between(keys: Sequence[Key], k: int, frame: float) -> float:
    """Between key k and the next; the last key's own value at its frame."""
    a, b = keys[k], keys[k + 1]
    if frame >= b.frame:
        return b.value
    wide = b.frame - a.frame
    t = (frame - a.frame) / wide
    if a.interpolation == "stepped":
        return a.value
    if a.interpolation == "linear":
        return a.value + t * (b.value - a.value)
    if a.interpolation == "eased":
        return a.value + t * t * (3 - 2 * t) * (b.value - a.value)
    out, into = _out(keys, k), _into(keys, k + 1)
    # Cubic Hermite form.
    return (
        (2 * t**3 - 3 * t**2 + 1) * a.value
        + (t**3 - 2 * t**2 + t) * wide * out
        + (3 * t**2 - 2 * t**3) * b.value
        + (t**3 - t**2) * wide * into
    )


def _out(keys: Sequence[Key], k: int) -> float:
    given = keys[k].slope_out
    return _own_slope(keys, k) if given is None else given


def _into(keys: Sequence[Key], k: int) -> float:
    given = keys[k].slope_in
    return _own_slope(keys, k) if given is None else given


def _own_slope(keys: Sequence[Key], k: int) -> float:
    """The slope at a key from its neighbours, so that nothing overshoots: F. N. Fritsch and J. Butland, "A method for constructing local monotone piecewise cubic
    interpolants", SIAM J. Sci. Stat. Comput. 5(2), 1984; at the ends by three points (C. Moler, *Numerical Computing with MATLAB*, 2004, chapter 3)."""

    def step(n: int) -> tuple[float, float]:
        wide = keys[n + 1].frame - keys[n].frame
        return wide, (keys[n + 1].value - keys[n].value) / wide

    last = len(keys) - 1
    if last == 1:
        return step(0)[1]
    if k in (0, last):
        near, far = (step(0), step(1)) if k == 0 else (step(last - 1), step(last - 2))
        slope = ((2 * near[0] + far[0]) * near[1] - near[0] * far[1]) / (near[0] + far[0])
        if slope * near[1] <= 0:
            return 0.0
        if near[1] * far[1] <= 0 and abs(slope) > 3 * abs(near[1]):
            return 3 * near[1]
        return slope
    (h, d), (g, e) = step(k - 1), step(k)
    if d * e <= 0:
        return 0.0
    a, b = 2 * g + h, g + 2 * h
    return (a + b) / (a / d + b / e)


def _slope_at(keys: Sequence[Key], end: float) -> float:
    """The slope with which a value comes to its first key, or leaves its last."""
    at_first = end == keys[0].frame
    a, b = (keys[0], keys[1]) if at_first else (keys[-2], keys[-1])
    if a.interpolation == "linear":
        return (b.value - a.value) / (b.frame - a.frame)
    if a.interpolation == "smooth":
        return _out(keys, 0) if at_first else _into(keys, len(keys) - 1)
    return 0.0
