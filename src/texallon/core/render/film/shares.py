"""Shares of a film: rows of it, or some of its samples, rendered apart and joined to what one film would hold, to the bit."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Integers
from texallon.core.render.film.division import ShareOfFilm
from texallon.core.render.film.film import Film, Sums


class SampledShare(NamedTuple):
    """A share with what was sampled of it, `(…, pixels of its rows)`."""

    share: ShareOfFilm
    sums: Sums
    counts: Integers


def sampled_share(film: Film, share: ShareOfFilm) -> SampledShare:
    """What a film has sampled of a share.

    Parameters
    ----------
    film : Film
        That was made for the share alone.
    share : ShareOfFilm
        Which part it is.
    """
    chosen = pixels_of(share, film.width)
    return SampledShare(
        share, Sums(*(np.ascontiguousarray(each[..., chosen]) for each in film.sums)), film.counts[chosen].copy()
    )


def join_shares(film: Film, shares: Sequence[SampledShare]) -> None:
    """Put shares into an empty film, in the order of their samples.

    Parameters
    ----------
    film : Film
        Without any samples.
    shares : sequence of SampledShare
        That cover it, in any order.
    """
    for each in sorted(shares, key=lambda share: share.share):
        film.add_block(each.sums, each.counts, pixels_of(each.share, film.width))


def pixels_of(share: ShareOfFilm, width: int) -> slice:
    """The numbers of a share's pixels.

    Parameters
    ----------
    share : ShareOfFilm
        Which part.
    width : int
        Of the picture, pixels.
    """
    return slice(share.rows[0] * width, share.rows[1] * width)
