"""What boils, pops or jumps from frame to frame, found in passes that are free of noise.

Each frame is compared with the one before and the one after, both looked up along the velocity pass, so that what moves is compared with
itself: the second difference over time, relative to the values around, in tiles. A tile where that is large at one frame only pops; one where it is large frame after
frame boils; where most of the picture changes at once against both neighbours or for good, it jumps.
"""

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.ndimage import map_coordinates

from texallon.core.kernel import Array
from texallon.core.render.film.noise_level import TILE

NOTICED = 0.08
"""Relative change against both neighbours from which on a tile counts. Chosen by hand, no published source: in frames of the demo whose surfaces keep
their colours no tile changes by more than 0.014 (GH010 and GH070, 320×180, 4 samples); tiles that dance and change colour (GH140) by up to 0.2."""

OFTEN = 0.5
"""Share of a tile's frames from which on it boils."""

MOST_OF_PICTURE = 0.6
"""Share of tiles that change at once where a picture jumps."""

DARKEST, LEAST_KNOWN = 1e-3, 0.25
"""Values below which changes are measured as if they were that large, and the share of a tile that must be looked up for it to count."""

Doubles = npt.NDArray[np.float64]


class Flicker(NamedTuple):
    """What was found: of which kind, from frame to frame, where (left, top, right, bottom, 0…1), and how strong, relative to what is noticed."""

    kind: Literal["boils", "pops", "jumps"]
    first: int
    last: int
    place: tuple[float, float, float, float]
    strength: float


def residuals(before: Array, here: Array, after: Array, velocity: Array | None) -> Doubles:
    """How much a frame differs from what lies between its neighbours, relative to the light around, in tiles.

    Parameters
    ----------
    before, here, after : Array
        `(h, w, c)` of three frames in a row.
    velocity : Array, optional
        `(h, w, 2)` pixels a frame to the right and downwards; nothing moves unless given.

    Returns
    -------
    Array
        `(tiles down, tiles across)`; NaN where neighbours can't be looked up.
    """
    earlier, later = _carried(before, velocity, -1), _carried(after, velocity, 1)
    middle = here.astype(np.float64)
    # A steady change is none: what matters is the distance from the mean of both, and no more than from either.
    against = np.stack([np.abs(middle - (earlier + later) / 2), np.abs(middle - earlier), np.abs(middle - later)])
    return _in_tiles(against.min(axis=0), earlier, middle, later)


def changes(before: Array, here: Array, velocity: Array | None) -> Doubles:
    """How much a frame differs from the one before, likewise.

    Parameters
    ----------
    before, here : Array
        `(h, w, c)` of two frames in a row.
    velocity : Array, optional
        As of `residuals`.
    """
    earlier = _carried(before, velocity, -1)
    return _in_tiles(np.abs(here - earlier), earlier, here.astype(np.float64))


def find_flicker(
    frames: Sequence[int], passes: Sequence[Array], velocities: Sequence[Array | None] = (), noticed: float = NOTICED
) -> list[Flicker]:
    """What boils, pops or jumps, the strongest first.

    Parameters
    ----------
    frames : sequence of int
        Numbers of the frames, rising.
    passes : sequence of Array
        `(h, w, c)` of each, free of noise, such as its albedo.
    velocities : sequence of Array, optional
        `(h, w, 2)` of each, pixels a frame.
    noticed : float, optional
        Relative change that counts.

    Returns
    -------
    list of Flicker
        Places that touch each other are one.
    """
    moved = list(velocities) or [None] * len(passes)
    if len(passes) < 3:
        return []
    steps = [changes(passes[k - 1], passes[k], moved[k]) for k in range(1, len(passes))]
    off = np.stack([residuals(passes[k - 1], passes[k], passes[k + 1], moved[k]) for k in range(1, len(passes) - 1)])
    found = []
    jumping = set()
    for number, step in enumerate(steps):
        share = np.nanmean(step > 2 * noticed) if np.isfinite(step).any() else 0.0
        usual = np.nanmedian([np.nanmedian(other) for at, other in enumerate(steps) if at != number])
        if share > MOST_OF_PICTURE and np.nanmedian(step) > 4 * max(usual, noticed / 4):
            found.append(
                Flicker("jumps", frames[number], frames[number + 1], (0, 0, 1, 1), float(np.nanmedian(step) / noticed))
            )
            jumping |= {number, number + 1}
    kept = np.array([number + 1 not in jumping for number in range(len(off))])
    with np.errstate(invalid="ignore"):
        seen = (off > noticed) & kept[:, None, None]
    often = seen.mean(axis=0) >= OFTEN if len(off) > 2 else np.zeros(off.shape[1:], bool)
    shape = passes[0].shape[:2]
    for region in _regions(often):
        strength = float(np.nanmax(off[:, region[0], region[1]]) / noticed)
        found.append(Flicker("boils", frames[1], frames[-2], _place(region, shape), strength))
    for number in range(len(off)):
        for region in _regions(seen[number] & ~often):
            strength = float(np.nanmax(off[number][region[0], region[1]]) / noticed)
            found.append(Flicker("pops", frames[number + 1], frames[number + 1], _place(region, shape), strength))
    return sorted(found, key=lambda each: -each.strength)


def _carried(values: Array, velocity: Array | None, frames: int) -> Doubles:
    """Another frame's values where this frame's points are in it, `(h, w, c)`; NaN for what is outside the picture."""
    height, width, layers = values.shape
    places = np.mgrid[0:height, 0:width].astype(np.float64)
    if velocity is not None:
        places += frames * velocity[:, :, ::-1].transpose(2, 0, 1)
    found = [
        map_coordinates(values[:, :, k].astype(np.float64), places, order=1, mode="constant", cval=np.nan)
        for k in range(layers)
    ]
    return np.stack(found, axis=2)


def _in_tiles(off: Doubles, *around: Doubles) -> Doubles:
    """The median of each tile of differences `(h, w, c)`, relative to the values around: an edge that is sampled anew in each frame is no
    flicker, a surface that changes is."""
    level = np.maximum(np.abs(np.stack(around)).mean(axis=(0, 3)), DARKEST)
    height, width = level.shape
    rows, columns = -(-height // TILE), -(-width // TILE)
    padded = np.full((rows * TILE, columns * TILE), np.nan)
    with np.errstate(invalid="ignore"):
        padded[:height, :width] = off.mean(axis=2) / level
    tiles = padded.reshape(rows, TILE, columns, TILE).transpose(0, 2, 1, 3).reshape(rows, columns, -1)
    enough = np.isfinite(tiles).mean(axis=2) > LEAST_KNOWN
    result = np.full((rows, columns), np.nan)
    if enough.any():
        result[enough] = np.nanmedian(tiles[enough], axis=1)
    return result


def _regions(mask: npt.NDArray[np.bool_]) -> list[tuple[slice, slice]]:
    """Boxes around tiles that touch each other."""
    from scipy.ndimage import find_objects, label

    named, _ = label(mask, np.ones((3, 3)))
    return [box for box in find_objects(named) if box is not None]


def _place(region: tuple[slice, slice], shape: tuple[int, int]) -> tuple[float, float, float, float]:
    height, width = shape
    down, across = region
    return (
        min(across.start * TILE / width, 1.0),
        min(down.start * TILE / height, 1.0),
        min(across.stop * TILE / width, 1.0),
        min(down.stop * TILE / height, 1.0),
    )
