"""The layer stack at a point that a path has met, with its random facet and its least roughness."""

import numpy as np

from texallon.core.kernel import Array, Int, inlined
from texallon.core.random_numbers import uniform4
from texallon.core.render.transport.interface import Interface
from texallon.core.render.transport.paths import AFTER_DIFFUSE, Paths
from texallon.core.render.transport.shading_frame import ShadingFrame
from texallon.core.render.transport.surface_interactions import Settings
from texallon.core.shade.base import SMOOTH
from texallon.core.shade.rows import (
    BASE_COLOR,
    BASE_WEIGHT,
    BRUSHING,
    COAT_BRUSHING,
    COAT_ROUGHNESS,
    COAT_WEIGHT,
    OPACITY,
    SPECULAR_IOR,
    SPECULAR_ROUGHNESS,
    THIN_FILM_WEIGHT,
)
from texallon.core.shade.stack import Stack, make_stack

SOFTEST = np.float32(0.3)
"""Least roughness of reflections seen by way of a diffuse bounce.

A small light mirrored by water onto a wall is found by chance so seldom that it blinds the pixels where it is.
Mollified reflections (A. Kaplanyan and C. Dachsbacher, "Path Space Regularization", Eurographics 2013) find it always, at
the price of softer caustics. What the camera sees directly, or in a mirror, is not touched.
"""

FACET = 0x7FFB0000
"""Random dimensions of facets that stand for all, apart from those of scattering."""


@inlined
def set_subsurface_exit(m: Array, k: Int) -> None:
    """Make a material the white, dull inner side of a surface, by which wandering light comes out.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    """
    for row in range(m.shape[0]):
        m[row, k] = np.float32(0)
    for row in (BASE_WEIGHT, BASE_COLOR, BASE_COLOR + 1, BASE_COLOR + 2, SPECULAR_IOR, OPACITY, SPECULAR_ROUGHNESS):
        m[row, k] = np.float32(1)


@inlined
def stack_at(
    m: Array, paths: Paths, i: Int, frame: ShadingFrame, interface: Interface, bounce: Int, settings: Settings
) -> Stack:
    """The layer stack as a path sees it.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows; roughnesses are raised in place for paths that come by way of a diffuse bounce.
    paths : Paths
        Paths that met surfaces.
    i : int
        Column of the path.
    frame : ShadingFrame
        Of the point.
    interface : Interface
        How the path meets the surface.
    bounce : int
        Number of the round.
    settings : Settings
        What holds for the whole sample.
    """
    softened = False
    if paths.cone_spread[i] >= AFTER_DIFFUSE:
        softened = interface.clear and not interface.thin and m[SPECULAR_ROUGHNESS, i] < SMOOTH
        m[SPECULAR_ROUGHNESS, i] = max(m[SPECULAR_ROUGHNESS, i], SOFTEST)
        m[COAT_ROUGHNESS, i] = max(m[COAT_ROUGHNESS, i], SOFTEST)
    facet = (0.5, 0.5, 0.5, 0.5)
    if (
        m[THIN_FILM_WEIGHT, i] > 0.0
        or m[BRUSHING, i] > 0.0
        or (m[COAT_WEIGHT, i] > 0.0 and (interface.clear or m[COAT_BRUSHING, i] > 0.0))
    ):
        fa, fb, fc, fd = uniform4(paths.pixel[i], settings.sample, FACET + bounce, settings.seed)
        facet = (float(fa), float(fb), float(fc), float(fd))
    return make_stack(m, i, frame.ox, frame.oy, frame.oz, interface.outside, softened, facet, settings.table)
