"""A movement made by hand as keys: smoothed, then thinned to as few as come close to it."""

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter1d

from texallon.core.curve import Doubles
from texallon.core.document.keys import Key

CLOSE = 0.01
"""How near keys come to a movement unless something else is asked, as a share of its extent."""

REACH = 4
"""Of smoothing, in its own width."""


class Recording(NamedTuple):
    """Keys of each number that was recorded, all at the same frames; none where it did not move by more than `tolerance`. `off`: how far keys are from what was smoothed."""

    keys: list[list[Key]]
    tolerance: float
    off: float


def keys_of_recording(
    frames: Sequence[float], values: Doubles, smooth: float, tolerance: float | None = None
) -> Recording:
    """Keys that follow what a hand did.

    Parameters
    ----------
    frames : sequence of float
        `(n,)` they rise; two at least.
    values : Doubles
        `(n, k)` of k numbers that were moved together, such as x, y and z.
    smooth : float
        Width over which a hand's trembling is evened out, in frames; 0 for not at all. Ends stay where they are.
    tolerance : float, optional
        How far keys may lead from what was smoothed, in the numbers' own unit; a hundredth of the way's extent unless given.

    Raises
    ------
    ValueError
        Where frames do not rise, or there are fewer than two.
    """
    at = np.asarray(frames, np.float64)
    if len(at) < 2 or not (np.diff(at) > 0).all():
        raise ValueError("at least two frames, each after the one before")
    wanted = _smoothed(at, np.asarray(values, np.float64), smooth)
    extent = float(np.linalg.norm(np.ptp(wanted, axis=0)))
    near = CLOSE * extent if tolerance is None else tolerance
    kept = [0, len(at) - 1]
    while True:
        off = np.linalg.norm(_through(at, wanted, kept) - wanted, axis=1)
        # Between two keys that lead too far apart from it comes one where they are farthest; all such at once.
        worst = [a + int(np.argmax(off[a : b + 1])) for a, b in pairwise(kept)]
        new = {k for k in worst if off[k] > max(near, 1e-12)} - set(kept)
        if not new:
            break
        kept = sorted({*kept, *new})
    made = [
        [Key(frame=float(at[k]), value=float(column[k])) for k in kept] if np.ptp(column) > near else []
        for column in wanted.T
    ]
    return Recording(made, near, float(off.max()))


def _through(at: Doubles, wanted: Doubles, kept: list[int]) -> Doubles:
    """What smooth keys give: their curve is the monotone cubic (see `keys`), and a straight line through two."""
    if len(kept) == 2:
        share = ((at - at[kept[0]]) / (at[kept[1]] - at[kept[0]]))[:, None]
        line: Doubles = wanted[kept[0]] + share * (wanted[kept[1]] - wanted[kept[0]])
        return line
    found: Doubles = PchipInterpolator(at[kept], wanted[kept], axis=0)(at)
    return found


def _smoothed(at: Doubles, values: Doubles, smooth: float) -> Doubles:
    """Evened out over time by a bell curve; beyond its ends the movement goes on as its own image through the end, so that those stay."""
    if smooth <= 0:
        return values
    # Frames of a recording lie evenly, or nearly so.
    width = smooth / (at[-1] - at[0]) * (len(at) - 1)
    reach = min(int(np.ceil(REACH * width)), len(at) - 1)
    before = 2 * values[:1] - values[reach:0:-1]
    after = 2 * values[-1:] - values[-2 : -reach - 2 : -1]
    held = np.concatenate([before, values, after])
    even: Doubles = gaussian_filter1d(held, width, axis=0, mode="nearest")[reach : reach + len(values)]
    return even
