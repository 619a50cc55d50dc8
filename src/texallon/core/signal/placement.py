"""Placements: the matrices of locators and objects from their position, rotation and scale."""

from collections.abc import Sequence
from math import cos, radians, sin
from typing import Protocol

import numpy as np
import numpy.typing as npt

from texallon.core.document.base import Vector
from texallon.core.document.locator import Locator

Matrix4 = npt.NDArray[np.float64]


def placement(position: Vector, rotation: Vector, scale: float) -> Matrix4:
    """The 4×4 matrix that scales, turns about x, then y, then z (degrees), then moves (metres).

    Parameters
    ----------
    position : Vector
        Metres.
    rotation : Vector
        Degrees about x, then y, then z.
    scale : float
        Factor.
    """
    x, y, z = (radians(angle) for angle in rotation)
    turn_x = np.array([[1, 0, 0], [0, cos(x), -sin(x)], [0, sin(x), cos(x)]])
    turn_y = np.array([[cos(y), 0, sin(y)], [0, 1, 0], [-sin(y), 0, cos(y)]])
    turn_z = np.array([[cos(z), -sin(z), 0], [sin(z), cos(z), 0], [0, 0, 1]])
    matrix = np.eye(4)
    matrix[:3, :3] = turn_z @ turn_y @ turn_x * scale
    matrix[:3, 3] = position
    return matrix


class Placed(Protocol):
    """Something that stands somewhere: an object, or its `Placement`."""

    @property
    def name(self) -> str: ...

    @property
    def follows(self) -> str | None: ...

    @property
    def position(self) -> Vector: ...

    @property
    def rotation(self) -> Vector: ...

    @property
    def scale(self) -> float: ...


class Arrangement(Protocol):
    """What stands where: a shot, or what of it plans depend on."""

    @property
    def locators(self) -> Sequence[Locator]: ...

    @property
    def objects(self) -> Sequence[Placed]: ...


def locator_matrix(shot: Arrangement, name: str) -> Matrix4:
    """From the locator's space into the world; KeyError where there is no such locator.

    Parameters
    ----------
    shot : Arrangement
        At its time, or what of it stands where.
    name : str
        Of the signal, channel or output.
    """
    for locator in shot.locators:
        if locator.name == name:
            return placement(locator.position, locator.rotation, locator.scale)
    raise KeyError(name)


def object_matrix(shot: Arrangement, name: str) -> Matrix4:
    """From the object's space into the world, through the locator it follows.

    Parameters
    ----------
    shot : Arrangement
        At its time, or what of it stands where.
    name : str
        Of the signal, channel or output.
    """
    item = next(item for item in shot.objects if item.name == name)
    own = placement(item.position, item.rotation, item.scale)
    return locator_matrix(shot, item.follows) @ own if item.follows else own


class Aimed(Protocol):
    """A camera, or what of it plans depend on: where it stands and what it looks at."""

    @property
    def position(self) -> Vector: ...

    @property
    def target(self) -> Vector: ...


def camera_axes(camera: Aimed) -> Matrix4:
    """Unit vectors in the world, as rows: right, up, forward (the way it looks).

    Parameters
    ----------
    camera : Aimed
        Where it stands and what it looks at.
    """
    forward = np.array(camera.target, np.float64) - np.array(camera.position, np.float64)
    forward /= np.linalg.norm(forward)
    up = np.array([0.0, 1.0, 0.0]) if abs(forward[1]) < 0.99999 else np.array([0.0, 0.0, -1.0])
    right = np.cross(forward, up)
    right /= np.linalg.norm(right)
    return np.stack([right, np.cross(right, forward), forward])


def camera_matrix(camera: Aimed) -> npt.NDArray[np.float32]:
    """From the world into the camera's space `(3, 4)`: x right, y up, and the camera looks along −z.

    Parameters
    ----------
    camera : Aimed
        Where it stands and what it looks at.

    Returns
    -------
    Array
        `(3, 4)`.
    """
    axes = camera_axes(camera)
    axes[2] = -axes[2]
    matrix = np.empty((3, 4))
    matrix[:, :3] = axes
    matrix[:, 3] = -axes @ np.array(camera.position, np.float64)
    return matrix.astype(np.float32)
