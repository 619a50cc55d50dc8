"""Where lamps stand and what rays can meet of them."""

from collections.abc import Iterable
from math import pi
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.document.base import Vector
from texallon.core.document.light import AREAS, Light
from texallon.core.geometry.mesh import Ints
from texallon.core.kernel import Array

Doubles = npt.NDArray[np.float64]

SIDES = 96
"""Of the polygon that stands for a disc where rays meet it: within 0.1 % of its area."""


class LampShape(NamedTuple):
    """What of a lamp rays can meet, whatever it sends out: metres."""

    shape: str
    position: Vector
    target: Vector
    width: float
    height: float
    visible: bool


def lamp_shapes(lights: Iterable[Light]) -> tuple[LampShape, ...]:
    """The shapes of the lamps that have an extent, in their order.

    Parameters
    ----------
    lights : sequence of Light
        Lamps of the document.
    """
    return tuple(
        LampShape(each.shape, each.position, each.target, each.width, each.height, each.visible)
        for each in lights
        if each.shape in AREAS
    )


class LampAxes(NamedTuple):
    """A lamp's centre, half sides across it, and the way it faces, `(3,)` each; metres and unit vectors."""

    centre: Doubles
    u: Doubles
    v: Doubles
    normal: Doubles


def lamp_axes(light: Light | LampShape) -> LampAxes:
    """Where a lamp stands; a disc's and a sphere's half sides are its radius.

    Parameters
    ----------
    light : Light | LampShape
        A lamp, or its shape.
    """
    centre = np.array(light.position)
    normal = np.array(light.target) - centre
    normal = normal / np.linalg.norm(normal)
    up = np.array([0.0, 1.0, 0.0]) if abs(normal[1]) < 0.999 else np.array([1.0, 0.0, 0.0])
    side = np.cross(up, normal)
    side /= np.linalg.norm(side)
    other = np.cross(side, normal)
    radius = light.width / 2
    height = light.height / 2 if light.shape == "rectangle" else radius
    return LampAxes(centre, side * radius, other * height, normal)


def lamp_mesh(light: Light | LampShape) -> tuple[Array, Ints] | None:
    """What a ray can meet of a lamp.

    Parameters
    ----------
    light : Light | LampShape
        A lamp, or its shape.

    Returns
    -------
    tuple, optional
        Vertices `(v, 3)` in the world and faces `(f, 3)`; nothing for lamps without extent.
    """
    if light.shape not in AREAS:
        return None
    centre, u, v, _ = lamp_axes(light)
    if light.shape == "rectangle":
        corners = np.stack([centre - u - v, centre + u - v, centre + u + v, centre - u + v])
        return corners.astype(np.float32), np.array([[0, 1, 2], [0, 2, 3]], np.int32)
    if light.shape == "disc":
        angle = np.linspace(0, 2 * pi, SIDES, endpoint=False)[:, None]
        ring = centre + np.cos(angle) * u + np.sin(angle) * v
        faces = np.stack([np.zeros(SIDES), 1 + np.arange(SIDES), 1 + (np.arange(SIDES) + 1) % SIDES], axis=1)
        return np.vstack([centre, ring]).astype(np.float32), faces.astype(np.int32)
    across, down = np.meshgrid(np.linspace(0, 2 * pi, 97), np.linspace(0, pi, 49))
    ball = np.stack([np.sin(down) * np.cos(across), np.cos(down), np.sin(down) * np.sin(across)], axis=2)
    corner = (np.arange(48)[:, None] * 97 + np.arange(96)).ravel()
    faces = np.concatenate(
        [np.stack([corner, corner + 1, corner + 97], 1), np.stack([corner + 1, corner + 98, corner + 97], 1)]
    )
    return (centre + light.width / 2 * ball.reshape(-1, 3)).astype(np.float32), faces.astype(np.int32)
