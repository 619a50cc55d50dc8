"""The mesh of a box, with rounded edges."""

import numpy as np

from texallon.core.document.body import Box
from texallon.core.geometry.bodies.patches import Doubles, Patch, mesh_of, rounding_of
from texallon.core.geometry.mesh import Mesh

OF_A_CORNER = 8
"""Cells over half of a rounded edge."""

SIDES = (((1, 0, 0), (0, 1, 0)), ((-1, 0, 0), (0, 1, 0)), ((0, 0, 1), (0, 1, 0)), ((0, 0, -1), (0, 1, 0)), ((0, 1, 0), (0, 0, -1)), ((0, -1, 0), (0, 0, 1)))  # fmt: skip
"""Outwards and upwards of each side, seen from outside."""


def make_box(body: Box) -> Mesh:
    """A box; its points lie where a ball of the rounding's radius, rolled within, touches from inside.

    Parameters
    ----------
    body : Box
        Its measures, metres.
    """
    half = np.array([body.width, body.height, body.depth]) / 2
    radius = rounding_of(body.rounding, float(half.min()))
    patches = []
    for out, up in np.array(SIDES, np.float64):
        right = np.cross(up, out)
        u, v = (_across(float(np.abs(axis) @ half), radius, body.segments) for axis in (right, up))
        rows, columns = np.meshgrid(v, u, indexing="ij")
        on_box = rows[..., None] * up + columns[..., None] * right + np.abs(out) @ half * out
        patches.append(_rounded(on_box, half, radius, out))
    return mesh_of([Patch(each.points + np.array([0, half[1], 0]), each.normals) for each in patches])


def _across(half: float, radius: float, cells: int) -> Doubles:
    """Places along a side: even between its rounded edges, and over those so that the rounding turns evenly."""
    flat = np.linspace(-(half - radius), half - radius, cells + 1)
    if radius == 0:
        return flat
    edge = half - radius + radius * np.tan(np.radians(np.linspace(0, 45, OF_A_CORNER + 1)[1:]))
    return np.concatenate([-edge[::-1], flat, edge] if half > radius else [-edge[::-1], [0.0], edge])


def _rounded(on_box: Doubles, half: Doubles, radius: float, out: Doubles) -> Patch:
    inner = np.clip(on_box, -(half - radius), half - radius)
    if radius == 0:
        return Patch(on_box, np.broadcast_to(out, on_box.shape))
    away = on_box - inner
    normals = away / np.linalg.norm(away, axis=2, keepdims=True)
    return Patch(inner + radius * normals, normals)
