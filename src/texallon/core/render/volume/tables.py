"""All volumes of a shot as arrays, for kernels."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Integers

Addresses = npt.NDArray[np.int64]

BOX, BALL, CLOSED = 0, 1, 2
"""What shape a container has: its bounds, the ball within them, or a closed mesh."""

TABLE, VALUES_AT, SCALES, HEADERS, STAMPS, ADDRESSES = 0, 1, 2, 3, 4, 5
"""Where the arrays of a volume's bricks lie in memory; and how many there are."""


class VolumeTables(NamedTuple):
    """k volumes.

    Attributes
    ----------
    kind : Integers
        `(k,)` BOX, BALL or CLOSED.
    inverse : Array
        `(k, 3, 4)` from the world into the volume's own space.
    low, high : Array
        `(k, 3)` bounds there.
    open_air : Integers
        `(k,)` 1 for an atmosphere, which does not fill clear bodies.
    group : Integers
        `(k,)` light group of its own light.
    bodies : int
        The ray library's handle of the closed meshes; 0 where there are none.
    body_first, body_copies : Integers
        For each geometry of that, the number of its first instance, and 1 where there are several.
    body_volume : Integers
        `(instances,)` which volume each belongs to.
    grid_low, cell : Array
        `(k, 3)` corner and finest cell of its grid.
    cell_world : Array
        `(k,)` metres.
    levels : Integers
        `(k,)`.
    dims : Integers
        `(k, levels, 3)` bricks along each axis.
    first : Integers
        `(k, levels)` where levels begin in its table.
    rows : Integers
        `(k,)` values stored at a corner.
    row_of : Integers
        `(k, QUANTITIES)`.
    constant : Array
        `(k, QUANTITIES)`.
    addresses : Addresses
        `(k, ADDRESSES)`.
    room : Integers
        `(k,)` bricks that the arrays at these addresses have room for: the table may already tell of later ones, which are in larger arrays.
    tick : int
        When bricks are used.
    accept : int
        1 where a coarser brick may stand in for one that is missing.
    samples_across : float
        Samples across a cell.
    lookups : float
        Times as many lookups of light as at rest.
    """

    kind: Integers
    inverse: Array
    low: Array
    high: Array
    open_air: Integers
    group: Integers
    bodies: int
    body_first: Integers
    body_copies: Integers
    body_volume: Integers
    grid_low: Array
    cell: Array
    cell_world: Array
    levels: Integers
    dims: Integers
    first: Integers
    rows: Integers
    row_of: Integers
    constant: Array
    addresses: Addresses
    room: Integers
    tick: int
    accept: int
    samples_across: float
    lookups: float


class Line(NamedTuple):
    """A ray: origin, metres, and direction; in the world its direction is a unit vector."""

    ox: float
    oy: float
    oz: float
    dx: float
    dy: float
    dz: float


class Lookups(NamedTuple):
    """Where a ray will look for light: the addresses of the values at a cell's first corner and of their scales (`at (2, m)`), where between the corners (`between (3, m)`), and what the light counts there (`weight (3, m)`)."""

    at: Addresses
    between: Array
    weight: npt.NDArray[np.float64]


class Scratch(NamedTuple):
    """Room for the segments of one ray: `volume (m,)`, from `enter` to `leave (m,)` metres; the ray in the finest cells of its grid,
    `origin` and `way (3, m)`, and 1 over `way` (`inverse (3, m)`; very large where it is 0); and of the brick it is in the number (−1 where nothing is), the level, its corner `(3, m)` in cells of that, and where the ray leaves it. And room for `lookups`."""

    volume: Integers
    enter: Array
    leave: Array
    origin: Array
    way: Array
    inverse: Array
    brick: Integers
    level: Integers
    corner: Array
    exit: Array
    lookups: Lookups


NOTED_BITS = 16


class Wanted(NamedTuple):
    """Bricks that were looked for and are not there: `code (m,)` of the volume and level (above 32 bits) and the brick's number; `total (1,)` of them, which
    may exceed m; and `noted (2 ** NOTED_BITS,)`, those taken down lately."""

    code: Addresses
    total: Integers
    noted: Addresses
