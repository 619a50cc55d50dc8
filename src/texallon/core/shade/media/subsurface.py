"""The medium below a subsurface, from the colour that its surface shall have."""

from texallon.core.kernel import Array, Int, inlined
from texallon.core.shade.half_space import single_albedo
from texallon.core.shade.rows import SUBSURFACE_COLOR, SUBSURFACE_FORWARD, SUBSURFACE_RADIUS, SUBSURFACE_SCALE

WALK_EXTINCTION, WALK_ALBEDO, WALK_ANISOTROPY, WALK_ROWS = 0, 3, 6, 7
"""Rows of what a path knows of the medium it walks in: extinction and single albedo by colour, and anisotropy; and their number."""


@inlined
def begin_random_walk(walk: Array, i: Int, m: Array, k: Int) -> None:
    """Fill a path's `walk (WALK_ROWS, n)` (extinction, single albedo, forwardness) from the surface it goes into.

    Parameters
    ----------
    walk : Array
        `(WALK_ROWS, n)`, filled.
    i : int
        Column of the path.
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    """
    g = m[SUBSURFACE_FORWARD, k]
    for c in range(3):
        path = max(m[SUBSURFACE_RADIUS, k] * m[SUBSURFACE_SCALE + c, k], 1e-7)
        walk[WALK_EXTINCTION + c, i] = 1.0 / path
        walk[WALK_ALBEDO + c, i] = single_albedo(m[SUBSURFACE_COLOR + c, k], g)
    walk[WALK_ANISOTROPY, i] = g
