"""Films and what is made of them, as derived values."""

from typing import Literal

import numpy as np

from texallon.core.derived import Cost, checkpoint, derived
from texallon.core.kernel import Array
from texallon.core.render.film.denoise import denoise
from texallon.core.render.film.film import Film, Region


@derived("film", cost=Cost.INSTANT)
def new_film(
    context: str, width: int, height: int, groups: int, write_aovs: bool, noise: float, region: Region | None
) -> Film:
    """An empty film for one render context, told by its key: whoever asks for it adds samples, and finds it with those again.

    Parameters
    ----------
    context : str
        Key of what is rendered.
    groups : int
        Light groups, those without one included.
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
    """
    return film.denoised(checkpoint(), weights, quality)


@derived("denoised light group")
def denoised_group(film: Film, number: int) -> Array:
    """One light group of a film in some state, smoothed and not weighed."""
    made = denoise(film.group(number), film.albedo(), film.normal(), checkpoint())
    return np.ascontiguousarray(made)
