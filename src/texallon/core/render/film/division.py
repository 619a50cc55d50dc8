"""Which parts a film can be divided into: rows of it, or some of its samples."""

from itertools import pairwise
from typing import NamedTuple

from texallon.core.render.film.noise_level import TILE

SUMMED = 64
"""Samples that are summed by themselves before they are added to those before: so that a range of them, from a multiple of this, can be
sampled elsewhere and joined to the bit."""

Region = tuple[float, float, float, float]
"""Left, top, right and bottom of a part of the picture, 0…1."""


class ShareOfFilm(NamedTuple):
    """Which part of a film: `rows` from the first to the one after the last, and samples from `first` to the one after `last`."""

    rows: tuple[int, int]
    first: int
    last: int


def shares_of(height: int, samples: int, by_noise: bool, wanted: int) -> list[ShareOfFilm]:
    """Divide a film into shares that can be rendered apart, about as many as are wanted.

    Rows are divided where tiles of noise meet; samples only where all pixels get the same number, and where sums of samples meet.

    Parameters
    ----------
    height : int
        Of the picture, pixels.
    samples : int
        Most of a pixel.
    by_noise : bool
        Whether parts that are not noisy any more are left as they are.
    wanted : int
        How many; 1 for the whole film.

    Examples
    --------
    >>> shares_of(40, 64, False, 2)
    [ShareOfFilm(rows=(0, 32), first=0, last=64), ShareOfFilm(rows=(32, 40), first=0, last=64)]
    >>> [(each.first, each.last) for each in shares_of(16, 150, False, 4)]
    [(0, 64), (64, 128), (128, 150)]
    """
    tiles = -(-height // TILE)
    bands = min(max(wanted, 1), tiles)
    edges = [min(round(tiles * k / bands) * TILE, height) for k in range(bands)] + [height]
    # Each run of samples that is summed by itself: sums can't be split again.
    apart = not by_noise and bands < wanted
    starts = [*range(0, samples, SUMMED), samples] if apart else [0, samples]
    return [
        ShareOfFilm((top, bottom), first, last) for top, bottom in pairwise(edges) for first, last in pairwise(starts)
    ]
