"""The test body: a turned ball on a foot, with what a material meets on real things: round and flat, sharp and soft edges, a groove, a hollow."""

import numpy as np

from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.demo.carving import Points2, closed_normals, lathe

RADIUS, MIDDLE = 0.36, 0.5
"""Of the ball, metres; its middle's height."""


def _arc(low: float, high: float, steps: int) -> Points2:
    """Points of the ball between two latitudes in degrees."""
    angle = np.radians(np.linspace(low, high, steps))
    return [(float(RADIUS * np.cos(a)), float(MIDDLE + RADIUS * np.sin(a))) for a in angle]


def _groove(latitude: float, width: float, depth: float) -> Points2:
    """A round groove around the ball: width in degrees, depth in metres."""
    turn = np.linspace(-0.5, 0.5, 13)
    angle = np.radians(latitude + width * turn)
    radius = RADIUS - depth * np.cos(np.pi * turn) ** 0.7
    return [(float(r * np.cos(a)), float(MIDDLE + r * np.sin(a))) for r, a in zip(radius, angle, strict=True)]


FOOT: Points2 = [
    (0.0, 0.0), (0.25, 0.0), (0.2535, 0.0015), (0.255, 0.005), (0.255, 0.03), (0.2535, 0.0335), (0.25, 0.035), (0.215, 0.038),
    (0.185, 0.048), (0.16, 0.066), (0.142, 0.09), (0.132, 0.118), (0.13, 0.14), (0.1335, 0.158),
]  # fmt: skip
TOP: Points2 = [
    (0.128, 0.838),
    (0.12, 0.842),
    (0.112, 0.838),
    (0.098, 0.822),
    (0.07, 0.806),
    (0.036, 0.799),
    (0.0, 0.797),
]


def turned_body(around: int = 192) -> Mesh:
    """The test body, 0.84 m high, its foot at the origin; texture coordinates run around and along its profile.

    Parameters
    ----------
    around : int
        Faces around it.
    """
    profile = np.array([*FOOT, *_arc(-66, 24.5, 64), *_groove(29, 8.0, 0.016), *_arc(33.5, 68, 24), *TOP], np.float64)
    vertices, faces, uv = lathe(profile, around)
    return make_mesh(vertices, faces, closed_normals(vertices, faces), uv)
