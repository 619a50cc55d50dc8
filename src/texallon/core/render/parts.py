"""Into which pictures light is added: one for each light group, and, where wanted, one for each way it came.

Both sets add up to the whole picture.
"""

from texallon.core.kernel import Array, Real, Whole, inlined
from texallon.core.render.paths import FIRST_REFLECTED, FIRST_THROUGH

PARTS = (
    "background",
    "emission",
    "direct.diffuse",
    "indirect.diffuse",
    "direct.glossy",
    "indirect.glossy",
    "direct.transmission",
    "indirect.transmission",
)
"""Ways by which light comes: seen itself, or by what a path did first, with or without a further turn."""


@inlined
def turned(turns: Whole) -> Whole:
    """How often a path has turned in all; what is cut out does not count."""
    return (turns & 255) + ((turns >> 8) & 255) + ((turns >> 16) & 255)


@inlined
def deposit(
    layers: Array,
    groups: Whole,
    group: Whole,
    slot: Whole,
    r: Real,
    g: Real,
    b: Real,
    flags: Whole,
    seen: Whole,
    further: bool,
    share: Array,
    i: Whole,
    clamp: Real,
) -> None:
    """Add light to `layers (groups + parts, 3, slots)`.

    `seen` is the part for light that the camera sees itself; `further` says whether the path turned again after its first turn, and
    with `clamp` above 0 such light is held down to it; `share (3, ·)[:, i]` of what was reflected first is diffuse.
    """
    if further and clamp > 0.0:
        most = max(r, g, b)
        if most > clamp:
            scale = clamp / most
            r, g, b = r * scale, g * scale, b * scale
    layers[group, 0, slot] += r
    layers[group, 1, slot] += g
    layers[group, 2, slot] += b
    if layers.shape[0] == groups:
        return
    deep = 1 if further else 0
    if flags & FIRST_THROUGH:
        part = groups + 6 + deep
        layers[part, 0, slot] += r
        layers[part, 1, slot] += g
        layers[part, 2, slot] += b
    elif flags & FIRST_REFLECTED:
        part = groups + 2 + deep
        layers[part, 0, slot] += r * share[0, i]
        layers[part, 1, slot] += g * share[1, i]
        layers[part, 2, slot] += b * share[2, i]
        part += 2
        layers[part, 0, slot] += r * (1.0 - share[0, i])
        layers[part, 1, slot] += g * (1.0 - share[1, i])
        layers[part, 2, slot] += b * (1.0 - share[2, i])
    else:
        part = groups + seen
        layers[part, 0, slot] += r
        layers[part, 1, slot] += g
        layers[part, 2, slot] += b
