"""Films and what is made of them, as derived values."""

from typing import Literal

import numpy as np

from texallon.core.derived import Cost, checkpoint, derived
from texallon.core.kernel import Array
from texallon.core.render.film.denoise import denoise
from texallon.core.render.film.division import Region
from texallon.core.render.film.film import Film


@derived("film", cost=Cost.INSTANT)
def new_film(
    context: str, width: int, height: int, groups: int, write_aovs: bool, noise: float, region: Region | None
) -> Film:
    """An empty film for one render context, identified by its key: whoever asks for it adds samples, and finds it with those again.

    Parameters
    ----------
    context : str
        Key of what is rendered.
    width : int
        Pixels across.
    height : int
        Pixels down.
    groups : int
        Light groups, those without one included.
    write_aovs : bool
        Whether light is also kept by the way it came.
    noise : float
        Relative error below which parts are left as they are; 0 never.
    region : Region, optional
        Left, top, right and bottom, 0…1; all of it where there is none.
    """
    return Film(width, height, groups, write_aovs, noise, region)


@derived("denoised picture")
def denoised_picture(film: Film, weights: Array, quality: Literal["fast", "high"]) -> Array:
    """A film in some state, smoothed.

    Parameters
    ----------
    film : Film
        Given with a key that tells its samples.
    weights : Array
        `(groups, 3)` of its light groups.
    quality : str
        `high` for finished pictures.
    """
    return film.denoised(checkpoint(), weights, quality)


@derived("denoised light group")
def denoised_group(film: Film, number: int) -> Array:
    """One light group of a film in some state, smoothed and not weighted.

    Parameters
    ----------
    film : Film
        Samples added up.
    number : int
        Position in the document.
    """
    made = denoise(film.group(number), film.albedo(), film.normal(), checkpoint())
    return np.ascontiguousarray(made)
