"""Bodies put together from patches: grids of points with their normals, each with texture coordinates 0…1 of its own."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.mesh import Mesh, make_mesh

Doubles = npt.NDArray[np.float64]


class Patch(NamedTuple):
    """`points` and `normals` `(rows, columns, 3)`: seen from outside, columns go to the right and rows upwards."""

    points: Doubles
    normals: Doubles


class Curve(NamedTuple):
    """A piece of a profile to be turned about the y axis: `points` and `normals` `(n, 2)`, radius and height, from below upwards on the outside."""

    points: Doubles
    normals: Doubles


LEAST_ROUNDING = 1e-4
"""Share of half a side below which a rounding looks like an edge in single precision, and is none."""


def rounding_of(wanted: float, half: float) -> float:
    """The radius that edges get: at most half of the shortest side.

    Parameters
    ----------
    wanted : float
        As the document has it, metres.
    half : float
        Half of the shortest side, metres.
    """
    radius = min(wanted, half)
    if radius < LEAST_ROUNDING * half:
        return 0.0
    return half if radius > (1 - LEAST_ROUNDING) * half else radius


def line(start: tuple[float, float], end: tuple[float, float], count: int = 1) -> Curve:
    """A straight piece of a profile; its normal points to the right of its way.

    Parameters
    ----------
    start, end : tuple of float
        Radius and height, metres.
    count : int
        Cells along it.
    """
    way = np.subtract(end, start) / max(float(np.hypot(*np.subtract(end, start))), 1e-12)
    points = np.linspace(start, end, count + 1)
    return Curve(points, np.tile([[way[1], -way[0]]], (count + 1, 1)))


def arc(middle: tuple[float, float], radius: float, first: float, last: float, count: int) -> Curve:
    """A piece of a circle in a profile, its normals outwards.

    Parameters
    ----------
    middle : tuple of float
        Radius and height of its centre, metres.
    radius : float
        Metres.
    first, last : float
        Degrees: 0 is away from the axis, 90 upwards.
    count : int
        Cells along it.
    """
    angle = np.radians(np.linspace(first, last, count + 1))
    out = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    return Curve(np.asarray(middle) + radius * out, out)


def turned(curve: Curve, around: int) -> Patch:
    """A piece of a profile turned about the y axis.

    Parameters
    ----------
    curve : Curve
        On the outside from below upwards.
    around : int
        Sides of its circle.
    """
    angle = np.linspace(0, 2 * np.pi, around + 1)
    across, along = np.cos(angle), -np.sin(angle)
    across[-1], along[-1] = across[0], along[0]

    def about(pairs: Doubles) -> Doubles:
        radius, height = pairs[:, 0, None], pairs[:, 1, None]
        return np.stack([radius * across, np.broadcast_to(height, (len(pairs), around + 1)), radius * along], axis=2)

    points = curve.points.copy()
    points[np.abs(points[:, 0]) < 1e-12, 0] = 0.0
    return Patch(about(points), about(curve.normals))


def mesh_of(patches: Sequence[Patch]) -> Mesh:
    """One mesh of all patches; triangles without an area, as at a pole, are left out.

    Parameters
    ----------
    patches : sequence of Patch
        At least one.
    """
    points, normals, uv, faces, start = [], [], [], [], 0
    for patch in patches:
        rows, columns = patch.points.shape[:2]
        points.append(patch.points.reshape(-1, 3))
        normals.append(patch.normals.reshape(-1, 3))
        v, u = np.meshgrid(np.linspace(0, 1, rows), np.linspace(0, 1, columns), indexing="ij")
        uv.append(np.stack([u, v], axis=2).reshape(-1, 2))
        corner = (np.arange(rows - 1)[:, None] * columns + np.arange(columns - 1)).ravel() + start
        faces.append(np.stack([corner, corner + 1, corner + columns], axis=1))
        faces.append(np.stack([corner + 1, corner + columns + 1, corner + columns], axis=1))
        start += rows * columns
    where, corners = np.concatenate(points), np.concatenate(faces)
    a, b, c = (where[corners[:, k]] for k in range(3))
    kept = np.linalg.norm(np.cross(b - a, c - a), axis=1) > 0
    return make_mesh(where, corners[kept], np.concatenate(normals), np.concatenate(uv))
