"""What fills a body: how light is absorbed and scattered in it, and which of several nested bodies a path is in.

Nested bodies: C. M. Schmidt and B. Budge, "Simple Nested Dielectrics in Ray Traced Images", Journal of Graphics Tools 7(2), 2002:
where bodies overlap the one with the highest priority counts; boundaries of others are passed as if they were not there.

Refraction by `specular_weight`, coats and films is a matter of the surface; a body's index here is its own.

A path carries `media (NESTED × FIELDS, n)`: up to `NESTED` bodies it is in, each with the number of its instance (from 1; 0 is
free), priority, index, and red, green and blue extinction and scattering per metre, and forwardness.
"""

from math import cos, exp, log, pi, sin, sqrt

from texallon.core.kernel import Array, Float, Int, inlined
from texallon.core.shade.half_space import single_albedo
from texallon.core.shade.rows import (
    SPECULAR_IOR,
    SUBSURFACE_COLOR,
    SUBSURFACE_FORWARD,
    SUBSURFACE_RADIUS,
    SUBSURFACE_SCALE,
    THIN_WALLED,
    TRANSMISSION_COLOR,
    TRANSMISSION_DEPTH,
    TRANSMISSION_FORWARD,
    TRANSMISSION_SCATTER,
)

NESTED = 4
"""Bodies that a path can be in at once; of more, the last are taken for empty."""

BODY, PRIORITY, INDEX, EXTINCTION, SCATTERING, FORWARD, FIELDS = 0, 1, 2, 3, 6, 9, 10


@inlined
def through_tint(m: Array, k: Int, c: Int) -> Float:
    """The tint of light that passes a boundary; where the body itself has a depth, that does the tinting."""
    return 1.0 if m[TRANSMISSION_DEPTH, k] > 0.0 and m[THIN_WALLED, k] < 0.5 else m[TRANSMISSION_COLOR + c, k]


@inlined
def innermost(media: Array, i: Int) -> Int:
    """The first row of the body that counts, of highest priority and entered last; −1 in the open."""
    best = -1
    for slot in range(media.shape[0] // FIELDS):
        row = slot * FIELDS
        if media[row + BODY, i] > 0 and (best < 0 or media[row + PRIORITY, i] >= media[best + PRIORITY, i]):
            best = row
    return best


@inlined
def leave(media: Array, i: Int, body: Int) -> None:
    """Take a body away; the others keep their order."""
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
    """Add a body by the material `m[:, k]` of its boundary, whose index is that of the body against empty space."""
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
    """Whether the boundary of a body counts, and the indices on its near and on its far side."""
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


@inlined
def henyey_greenstein_pdf(cosine: Float, g: Float) -> Float:
    """Chance per steradian of turning by an angle (L. G. Henyey and J. L. Greenstein, 1941); 1 / 4π for `g` 0."""
    base = max(1.0 + g * g - 2.0 * g * cosine, 1e-9)
    return (1.0 - g * g) / (4.0 * pi * base * sqrt(base))


@inlined
def sample_henyey_greenstein(
    dx: Float, dy: Float, dz: Float, g: Float, u: Float, v: Float
) -> tuple[Float, Float, Float]:
    """A new direction after scattering, drawn from `henyey_greenstein_pdf`."""
    if abs(g) < 1e-3:
        z = 1.0 - 2.0 * u
    else:
        part = (1.0 - g * g) / (1.0 - g + 2.0 * g * u)
        z = (1.0 + g * g - part * part) / (2.0 * g)
    z = min(max(z, -1.0), 1.0)
    ring = sqrt(1.0 - z * z)
    x, y = ring * cos(2.0 * pi * v), ring * sin(2.0 * pi * v)
    sign = 1.0 if dz >= 0.0 else -1.0
    a = -1.0 / (sign + dz)
    b = dx * dy * a
    return (
        x * (1.0 + sign * dx * dx * a) + y * b + z * dx,
        x * sign * b + y * (sign + dy * dy * a) + z * dy,
        -x * sign * dx - y * dy + z * dz,
    )


@inlined
def begin_random_walk(walk: Array, i: Int, m: Array, k: Int) -> None:
    """Fill a path's `walk (7, n)` (extinction, single albedo, forwardness) from the surface it goes into."""
    g = m[SUBSURFACE_FORWARD, k]
    for c in range(3):
        path = max(m[SUBSURFACE_RADIUS, k] * m[SUBSURFACE_SCALE + c, k], 1e-7)
        walk[c, i] = 1.0 / path
        walk[3 + c, i] = single_albedo(m[SUBSURFACE_COLOR + c, k], g)
    walk[6, i] = g


@inlined
def sample_free_flight(
    st0: Float, st1: Float, st2: Float, p0: Float, p1: Float, p2: Float, pick: Float, u: Float
) -> Float:
    """How far light goes before it is scattered or absorbed, drawn for one channel, chosen by the chances `p` (adding up to 1)."""
    chosen = st0 if pick < p0 else (st1 if pick < p0 + p1 else st2)
    return -log(max(1.0 - u, 1e-9)) / chosen if chosen > 0.0 else 1e30


@inlined
def transmittance(extinction: Float, distance: Float) -> Float:
    """Beer and Lambert's law: the share of light left after a distance."""
    return exp(-extinction * distance) if extinction > 0.0 else 1.0
