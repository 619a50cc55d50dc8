"""What one bounce of many paths works with: the surface points they met, what holds for the whole sample, and where they go on."""

from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Int, Integers, inlined

BOUNCE_DIFFUSE, BOUNCE_GLOSSY, BOUNCE_TRANSMISSION, BOUNCE_TRANSPARENCY, BOUNCE_ANY = range(5)
"""Places of `Limits.array`, and of the counts in `Paths.bounce_counts`."""

ENTERS, LEAVES = 1, 2
"""How a path crosses the boundary of a body."""


class Settings(NamedTuple):
    """What holds for a whole sample: `limits (5,)` as `Limits.array`, `priority (i,)` of each instance, the table of `albedo`, and whether
    glass splits colours."""

    sample: int
    seed: int
    limits: Integers
    groups: int
    clamp: float
    priority: Integers
    table: Array
    disperses: bool


class SurfaceInteractions(NamedTuple):
    """Surface points that paths met, `n` each: see `Surface`, `Hits` and `rows`."""

    position: Array
    normal: Array
    flat: Array
    offset: Array
    instance: Integers
    face: Integers
    distance: Array
    material: Array


class Onward(NamedTuple):
    """Where n paths go: `origin` and `direction (3, n)`; `passed (n,)` 1 where the surface is cut out and the path goes straight on; and
    `crossing (n,)`, who enters and who leaves a body."""

    origin: Array
    direction: Array
    passed: Integers
    crossing: Integers


@inlined
def terminate(throughput: Array, i: Int) -> None:
    """A path carries nothing on.

    Parameters
    ----------
    throughput : Array
        `(3, n)`.
    i : int
        Column of the path.
    """
    throughput[0, i] = throughput[1, i] = throughput[2, i] = np.float32(0)
