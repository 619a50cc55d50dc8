"""Helper channels that set others: stops of emission, and self-lit colour; wetness has a file of its own."""

import numpy as np

from texallon.core.kernel import Array
from texallon.core.shade.rows import (
    BASE_COLOR,
    BASE_WEIGHT,
    COAT_WEIGHT,
    EMISSION_COLOR,
    EMISSION_EXPOSURE,
    EMISSION_LUMINANCE,
    FUZZ_WEIGHT,
    METALNESS,
    SELF_LIT,
    SPECULAR_WEIGHT,
    SUBSURFACE_WEIGHT,
    TRANSMISSION_WEIGHT,
)

REPLACED = (BASE_WEIGHT, SPECULAR_WEIGHT, COAT_WEIGHT, FUZZ_WEIGHT, METALNESS, SUBSURFACE_WEIGHT, TRANSMISSION_WEIGHT)
"""What a self-lit surface no longer has."""


def resolve_emission(rows: Array, exposure: float) -> None:
    """Bring the helper channels of emission into a material array `(MATERIAL, n)`, in place.

    A self-lit colour is shown as it is through a camera of some `exposure` in stops, whatever the light.

    Parameters
    ----------
    rows : Array
        `(MATERIAL, n)`, changed in place.
    exposure : float
        Stops.
    """
    stops = rows[EMISSION_EXPOSURE]
    if stops.any():
        rows[EMISSION_LUMINANCE] *= np.exp2(stops)
    flat = rows[SELF_LIT]
    if not flat.any():
        return
    colour = slice(EMISSION_COLOR, EMISSION_COLOR + 3)
    shown = rows[BASE_WEIGHT] * rows[BASE_COLOR : BASE_COLOR + 3] * np.float32(2.0**-exposure)
    light = rows[EMISSION_LUMINANCE] * rows[colour] * (1 - flat) + shown * flat
    most = light.max(axis=0)
    rows[EMISSION_LUMINANCE] = most
    rows[colour] = light / np.maximum(most, np.float32(1e-30))
    for row in REPLACED:
        rows[row] *= 1 - flat
