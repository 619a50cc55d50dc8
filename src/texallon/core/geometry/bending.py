"""How much a surface bends, felt out by rays about a point: for what has no mesh of its own to measure on, such as copies in the world."""

from math import cos, pi, sin, sqrt
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.embree import NO_HIT, intersect_one
from texallon.core.geometry.rays import CLEAR, OPAQUE, aim
from texallon.core.kernel import Array, Float, Int, Integers, allocating, inlined

WAYS = 16
"""Directions that are felt along: on anything whose height is a quadratic form three would do."""


class Bodies(NamedTuple):
    """Instances, i of them, each of a mesh: `handle (i,)` of the mesh's own search structure, 0 where there is none; `vertices`, `normals (v, 3)` and `faces (f, 3)`
    of all meshes, `first_face (i,)`, and `inverse (i, 3, 4)` from the world into each."""

    handle: npt.NDArray[np.int64]
    vertices: Array
    normals: Array
    faces: Integers
    first_face: Integers
    inverse: Array


class Felt(NamedTuple):
    """Points on bodies: `place`, unit `normal (3, n)` in the world, `instance (n,)`, and `lift (n,)`: metres that rays begin away from them."""

    place: Array
    normal: Array
    instance: Integers
    lift: Array


@inlined
def _meet(
    bodies: Bodies, k: Int, ray: Array, bits: npt.NDArray[np.uint32], at: Int, ox: Float, oy: Float, oz: Float, dx: Float, dy: Float,
    dz: Float, near: Float, far: Float,
) -> bool:  # fmt: skip
    """Whether a ray of the world meets one body; it is left in the library's record, in the body's space."""
    w = bodies.inverse[k]
    aim(
        ray, bits, 0, OPAQUE | CLEAR,
        w[0, 0] * ox + w[0, 1] * oy + w[0, 2] * oz + w[0, 3], w[1, 0] * ox + w[1, 1] * oy + w[1, 2] * oz + w[1, 3],
        w[2, 0] * ox + w[2, 1] * oy + w[2, 2] * oz + w[2, 3], w[0, 0] * dx + w[0, 1] * dy + w[0, 2] * dz,
        w[1, 0] * dx + w[1, 1] * dy + w[1, 2] * dz, w[2, 0] * dx + w[2, 1] * dy + w[2, 2] * dz, near, far,
    )  # fmt: skip
    intersect_one(bodies.handle[k], at, 0)
    return bool(bits[18] != NO_HIT)


@inlined
def _leaning(
    bodies: Bodies, k: Int, ray: Array, bits: npt.NDArray[np.uint32], tx: Float, ty: Float, tz: Float
) -> Float:
    """How far what was met leans along a direction of the world, −1…1, by the smooth normal."""
    f = bodies.first_face[k] + np.int64(bits[17])
    a, b, c = bodies.faces[f, 0], bodies.faces[f, 1], bodies.faces[f, 2]
    second, third = ray[15], ray[16]
    s = np.float32(1) - second - third
    n = bodies.normals
    x = s * n[a, 0] + second * n[b, 0] + third * n[c, 0]
    y = s * n[a, 1] + second * n[b, 1] + third * n[c, 1]
    z = s * n[a, 2] + second * n[b, 2] + third * n[c, 2]
    w = bodies.inverse[k]
    nx = w[0, 0] * x + w[1, 0] * y + w[2, 0] * z
    ny = w[0, 1] * x + w[1, 1] * y + w[2, 1] * z
    nz = w[0, 2] * x + w[1, 2] * y + w[2, 2] * z
    size = sqrt(nx * nx + ny * ny + nz * nz)
    return np.float32((nx * tx + ny * ty + nz * tz) / size) if size > 0 else np.float32(0)


@allocating
def fill_bending(bodies: Bodies, felt: Felt, radius: Float, out: Array) -> None:
    """The mean curvature of the bodies about some points, above 0 where they bulge outwards: the mean over a disc of a radius.

    On a circle of that radius about the point it is found how far the surface leans outwards: by the divergence theorem the mean of that over
    the radius is the mean over the disc of what the normal's divergence is, twice the mean curvature. The circle is followed over the surface:
    across, at a height of the radius, where a wall that is met counts; then down; and where nothing lies below, back towards the point, so that
    the far side of an edge is found. On a ball and a cylinder wider than the radius this is exact; at a right-angled edge it is
    1 / (π radius), which is the part along the normal of the mean curvature vector.

    Parameters
    ----------
    bodies : Bodies
        Each point is felt against its own alone.
    felt : Felt
        The points, n.
    radius : float
        Metres of the world.
    out : Array
        `(n,)` 1/m, filled.

    References
    ----------
    The mean curvature as half the divergence of the normal: M. do Carmo, "Differential Geometry of Curves and Surfaces", 1976, section 3-3.
    """
    store = np.empty(48, np.float32)
    start = ((-store.ctypes.data) % 64) // 4
    ray = store[start : start + 24]
    bits = ray.view(np.uint32)
    at = ray.ctypes.data
    one, none = np.float32(1), np.float32(0)
    for i in range(out.shape[0]):
        k = felt.instance[i]
        out[i] = none
        if bodies.handle[k] == 0:
            continue
        x, y, z = felt.normal[0, i], felt.normal[1, i], felt.normal[2, i]
        px, py, pz = felt.place[0, i], felt.place[1, i], felt.place[2, i]
        # A frame without a branch: T. Duff and others, "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017.
        sign = one if z >= none else -one
        p = -one / (sign + z)
        q = x * y * p
        ux, uy, uz = one + sign * x * x * p, sign * q, -sign * x
        vx, vy, vz = q, sign + y * y * p, -y
        # As high as the radius, unless something hangs lower over the point.
        high = radius
        if _meet(bodies, k, ray, bits, at, px, py, pz, x, y, z, felt.lift[i], radius):
            high = np.float32(0.5) * ray[8]
        total = none
        for way in range(WAYS):
            c, s = np.float32(cos(2 * pi * (way + 0.5) / WAYS)), np.float32(sin(2 * pi * (way + 0.5) / WAYS))
            tx, ty, tz = c * ux + s * vx, c * uy + s * vy, c * uz + s * vz
            if _meet(bodies, k, ray, bits, at, px + high * x, py + high * y, pz + high * z, tx, ty, tz, none, radius):
                total += _leaning(bodies, k, ray, bits, tx, ty, tz)
                continue
            ox, oy, oz = px + radius * tx, py + radius * ty, pz + radius * tz
            if _meet(
                bodies, k, ray, bits, at, ox + high * x, oy + high * y, oz + high * z, -x, -y, -z, none, high + radius
            ):
                total += _leaning(bodies, k, ray, bits, tx, ty, tz)
                continue
            low = np.float32(0.5) * radius
            if _meet(bodies, k, ray, bits, at, ox - low * x, oy - low * y, oz - low * z, -tx, -ty, -tz, none, radius):
                total += _leaning(bodies, k, ray, bits, tx, ty, tz)
                continue
            total += one
        out[i] = total / (np.float32(WAYS) * radius)
