"""Boundaries that paths meet: what is cut out of a surface, which bodies lie on either side, and how much light is bent there."""

from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Float, Int, Integers, inlined, kernel
from texallon.core.random_numbers import uniform4
from texallon.core.render.transport.paths import Paths
from texallon.core.render.transport.surface_interactions import (
    BOUNCE_TRANSPARENCY,
    ENTERS,
    LEAVES,
    Onward,
    Settings,
    SurfaceInteractions,
    terminate,
)
from texallon.core.shade.base import is_thin
from texallon.core.shade.media.nesting import boundary, enter, leave
from texallon.core.shade.rows import ABBE, DISPERSION, METALNESS, SPECULAR_IOR, TRANSMISSION_WEIGHT
from texallon.core.shade.spectrum import dispersed_ior, draw_wavelength

CUT_OUT, WAVE = 0x7FFF0000, 0x7FFC0000
"""Random dimensions of going through what is cut out and of wavelengths, apart from those of scattering."""

GOLDEN = 0.6180339887498949
"""Steps by the golden ratio spread the wavelengths of a pixel's samples evenly."""


class Interface(NamedTuple):
    """How a path meets a surface. `outside`: from the outer side; `thin`: it is a thin wall; `clear`: light passes it. `ior`: the body's
    own index, at the path's wavelength; `near`: index of what the path comes from; `bending`: index beyond over index before.
    `counts`: other bodies do not hide this boundary. `fresh`: the path takes the one `wavelength` (micrometres) if it goes in,
    and then carries the colour `red`, `green`, `blue`.
    """

    outside: bool
    thin: bool
    clear: bool
    counts: bool
    fresh: bool
    ior: Float
    near: Float
    bending: Float
    wavelength: Float
    red: Float
    green: Float
    blue: Float


@inlined
def continue_straight(
    surfaces: SurfaceInteractions, paths: Paths, i: Int, inwards: bool, settings: Settings, onward: Onward
) -> None:
    """Let a path pass what is cut out, or a boundary that does not count.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points that the paths met.
    paths : Paths
        Their counts and distances are changed in place.
    i : int
        Column of the path.
    inwards : bool
        Whether the path goes against the face's normal.
    settings : Settings
        What holds for the whole sample.
    onward : Onward
        Filled.
    """
    onward.passed[i] = 1
    paths.distance_since_vertex[i] += surfaces.distance[i]
    if ((paths.bounce_counts[i] >> 24) & 127) >= settings.limits[BOUNCE_TRANSPARENCY]:
        terminate(paths.throughput, i)
        return
    paths.bounce_counts[i] += 1 << 24
    step = -surfaces.offset[i] if inwards else surfaces.offset[i]
    for c in range(3):
        onward.origin[c, i] = surfaces.position[c, i] + step * surfaces.flat[c, i]


@inlined
def passes_cut_out(opacity: Float, pixel: Int, sample: Int, bounce: Int, seed: Int) -> bool:
    """Whether a path goes through what is cut out of a surface.

    Parameters
    ----------
    opacity : float
        Share of the surface that is there, 0…1.
    pixel, sample : int
        Numbers of the path's pixel and sample.
    bounce : int
        Number of the round.
    seed : int
        Of the frame's random numbers.
    """
    if opacity >= np.float32(1):
        return False
    through, _, _, _ = uniform4(pixel, sample, CUT_OUT + bounce, seed)
    return bool(through >= opacity)


@inlined
def interface_at(m: Array, paths: Paths, i: Int, instance: Int, outside: bool, settings: Settings) -> Interface:
    """How a path meets a surface, and which bodies lie on either side.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    paths : Paths
        Paths that met surfaces.
    i : int
        Column of the path.
    instance : int
        Position of the instance that it met.
    outside : bool
        Whether the path met the outer side.
    settings : Settings
        What holds for the whole sample.
    """
    thin = is_thin(m, i)
    clear = m[TRANSMISSION_WEIGHT, i] > 0.0 and m[METALNESS, i] < 1.0
    wavelength = paths.wavelength[i]
    red = green = blue = 1.0
    fresh = bool(settings.disperses and clear and not thin and m[DISPERSION, i] > 0.0 and wavelength <= 0.0)
    if fresh:
        start, _, _, _ = uniform4(paths.pixel[i], 0, WAVE, settings.seed)
        x = start + settings.sample * GOLDEN
        wavelength, red, green, blue = draw_wavelength(x - np.floor(x))
    ior = m[SPECULAR_IOR, i]
    if wavelength > 0.0:
        ior = dispersed_ior(ior, m[ABBE, i], m[DISPERSION, i], wavelength)
    near = 1.0
    bending = ior
    counts = True
    if paths.media.shape[0] > 0:
        entering = outside or thin or not clear
        counts, near, far_index = boundary(
            paths.media, paths.slot[i], instance + 1, settings.priority[instance], ior, entering
        )
        bending = far_index / near
    elif clear and not outside and not thin:
        near, bending = ior, 1.0 / ior
    return Interface(
        outside, thin, clear, bool(counts or thin or not clear), fresh, ior, near, bending, wavelength, red, green, blue
    )


@kernel
def update_media(surfaces: SurfaceInteractions, paths: Paths, crossing: Integers, priority: Integers) -> None:
    """Take down which bodies paths have entered or left.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points that paths met.
    paths : Paths
        Updated in place.
    crossing : Integers
        `(n,)` who enters and who leaves a body.
    priority : Integers
        `(i,)` of nested bodies, by instance.
    """
    m, instance, slot, media = surfaces.material, surfaces.instance, paths.slot, paths.media
    for i in range(crossing.shape[0]):
        if crossing[i] == ENTERS:
            enter(media, slot[i], instance[i] + 1, priority[instance[i]], m, i)
        elif crossing[i] == LEAVES:
            leave(media, slot[i], instance[i] + 1)
