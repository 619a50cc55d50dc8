"""Shadow rays: what next-event estimation asks for at many points at once, as arrays."""

from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Float, Int, Integers, inlined
from texallon.core.render.light.emitters import ENVIRONMENT, LightSample


class ShadowRays(NamedTuple):
    """Shadow rays of `n` points, `far` 0 where there is none.

    `light (3, n)` is what arrives if nothing is in the way, `weight (n,)` its weight against scattered rays; `emissive_face` the shining
    face that was sampled (−1 for none; its light is still to be multiplied in) at `barycentric (2, n)`. `refracted_fraction (n,)`: share of the light that is
    brought through boundaries which bend it. `crossing (n,)`: whether the ray begins on the far side of the surface it leaves from.
    """

    origin: Array
    direction: Array
    far: Array
    light: Array
    weight: Array
    diffuse_fraction: Array
    flags: Integers
    indirect: Integers
    group: Integers
    emissive_face: Integers
    barycentric: Array
    refracted_fraction: Array
    crossing: Integers


def empty_shadow_rays(n: int) -> ShadowRays:
    """Room for `n` shadow rays.

    Parameters
    ----------
    n : int
        How many.
    """
    return ShadowRays(
        np.empty((3, n), np.float32),
        np.empty((3, n), np.float32),
        np.zeros(n, np.float32),
        np.empty((3, n), np.float32),
        np.empty(n, np.float32),
        np.ones((3, n), np.float32),
        np.zeros(n, np.int32),
        np.zeros(n, np.int32),
        np.zeros(n, np.int32),
        np.full(n, -1, np.int32),
        np.zeros((2, n), np.float32),
        np.ones(n, np.float32),
        np.zeros(n, np.int32),
    )


@inlined
def put_light(shadow: ShadowRays, i: Int, light_sample: LightSample, peak: Float) -> None:
    """Put down which light a shadow ray goes to, and in which direction.

    Parameters
    ----------
    shadow : ShadowRays
        One ray of it is filled.
    i : int
        Column of the ray.
    light_sample : LightSample
        What was chosen.
    peak : float
        Radiance above which the environment is too bright to be left to chance.
    """
    shadow.direction[0, i], shadow.direction[1, i], shadow.direction[2, i] = (
        light_sample.wx,
        light_sample.wy,
        light_sample.wz,
    )
    shadow.group[i], shadow.emissive_face[i] = light_sample.group, light_sample.emissive_face
    shadow.barycentric[0, i], shadow.barycentric[1, i] = light_sample.s, light_sample.t
    shadow.refracted_fraction[i] = (
        max(1.0 - peak / max(light_sample.r, light_sample.g, light_sample.b, 1e-30), 0.0)
        if light_sample.emissive_face == ENVIRONMENT
        else 1.0
    )
