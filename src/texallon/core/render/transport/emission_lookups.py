"""Where a ray looks for a volume's own light, and what it finds there.

Bricks are looked into about as often as they are worth it by what they may send to the eye, so that a faint one is passed by many rays and looked into by few, each of
which counts it in full for all. A ray first notes its lookups and makes them together: their memory is fetched meanwhile.
"""

from math import floor
from typing import NamedTuple

import numpy as np

from texallon.core.geometry.peek import float_at, prefetch
from texallon.core.kernel import Float, Int, inlined
from texallon.core.render.volume.between_corners import three_between
from texallon.core.render.volume.tables import Lookups

GOLDEN = 0.6180339887498949

LOOKUPS, FIRST_LOOKUPS = 0.33, 2.0
"""Lookups for each brick that shines, on average along a ray, and so many more at first: where few bricks are crossed each is looked into."""

NEAREST, FARTHEST = 0.25, 16.0
"""Bricks, or parts of one, from one lookup to the next, at least and at most."""


class Steps(NamedTuple):
    """Bytes from a corner's values to those of the next along x (`one`), y (`line`) and z (`layer`)."""

    one: Int
    line: Int
    layer: Int


@inlined
def spread_over(phase: Float, number: Int) -> Float:
    """A place between 0 and 1, each as likely as the other; those of numbers that follow each other lie far apart, by the golden section.

    Parameters
    ----------
    phase : float
        Random, 0…1: that of number 0.
    number : int
        Which of the places.
    """
    place: Float = np.float64(phase) + number * GOLDEN
    return place - floor(place)


@inlined
def defer_lookup(
    lookups: Lookups,
    held: Int,
    value: Int,
    scales: Int,
    between: tuple[Float, Float, Float],
    weight: tuple[Float, Float, Float],
    steps: Steps,
) -> Int:
    """Note a lookup; gives how many there are then.

    Parameters
    ----------
    lookups : Lookups
        Where to.
    held : int
        How many there are; there is room.
    value, scales : int
        The addresses of the values at a cell's first corner, and of their scales.
    between : tuple of float
        Where between the corners along x, y and z, 0…1.
    weight : tuple of float
        What the light counts there, by colour.
    steps : Steps
        From one corner to the next.
    """
    prefetch(value)
    prefetch(value + steps.line)
    prefetch(value + steps.layer)
    prefetch(value + steps.layer + steps.line)
    lookups.at[0, held], lookups.at[1, held] = value, scales
    lookups.between[0, held], lookups.between[1, held], lookups.between[2, held] = between
    lookups.weight[0, held], lookups.weight[1, held], lookups.weight[2, held] = weight
    return held + 1


@inlined
def gather_emission(lookups: Lookups, held: Int, steps: Steps) -> tuple[Float, Float, Float]:
    """The light of lookups that were put off, by colour.

    Parameters
    ----------
    lookups : Lookups
        Where to look.
    held : int
        How many there are.
    steps : Steps
        From one corner to the next.
    """
    red: Float = np.float64(0)
    green = blue = red
    for j in range(held):
        r, g, b = three_between(
            lookups.at[0, j],
            steps.one,
            steps.line,
            steps.layer,
            lookups.between[0, j],
            lookups.between[1, j],
            lookups.between[2, j],
        )
        scales = lookups.at[1, j]
        red += lookups.weight[0, j] * (float_at(scales) + float_at(scales + 4) * r)
        green += lookups.weight[1, j] * (float_at(scales + 8) + float_at(scales + 12) * g)
        blue += lookups.weight[2, j] * (float_at(scales + 16) + float_at(scales + 20) * b)
    return red, green, blue
