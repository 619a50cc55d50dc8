"""The flame shell round the lantern: two nested sheets like a candle's flame, and the lantern's wick."""

import numpy as np

from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.demo.carving import closed_normals, joined, lathe, smooth_profile

OUTER = [
    (0.001, 0.0),
    (0.05, 0.012),
    (0.085, 0.06),
    (0.092, 0.13),
    (0.075, 0.22),
    (0.045, 0.32),
    (0.018, 0.41),
    (0.001, 0.47),
]
INNER = [(0.001, 0.03), (0.026, 0.045), (0.045, 0.09), (0.046, 0.15), (0.034, 0.22), (0.016, 0.29), (0.001, 0.34)]


def flame_shell() -> Mesh:
    """Both sheets, standing on the origin. Carries `sheet`: 0 outside, 1 inside; v of the map runs up."""
    sheets = []
    for number, corners in enumerate((OUTER, INNER)):
        profile = smooth_profile(corners, 0.006)
        vertices, faces, uv = lathe(profile, 128)
        carried = {"sheet": np.full(len(vertices), number, np.float32)}
        sheets.append(make_mesh(vertices, faces, closed_normals(vertices, faces), uv, carried))
    return joined(sheets)


def stove_iron() -> Mesh:
    """A heavy bar of cast iron on the ground, its edges rounded, 0.9 m long."""
    profile = smooth_profile([(0.0, 0.0), (0.04, 0.0), (0.055, 0.012), (0.058, 0.03), (0.058, 0.87), (0.055, 0.888), (0.04, 0.9), (0.0, 0.9)], 0.006)  # fmt: skip
    vertices, faces, uv = lathe(profile, 96)
    # Squared off, and laid along x.
    x, y, z = vertices.T
    angle = np.arctan2(z, x)
    away = np.hypot(x, z) / np.maximum((np.abs(np.cos(angle)) ** 6 + np.abs(np.sin(angle)) ** 6) ** (1 / 6), 1e-6)
    laid = np.stack([y - 0.45, away * np.sin(angle) + 0.06, away * np.cos(angle)], axis=1).astype(np.float32)
    # As if one end had lain in the fire: kelvin, as a simulation would hand it on, cooler at edges and towards the ground.
    fire = np.linalg.norm((laid - [0.22, 0.08, 0.02]) * [1.0, 1.2, 1.4], axis=1)
    temperature = 300 + 1250 * np.exp(-((fire / 0.27) ** 2)) - 160 * np.clip(1 - laid[:, 1] / 0.03, 0, 1)
    return make_mesh(laid, faces, closed_normals(laid, faces), uv, {"temperature": np.maximum(temperature, 293)})
