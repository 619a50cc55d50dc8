"""Light paths under way, in arrays: where each is, what it carries, and what it has been through."""

from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Integers, inlined, kernel
from texallon.core.shade.base import MIRRORED
from texallon.core.shade.medium import FIELDS, NESTED

LAST_THROUGH, COVERED, FROM_CAMERA = 4, 8, 16
"""Flags of a path, beside the kind of its last turn in the low two bits: it has just passed a boundary; its light has been asked for
before that; it has not turned yet."""

FIRST_REFLECTED, FIRST_THROUGH = 32, 64
"""What its first turn was."""

WANDERING, LIGHTS_ONLY = 128, 256
"""It is inside a subsurface body; it may still find lamps and sky, but no surface."""

AFTER_DIFFUSE = np.float32(0.2)
"""Spread of a ray after a diffuse bounce, radians; rays at least this wide count as such."""

WANDER = 7
"""Rows of what a path needs to know of the body it wanders in (see `medium`)."""


class Paths(NamedTuple):
    """`n` paths: arrays `(rows, n)` or `(n,)`.

    `share (3, n)`: how much of what they carry belongs to the diffuse picture. `behind`: how far they have come since their last
    turn, through what is cut out. `turns`: four counts of a byte each. `wave`: micrometres, 0 for all wavelengths.

    `media` and `walk` are wide: they stay whole and are looked up by `slot`, and have no rows where a scene has no such bodies.
    """

    slot: Integers
    pixel: Integers
    origin: Array
    direction: Array
    throughput: Array
    share: Array
    density: Array
    width: Array
    spread: Array
    behind: Array
    wave: Array
    flags: Integers
    turns: Integers
    media: Array
    walk: Array

    def take(self, chosen: npt.NDArray[np.intp]) -> "Paths":
        """The paths at some positions."""
        empty = (np.empty((*each.shape[:-1], len(chosen)), each.dtype) for each in self[:-2])
        taken = Paths._make([*empty, self.media, self.walk])
        take_paths(self, chosen, taken)
        return taken

    def join(self, other: "Paths") -> "Paths":
        """These, then others."""
        both = (np.concatenate(pair, axis=-1) for pair in zip(self[:-2], other[:-2], strict=True))
        return Paths._make([*both, self.media, self.walk])


@kernel
def take_paths(paths: Paths, chosen: npt.NDArray[np.intp], out: Paths) -> None:
    """Copy the paths at some positions, all in one go: a call for each array would take longer than the copying."""
    take_one(paths.slot, chosen, out.slot)
    take_one(paths.pixel, chosen, out.pixel)
    take_rows(paths.origin, chosen, out.origin)
    take_rows(paths.direction, chosen, out.direction)
    take_rows(paths.throughput, chosen, out.throughput)
    take_rows(paths.share, chosen, out.share)
    take_one(paths.density, chosen, out.density)
    take_one(paths.width, chosen, out.width)
    take_one(paths.spread, chosen, out.spread)
    take_one(paths.behind, chosen, out.behind)
    take_one(paths.wave, chosen, out.wave)
    take_one(paths.flags, chosen, out.flags)
    take_one(paths.turns, chosen, out.turns)


@inlined
def take_one(values: Any, chosen: npt.NDArray[np.intp], out: Any) -> None:
    """The values at some positions, `(n,)`."""
    for i in range(chosen.shape[0]):
        out[i] = values[chosen[i]]


@inlined
def take_rows(values: Any, chosen: npt.NDArray[np.intp], out: Any) -> None:
    """The columns at some positions, `(rows, n)`."""
    for row in range(out.shape[0]):
        for i in range(chosen.shape[0]):
            out[row, i] = values[row, chosen[i]]


def camera_paths(
    pixels: Integers, origin: Array, direction: Array, pixel_angle: float, nested: bool, wandering: bool
) -> Paths:
    """Paths that leave the camera, one for each pixel."""
    n = len(pixels)
    return Paths(
        np.arange(n, dtype=np.int32),
        pixels,
        origin,
        direction,
        np.ones((3, n), np.float32),
        np.ones((3, n), np.float32),
        np.zeros(n, np.float32),
        np.zeros(n, np.float32),
        np.full(n, pixel_angle, np.float32),
        np.zeros(n, np.float32),
        np.zeros(n, np.float32),
        np.full(n, MIRRORED | FROM_CAMERA, np.int32),
        np.zeros(n, np.int32),
        np.zeros((NESTED * FIELDS if nested else 0, n), np.float32),
        np.zeros((WANDER if wandering else 0, n), np.float32),
    )
