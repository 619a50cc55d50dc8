"""Light paths under way, in arrays: where each is, what it carries, and what it has been through."""

from typing import NamedTuple

import numpy as np

from texallon.core.columns import Chosen, take_columns
from texallon.core.kernel import Array, Integers
from texallon.core.shade.base import SPECULAR
from texallon.core.shade.media.subsurface import WALK_ROWS

LAST_TRANSMITTED, NEE_DONE, FROM_CAMERA = 4, 8, 16
"""Flags of a path, beside the kind of its last turn in the low two bits: it has just passed a boundary; its light has been asked for
before that; it has not turned yet."""

FIRST_REFLECTED, FIRST_TRANSMITTED = 32, 64
"""What its first turn was."""

IN_SUBSURFACE, EMITTERS_ONLY = 128, 256
"""It is inside a subsurface body; it may still find lamps and sky, but no surface."""

FIRST_SCATTERED = 1024
"""Its first turn was in a volume."""

REFRACTED = 512
"""Since its light was last asked for it has passed a boundary that bends light: straight shadow rays bring only what is too bright to be
left to chance (see `shadows`)."""

AFTER_DIFFUSE = np.float32(0.2)
"""Spread of a ray after a diffuse bounce, radians; rays at least this wide count as such."""


class Round(NamedTuple):
    """Which random numbers belong to a round of bounces: the sample, the round within it, and the frame's seed."""

    sample: int
    bounce: int
    seed: int


class Paths(NamedTuple):
    """`n` paths: arrays `(rows, n)` or `(n,)`.

    `diffuse_fraction (3, n)`: how much of what they carry belongs to the diffuse picture. `distance_since_vertex`: how far they have come since their last
    turn, through what is cut out. `bounce_counts`: four counts of a byte each. `wavelength`: micrometres, 0 for all wavelengths.

    `media` and `walk` are wide: they stay whole and are looked up by `slot`, and have no rows where a scene has no such bodies.
    """

    slot: Integers
    pixel: Integers
    origin: Array
    direction: Array
    throughput: Array
    diffuse_fraction: Array
    pdf: Array
    cone_width: Array
    cone_spread: Array
    distance_since_vertex: Array
    wavelength: Array
    flags: Integers
    bounce_counts: Integers
    media: Array
    walk: Array

    def take(self, chosen: Chosen) -> "Paths":
        """The paths at some positions.

        Parameters
        ----------
        chosen : Integers
            `(m,)` positions.
        """
        moved = (take_columns(each, chosen) for each in self[:-2])
        return Paths._make([*moved, self.media, self.walk])

    def join(self, other: "Paths") -> "Paths":
        """These, then others.

        Parameters
        ----------
        other : Paths
            Those to be put after these.
        """
        both = (np.concatenate(pair, axis=-1) for pair in zip(self[:-2], other[:-2], strict=True))
        return Paths._make([*both, self.media, self.walk])


def camera_paths(
    pixels: Integers, origin: Array, direction: Array, pixel_angle: float, media: Array, wandering: bool
) -> Paths:
    """Paths that leave the camera, one for each pixel; `media (rows, 1)` is what the eye is in.

    Parameters
    ----------
    pixels : Integers
        `(n,)` numbers of pixels.
    origin : Array
        `(3, n)` metres.
    direction : Array
        `(3, n)` unit vectors.
    pixel_angle : float
        Radians between pixels.
    media : Array
        `(NESTED × FIELDS, n)`, changed in place.
    wandering : bool
        Whether any body has a subsurface.
    """
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
        np.full(n, SPECULAR | FROM_CAMERA, np.int32),
        np.zeros(n, np.int32),
        np.repeat(media, n, axis=1),
        np.zeros((WALK_ROWS if wandering else 0, n), np.float32),
    )
