"""Into which pictures light is added: one for each light group, and, where wanted, one for each way it came.

Both sets add up to the whole picture.
"""

from texallon.core.kernel import Array, Float, Int, inlined
from texallon.core.render.transport.paths import FIRST_REFLECTED, FIRST_SCATTERED, FIRST_TRANSMITTED

LIGHT_AOVS = (
    "background",
    "emission",
    "direct.diffuse",
    "indirect.diffuse",
    "direct.glossy",
    "indirect.glossy",
    "direct.transmission",
    "indirect.transmission",
    "direct.volume",
    "indirect.volume",
)
"""Ways by which light comes: seen itself, or by what a path did first, with or without a further turn."""


@inlined
def total_bounces(bounce_counts: Int) -> Int:
    """How often a path has turned in all; what is cut out does not count.

    Parameters
    ----------
    bounce_counts : int
        Four counts of a byte each.
    """
    return (bounce_counts & 255) + ((bounce_counts >> 8) & 255) + ((bounce_counts >> 16) & 255)


@inlined
def accumulate(
    buffers: Array,
    groups: Int,
    group: Int,
    slot: Int,
    r: Float,
    g: Float,
    b: Float,
    flags: Int,
    seen: Int,
    indirect: bool,
    diffuse_fraction: Array,
    i: Int,
    clamp: Float,
) -> None:
    """Add light to `buffers (groups + parts, 3, slots)`.

    `seen` is the part for light that the camera sees itself; `indirect` says whether the path turned again after its first turn, and
    with `clamp` above 0 such light is held down to it; `diffuse_fraction (3, ·)[:, i]` of what was reflected first is diffuse.

    Parameters
    ----------
    buffers : Array
        `(groups + AOVs, 3, slots)` light added up, changed in place.
    groups : int
        Number of light groups.
    group : int
        Position of the light group.
    slot : int
        Column of `buffers`.
    r : float
        Red.
    g : float
        Green.
    b : float
        Blue.
    flags : int
        What the path has been through.
    seen : int
        Which AOV light that the camera sees itself is added to.
    indirect : bool
        Whether the path was scattered again after its first time.
    diffuse_fraction : Array
        `(3, n)` share of what was reflected first that is diffuse.
    i : int
        Column of the path.
    clamp : float
        Most light that is added after the first bounce; 0 for no limit.
    """
    if indirect and clamp > 0.0:
        most = max(r, g, b)
        if most > clamp:
            scale = clamp / most
            r, g, b = r * scale, g * scale, b * scale
    buffers[group, 0, slot] += r
    buffers[group, 1, slot] += g
    buffers[group, 2, slot] += b
    if buffers.shape[0] == groups:
        return
    deep = 1 if indirect else 0
    if flags & (FIRST_TRANSMITTED | FIRST_SCATTERED):
        part = groups + (6 if flags & FIRST_TRANSMITTED else 8) + deep
        buffers[part, 0, slot] += r
        buffers[part, 1, slot] += g
        buffers[part, 2, slot] += b
    elif flags & FIRST_REFLECTED:
        part = groups + 2 + deep
        buffers[part, 0, slot] += r * diffuse_fraction[0, i]
        buffers[part, 1, slot] += g * diffuse_fraction[1, i]
        buffers[part, 2, slot] += b * diffuse_fraction[2, i]
        part += 2
        buffers[part, 0, slot] += r * (1.0 - diffuse_fraction[0, i])
        buffers[part, 1, slot] += g * (1.0 - diffuse_fraction[1, i])
        buffers[part, 2, slot] += b * (1.0 - diffuse_fraction[2, i])
    else:
        part = groups + seen
        buffers[part, 0, slot] += r
        buffers[part, 1, slot] += g
        buffers[part, 2, slot] += b
