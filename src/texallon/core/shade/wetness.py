"""What a film of water does to a surface, from one number 0…1.

Water fills the pores and lies on top as a coat of its own index: it mirrors sharply, takes away most of the reflection of the ground
below it (a base's index is taken against its coat's, see `stack`), and throws light back onto the ground, which darkens it as
J. Lekner and M. C. Dorf describe (Applied Optics 27(7), 1988; see `coat`). The ground's own roughness no longer matters to the eye.
"""

import numpy as np

from texallon.core.kernel import Array
from texallon.core.shade.rows import (
    COAT_BRUSHING,
    COAT_COLOR,
    COAT_DARKENING,
    COAT_IOR,
    COAT_ROUGHNESS,
    COAT_WEIGHT,
    WETNESS,
)

WATER = np.float32(1.333)
FILM_ROUGHNESS = np.float32(0.06)
"""A film that has settled; waves and drops are a bump's work."""


def wet(rows: Array) -> None:
    """Turn the `wetness` of a material array `(MATERIAL, n)` into a coat, in place.

    Parameters
    ----------
    rows : Array
        `(MATERIAL, n)`, changed in place.
    """
    wetness = rows[WETNESS]
    if not wetness.any():
        return
    # Of two coats the water is the outer one.
    rows[COAT_IOR] += wetness * (WATER - rows[COAT_IOR])
    rows[COAT_ROUGHNESS] += wetness * (FILM_ROUGHNESS - rows[COAT_ROUGHNESS])
    rows[COAT_BRUSHING] *= 1 - wetness
    rows[COAT_DARKENING] += wetness * (1 - rows[COAT_DARKENING])
    rows[COAT_COLOR : COAT_COLOR + 3] += wetness * (1 - rows[COAT_COLOR : COAT_COLOR + 3])
    rows[COAT_WEIGHT] = np.maximum(rows[COAT_WEIGHT], wetness)
