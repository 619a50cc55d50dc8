"""Frames in which the surface model works: two tangents and a normal on the viewer's side of a surface point."""

from typing import NamedTuple

import numpy as np

from texallon.core.kernel import Array, Float, Int, inlined
from texallon.core.render.transport.surface_interactions import SurfaceInteractions
from texallon.core.shade.rows import COAT_NORMAL, COAT_TANGENT, COAT_WEIGHT, TANGENT


class ShadingFrame(NamedTuple):
    """World directions at a point, unit: tangents `a` and `b`, normal `n`, and the normal of the face itself `f`, all on the viewer's
    side; and the direction to the viewer in the frame, `o`."""

    ax: Float
    ay: Float
    az: Float
    bx: Float
    by: Float
    bz: Float
    nx: Float
    ny: Float
    nz: Float
    fx: Float
    fy: Float
    fz: Float
    ox: Float
    oy: Float
    oz: Float


@inlined
def orthonormal_basis(nx: Float, ny: Float, nz: Float) -> tuple[Float, Float, Float, Float, Float, Float]:
    """Two unit vectors across a normal (T. Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017).

    Parameters
    ----------
    nx, ny, nz : float
        Unit normal.
    """
    sign = 1.0 if nz >= 0.0 else -1.0
    a = -1.0 / (sign + nz)
    b = nx * ny * a
    return 1.0 + sign * nx * nx * a, sign * b, -sign * nx, b, sign + ny * ny * a, -ny


@inlined
def shading_basis(
    nx: Float, ny: Float, nz: Float, gx: Float, gy: Float, gz: Float
) -> tuple[Float, Float, Float, Float, Float, Float]:
    """Two unit vectors across a normal, the first along the grain `g` where there is one.

    Parameters
    ----------
    nx, ny, nz : float
        Unit normal.
    gx, gy, gz : float
        Grain's direction.
    """
    along = gx * nx + gy * ny + gz * nz
    gx, gy, gz = gx - along * nx, gy - along * ny, gz - along * nz
    length = np.sqrt(gx * gx + gy * gy + gz * gz)
    if length < 1e-4:
        return orthonormal_basis(nx, ny, nz)
    ax, ay, az = gx / length, gy / length, gz / length
    return ax, ay, az, ny * az - nz * ay, nz * ax - nx * az, nx * ay - ny * ax


@inlined
def to_frame(m: Array, k: Int, row: Int, frame: ShadingFrame, side: Float) -> None:
    """Turn a world direction in three rows into a frame, seen from the side of the viewer.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows, changed in place.
    k : int
        Column of the material.
    row : int
        First of three rows.
    frame : ShadingFrame
        Of the point.
    side : float
        1 outside, −1 inside.
    """
    x, y, z = m[row, k] * side, m[row + 1, k] * side, m[row + 2, k] * side
    m[row, k] = x * frame.ax + y * frame.ay + z * frame.az
    m[row + 1, k] = x * frame.bx + y * frame.by + z * frame.bz
    m[row + 2, k] = x * frame.nx + y * frame.ny + z * frame.nz


@inlined
def shading_frame(
    surfaces: SurfaceInteractions, direction: Array, i: Int, outside: bool, coming_out: bool
) -> ShadingFrame:
    """The frame of a surface point as a path meets it; the normal and grain of its coat are turned into it.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points; the coat's rows of the material are changed in place.
    direction : Array
        `(3, n)` unit vectors along which the paths came.
    i : int
        Column of the path.
    outside : bool
        Whether the path met the outer side.
    coming_out : bool
        Whether it has wandered below this surface: it is seen from outside, as the light that it scatters is.
    """
    m, normal, flat = surfaces.material, surfaces.normal, surfaces.flat
    vx, vy, vz = -direction[0, i], -direction[1, i], -direction[2, i]
    side = 1.0 if outside else -1.0
    fx, fy, fz = flat[0, i] * side, flat[1, i] * side, flat[2, i] * side
    nx, ny, nz = normal[0, i] * side, normal[1, i] * side, normal[2, i] * side
    if coming_out:
        fx, fy, fz, nx, ny, nz = -fx, -fy, -fz, -nx, -ny, -nz
        vx, vy, vz = nx, ny, nz
    if nx * vx + ny * vy + nz * vz < 1e-3:  # a smoothed normal may turn away where the face itself does not
        nx, ny, nz = fx, fy, fz
    ax, ay, az, bx, by, bz = shading_basis(nx, ny, nz, m[TANGENT, i], m[TANGENT + 1, i], m[TANGENT + 2, i])
    ox = vx * ax + vy * ay + vz * az
    oy = vx * bx + vy * by + vz * bz
    oz = max(vx * nx + vy * ny + vz * nz, 1e-4)
    frame = ShadingFrame(ax, ay, az, bx, by, bz, nx, ny, nz, fx, fy, fz, ox, oy, oz)
    if m[COAT_WEIGHT, i] > 0.0:
        to_frame(m, i, COAT_NORMAL, frame, side)
        to_frame(m, i, COAT_TANGENT, frame, 1.0)
    return frame
