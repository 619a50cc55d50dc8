"""Water at a moment: heights, what moves points sideways, and foam, on a patch that repeats."""

import os
from typing import NamedTuple

import numpy as np
import scipy.fft

from texallon.core.derived import Cost, derived
from texallon.core.kernel import Array, Float, Int, Integers, inlined, kernel
from texallon.core.ops.wave_spectrum import Modes
from texallon.core.random_numbers import uniform4

HEIGHT, SIDEWAYS_X, SIDEWAYS_Z, FOAM, AGE = 0, 1, 2, 3, 4
FIELDS = 5

LEAST_CELLS = 4
"""Of the smallest copy of a patch."""

CORNER = 0.5
"""Of a patch: how far apart the corners are between which its copies are blended."""


class WaveTile(NamedTuple):
    """A patch of water with its smaller copies.

    Attributes
    ----------
    cells : Array
        `(c, 5)` of all levels: height and ways sideways in metres, foam 0…1, its age in seconds.
    levels : Integers
        `(l, 2)` where each starts, and its cells across.
    size : float
        Metres.
    """

    cells: Array
    levels: Integers
    size: float


@derived("water at a moment")
def water_at(modes: Modes, seconds: float, choppiness: float) -> Array:
    """Height, ways sideways, and how much of its area is left where the water is folded, `(4, n, n)`.

    Parameters
    ----------
    modes : Modes
        The waves.
    seconds : float
        Since the shot's first frame.
    choppiness : float
        How far points are moved towards crests: at 0 not at all, at 1 as in waves of small height.

    Returns
    -------
    Array
        The last is the determinant of the Jacobian: 1 where nothing is moved, below 0 where the surface passes through itself.
    """
    n = modes.even.shape[0]
    # Phases are reduced in double precision: a shot may be long.
    turn = modes.omega * seconds
    turn = (turn - np.floor(turn * (0.5 / np.pi)) * (2 * np.pi)).astype(np.float32)
    half = np.empty((6 if choppiness else 1, *modes.even.shape), np.complex64)
    np.subtract(modes.even * np.cos(turn), modes.odd * np.sin(turn), out=half[0])
    if choppiness:
        np.multiply(half[0] * np.float32(choppiness), modes.factors, out=half[1:])
    # One axis after the other, in the room of what goes in: a quarter faster than both by one call, which copies it.
    threads = len(os.sched_getaffinity(0))
    rows = scipy.fft.ifft(half, n, axis=1, norm="forward", overwrite_x=True, workers=threads)
    fields: Array = scipy.fft.irfft(rows, n, axis=2, norm="forward", overwrite_x=True, workers=threads)
    if not choppiness:
        flat = np.zeros((n, n), np.float32)
        return np.stack([fields[0], flat, flat, flat + 1])
    xx, zz, xz = fields[3:]
    xx += 1
    zz += 1
    xx *= zz
    xz *= xz
    xx -= xz
    return fields[:4]


@derived("crests that fold", cost=Cost.SLOW)
def folds(modes: Modes, seconds: float, choppiness: float, below: float) -> Array:
    """Where the surface has less than some share of its area left, how far below that it is, `(n, n)` 0…1.

    Parameters
    ----------
    modes : Modes
        The waves.
    seconds : float
        Since the shot's first frame.
    choppiness : float
        As in `water_at`.
    below : float
        The share.
    """
    left = water_at(modes, seconds, choppiness)[3]
    found: Array = np.clip((below - left) / np.float32(max(below, 0.2)), 0, 1)
    return found


@derived("foam", cost=Cost.INSTANT)
def foam_of(
    births: tuple[Array, ...], step: float, lasts: float, since: float = 0.0, now: Array | None = None
) -> Array:
    """Foam and its age, from where crests folded at moments that follow each other, `(2, n, n)`.

    Parameters
    ----------
    births : tuple of Array
        `(n, n)` each.
    step : float
        Seconds between them.
    lasts : float
        Seconds in which foam comes down to a third (1/e).
    since : float
        Seconds since the last of them.
    now : Array, optional
        Where crests fold after these; nowhere unless given.
    """
    foam = np.zeros_like(births[0])
    age = np.zeros_like(births[0])
    later = [(birth, step) for birth in births]
    if since > 0:
        later.append((np.zeros_like(foam) if now is None else now, since))
    for birth, passed in later:
        foam *= np.float32(np.exp(-passed / lasts))
        age += np.float32(passed)
        new = birth > foam
        age[birth > 0] = 0
        foam[new] = birth[new]
    age[foam <= 0] = 0
    return np.stack([foam, age])


@derived("patch of water")
def wave_tile(water: Array, foam: Array | None, size: float) -> WaveTile:
    """A patch with its smaller copies.

    Parameters
    ----------
    water : Array
        As `water_at` gives it.
    foam : Array, optional
        As `foam_of` gives it.
    size : float
        Metres.
    """
    n = water.shape[1]
    cells = np.zeros((n, n, FIELDS), np.float32)
    cells[:, :, :3] = water[:3].transpose(1, 2, 0)
    if foam is not None:
        cells[:, :, 3:] = foam.transpose(1, 2, 0)
    made, starts, start = [], [], 0
    while True:
        starts.append((start, n))
        made.append(cells.reshape(-1, FIELDS))
        start += n * n
        if n <= LEAST_CELLS:
            break
        n //= 2
        cells = cells.reshape(n, 2, n, 2, FIELDS).mean(axis=(1, 3))
    return WaveTile(np.ascontiguousarray(np.concatenate(made), np.float32), np.array(starts, np.int32), size)


@inlined
def _cubic(t: Float, a: Float, b: Float, c: Float, d: Float) -> Float:
    """Between b and c (E. Catmull, R. Rom, 1974)."""
    return b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)))


@inlined
def _cell(cells: Array, start: Int, across: Int, i: Int, j: Int, field: Int) -> Float:
    return cells[start + (j % across) * across + (i % across), field]


@inlined
def _at_level(cells: Array, start: Int, across: Int, u: Float, v: Float, field: Int) -> Float:
    """A field at a place in patches."""
    x, y = u * across, v * across
    i, j = np.int64(np.floor(x)), np.int64(np.floor(y))
    tx, ty = x - i, y - j
    r0 = _cubic(tx, *_row(cells, start, across, i, j - 1, field))
    r1 = _cubic(tx, *_row(cells, start, across, i, j, field))
    r2 = _cubic(tx, *_row(cells, start, across, i, j + 1, field))
    r3 = _cubic(tx, *_row(cells, start, across, i, j + 2, field))
    return _cubic(ty, r0, r1, r2, r3)


@inlined
def _row(cells: Array, start: Int, across: Int, i: Int, j: Int, field: Int) -> tuple[Float, Float, Float, Float]:
    return (
        _cell(cells, start, across, i - 1, j, field),
        _cell(cells, start, across, i, j, field),
        _cell(cells, start, across, i + 1, j, field),
        _cell(cells, start, across, i + 2, j, field),
    )


@inlined
def _filtered(cells: Array, levels: Integers, u: Float, v: Float, level: Float, field: Int) -> Float:
    most: Int = len(levels) - 1
    low: Int = min(np.int64(level), most)
    share: Float = min(level - low, 1.0)
    found = _at_level(cells, levels[low, 0], levels[low, 1], u, v, field)
    if share > 0 and low < most:
        found += share * (_at_level(cells, levels[low + 1, 0], levels[low + 1, 1], u, v, field) - found)
    # Between cells the curve overshoots: foam is never less than none.
    return max(found, 0.0) if field >= FOAM else found


@kernel
def look_up_water(
    tile: WaveTile, position: Array, width: Array, blended: bool, seed: int, field: int, out: Array
) -> None:
    """A field of a patch at some places.

    Where it is blended the plane is divided into triangles; each of their corners has a copy of the patch moved by chance, and three copies are
    added by weights whose squares sum to 1, so that heights have the same distribution everywhere and nothing repeats.

    Parameters
    ----------
    tile : WaveTile
        The patch.
    position : Array
        `(2, n)` metres along the water.
    width : Array
        `(n,)` metres that a sample stands for.
    blended : bool
        Whether copies are blended.
    seed : int
        Of the blending.
    field : int
        Which.
    out : Array
        `(n,)` filled.

    References
    ----------
    E. Heitz, F. Neyret, "High-Performance By-Example Noise using a Histogram-Preserving Blending Operator", HPG 2018: heights of the sea are
    Gaussian, so no histogram needs to be preserved but its variance.
    """
    cells, levels, size = tile.cells, tile.levels, tile.size
    cell = size / levels[0, 1]
    for p in range(len(out)):
        x, z = np.float64(position[0, p]) / size, np.float64(position[1, p]) / size
        if not (np.isfinite(x) and np.isfinite(z)) or abs(x) > 1e9 or abs(z) > 1e9:
            out[p] = np.nan
            continue
        level = max(np.log2(max(np.float64(width[p]) / cell, 1.0)), 0.0)
        if not blended:
            out[p] = _filtered(cells, levels, x, z, level, field)
            continue
        # Triangles: x and z sheared so that they are even-sided.
        a, b = (x - z / np.sqrt(3.0)) / CORNER, 2.0 * z / np.sqrt(3.0) / CORNER
        i, j = np.int64(np.floor(a)), np.int64(np.floor(b))
        fa, fb = a - i, b - j
        lower = fa + fb < 1
        w0 = 1 - fa - fb if lower else fa + fb - 1
        w1 = fa if lower else 1 - fb
        w2 = fb if lower else 1 - fa
        base = 0 if lower else 1
        total, squares = 0.0, 0.0
        for corner in range(3):
            ci = i + (base if corner == 0 else (1 if corner == 1 else 0))
            cj = j + (base if corner == 0 else (0 if corner == 1 else 1))
            weight = w0 if corner == 0 else (w1 if corner == 1 else w2)
            weight = weight * weight * (3 - 2 * weight)
            if weight <= 0:
                continue
            du, dv, _, _ = uniform4(
                np.uint32(ci & 0xFFFFFFFF), np.uint32(cj & 0xFFFFFFFF), np.uint32(9), np.uint32(seed)
            )
            found = _filtered(cells, levels, x + du, z + dv, level, field)
            total += weight * found
            squares += weight * weight if field < 3 else weight
        out[p] = total / np.sqrt(squares) if field < 3 else total / squares
