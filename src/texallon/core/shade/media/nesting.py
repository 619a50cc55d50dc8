"""Which of several nested bodies a path is in, and what fills them.

Nested bodies: C. M. Schmidt and B. Budge, "Simple Nested Dielectrics in Ray Traced Images", Journal of Graphics Tools 7(2), 2002:
where bodies overlap the one with the highest priority counts; boundaries of others are passed as if they were not there.

Refraction by `specular_weight`, coats and films is a matter of the surface; a body's index here is its own.

A path carries `media (NESTED × FIELDS, n)`: up to `NESTED` bodies it is in, each with the number of its instance (from 1; 0 is
free), priority, index, and red, green and blue extinction and scattering per metre, and anisotropy.
"""

from math import log

from texallon.core.kernel import Array, Float, Int, inlined
from texallon.core.shade.rows import (
    SPECULAR_IOR,
    THIN_WALLED,
    TRANSMISSION_COLOR,
    TRANSMISSION_DEPTH,
    TRANSMISSION_FORWARD,
    TRANSMISSION_SCATTER,
)

NESTED = 4
"""Bodies that a path can be in at once; of more, the last are taken for empty."""

BODY, PRIORITY, INDEX, EXTINCTION, SCATTERING, FORWARD, FIELDS = 0, 1, 2, 3, 6, 9, 10
"""Rows of a body: extinction and scattering by colour, FORWARD the anisotropy; and their number."""


@inlined
def through_tint(m: Array, k: Int, c: Int) -> Float:
    """The tint of light that passes a boundary; where the body itself has a depth, that does the tinting.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    """
    return 1.0 if m[TRANSMISSION_DEPTH, k] > 0.0 and m[THIN_WALLED, k] < 0.5 else m[TRANSMISSION_COLOR + c, k]


@inlined
def innermost(media: Array, i: Int) -> Int:
    """The first row of the body that counts, of highest priority and entered last; −1 in the open.

    Parameters
    ----------
    media : Array
        `(NESTED × FIELDS, n)`.
    i : int
        Column of the path.
    """
    best = -1
    for slot in range(media.shape[0] // FIELDS):
        row = slot * FIELDS
        if media[row + BODY, i] > 0 and (best < 0 or media[row + PRIORITY, i] >= media[best + PRIORITY, i]):
            best = row
    return best


@inlined
def leave(media: Array, i: Int, body: Int) -> None:
    """Take a body away; the others keep their order.

    Parameters
    ----------
    media : Array
        `(NESTED × FIELDS, n)`.
    i : int
        Column of the path.
    body : int
        Number of the instance, from 1.
    """
    found = False
    count = media.shape[0] // FIELDS
    for slot in range(count):
        row = slot * FIELDS
        if not found and media[row + BODY, i] == body:
            found = True
        if found:
            for field in range(FIELDS):
                last = slot == count - 1
                media[row + field, i] = 0 if last else media[row + FIELDS + field, i]


@inlined
def enter(media: Array, i: Int, body: Int, priority: Int, m: Array, k: Int) -> None:
    """Add a body by the material `m[:, k]` of its boundary, whose index is that of the body against empty space.

    Parameters
    ----------
    media : Array
        `(NESTED × FIELDS, n)`.
    i : int
        Column of the path.
    body : int
        Number of the instance, from 1.
    priority : int
        Of nested bodies.
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    """
    from_colour = m[TRANSMISSION_DEPTH, k] > 0.0
    for slot in range(media.shape[0] // FIELDS):
        row = slot * FIELDS
        if media[row + BODY, i] > 0:
            continue
        media[row + BODY, i] = body
        media[row + PRIORITY, i] = priority
        media[row + INDEX, i] = m[SPECULAR_IOR, k]
        # OpenPBR Surface 1.1: the tint is what is left after the depth; where more is scattered than is lost at all, all
        # channels lose more, so that no absorption is negative.
        least = 0.0
        for c in range(3):
            lost = -log(max(m[TRANSMISSION_COLOR + c, k], 1e-4)) / m[TRANSMISSION_DEPTH, k] if from_colour else 0.0
            scattered = m[TRANSMISSION_SCATTER + c, k] / m[TRANSMISSION_DEPTH, k] if from_colour else 0.0
            media[row + EXTINCTION + c, i] = lost
            media[row + SCATTERING + c, i] = scattered
            least = min(least, lost - scattered)
        for c in range(3):
            media[row + EXTINCTION + c, i] -= least
        media[row + FORWARD, i] = m[TRANSMISSION_FORWARD, k]
        return


@inlined
def boundary(media: Array, i: Int, body: Int, priority: Int, ior: Float, entering: bool) -> tuple[bool, Float, Float]:
    """Whether the boundary of a body counts, and the indices on its near and on its far side.

    Parameters
    ----------
    media : Array
        `(NESTED × FIELDS, n)`.
    i : int
        Column of the path.
    body : int
        Number of the instance, from 1.
    priority : int
        Of nested bodies.
    ior : float
        Of the body, against empty space.
    entering : bool
        Whether the path goes in.
    """
    top = innermost(media, i)
    if entering:
        outer = media[top + INDEX, i] if top >= 0 else 1.0
        return top < 0 or priority >= media[top + PRIORITY, i], outer, ior
    counts = top < 0 or media[top + BODY, i] == body or priority > media[top + PRIORITY, i]
    # What lies behind: the best of the others.
    best = -1
    for slot in range(media.shape[0] // FIELDS):
        row = slot * FIELDS
        if media[row + BODY, i] == 0 or media[row + BODY, i] == body:
            continue
        if best < 0 or media[row + PRIORITY, i] >= media[best + PRIORITY, i]:
            best = row
    outer = media[best + INDEX, i] if best >= 0 else 1.0
    return counts, ior, outer
