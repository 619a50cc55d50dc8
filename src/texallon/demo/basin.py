"""The stone basin and the water in it."""

import numpy as np

from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.demo.carving import closed_normals, grid_faces, lathe, smooth_profile, unevenness, weathered

FOOT = [
    (0.0, 0.0), (0.44, 0.0), (0.445, 0.005), (0.445, 0.06), (0.435, 0.068), (0.40, 0.072), (0.385, 0.08), (0.382, 0.09),
    (0.40, 0.10), (0.412, 0.122), (0.40, 0.144), (0.375, 0.152), (0.345, 0.158), (0.30, 0.18), (0.262, 0.23), (0.25, 0.29),
    (0.262, 0.33), (0.285, 0.345), (0.295, 0.36), (0.285, 0.376),
]  # fmt: skip
OUTSIDE = [
    (0.31, 0.384), (0.42, 0.40), (0.54, 0.435), (0.64, 0.495), (0.705, 0.58), (0.74, 0.68), (0.752, 0.78), (0.752, 0.84),
    (0.757, 0.852), (0.775, 0.858), (0.782, 0.87), (0.775, 0.882), (0.768, 0.888), (0.77, 0.90),
]  # fmt: skip
RIM = [
    (0.80, 0.91), (0.828, 0.93), (0.838, 0.955), (0.83, 0.98), (0.80, 0.998), (0.76, 1.0), (0.72, 0.99), (0.695, 0.968),
]  # fmt: skip
INSIDE = [
    (0.682, 0.93), (0.672, 0.86), (0.652, 0.78), (0.61, 0.70), (0.53, 0.645), (0.38, 0.615), (0.2, 0.606), (0.0, 0.604),
]  # fmt: skip

WATER_RADIUS = 0.70
"""Reaches into the wall at every level from the basin's floor to its rim."""


def stone_basin(around: int = 320) -> Mesh:
    """A carved basin 1.68 m wide and 1 m high, its foot at the origin.

    Carries `inside`: 1 on the hollow side, 0 outside, softened over the rim.
    """
    profile = smooth_profile([*FOOT, *OUTSIDE, *RIM, *INSIDE], 0.011)
    vertices, faces, uv = lathe(profile, around)
    shaped = weathered(vertices, faces, 0.0035, 0.11, 3)
    shaped = weathered(shaped, faces, 0.0012, 0.022, 4)
    radius = np.hypot(vertices[:, 0], vertices[:, 2])
    along = np.argmax(profile[:, 1] >= 0.9999)  # the first point of the rim's top
    row = np.repeat(np.arange(len(profile)), around + 1)
    inside = np.clip((0.76 - radius) / 0.06, 0, 1) * (row > along - 6)
    return make_mesh(shaped, faces, closed_normals(shaped, faces), uv, {"inside": inside.astype(np.float32)})


def water_sheet(rings: int = 90, around: int = 180) -> Mesh:
    """A round sheet of water at height 0 with the last ripples of a drop still on it (under two millimetres)."""
    radius = np.linspace(0, WATER_RADIUS, rings)
    angle = np.linspace(0, 2 * np.pi, around + 1)
    x, z = radius[:, None] * np.cos(angle), -radius[:, None] * np.sin(angle)
    away = np.hypot(x - 0.18, z + 0.1)
    flat = np.stack([x, np.zeros_like(x), z], axis=2).reshape(-1, 3).astype(np.float32)
    ripple = 0.0011 * np.cos(2 * np.pi * away / 0.075) * np.exp(-((away - 0.2) ** 2) / 0.018)
    y = ripple.ravel() + 0.0006 * unevenness(flat, 0.16, 2, 8)
    vertices = flat.copy()
    vertices[:, 1] = y
    faces = grid_faces(rings, around + 1)
    uv = (flat[:, [0, 2]] / (2 * WATER_RADIUS) + 0.5).astype(np.float32)
    return make_mesh(vertices, faces, closed_normals(vertices, faces), uv)
