"""Where a lamp must stand for its highlight or its shadow to fall on a place, and how something stands upon a surface."""

import numpy as np
import numpy.typing as npt
from scipy.spatial.transform import Rotation

from texallon.core.document.base import Vector

Floats = npt.NDArray[np.float64]

GRAZING = 1e-3
"""Cosine to the normal below which a surface is seen too much from its side to mirror anything."""


class PlacingError(ValueError):
    """There is no such place; the message says why."""


def highlight_place(point: Vector, normal: Vector, eye: Vector, distance: float) -> Vector:
    """Where a lamp stands that the eye sees mirrored in a point: along the view ray, turned about the normal.

    Parameters
    ----------
    point : Vector
        On the surface, metres.
    normal : Vector
        Of the surface there; of any length.
    eye : Vector
        Where it is seen from.
    distance : float
        Metres from the point to the lamp.

    Raises
    ------
    PlacingError
        Where the surface is seen from its side, or is where the eye is.

    References
    ----------
    The law of reflection: the angles of what comes in and goes out are equal, in one plane with the normal.

    Examples
    --------
    >>> highlight_place((0, 0, 0), (0, 1, 0), (3, 4, 0), 10)
    (-6.0, 8.0, 0.0)
    """
    at, way = _f(point), _unit(_f(eye) - _f(point), "the eye is where the surface is")
    upright = _unit(_f(normal), "the surface has no direction there")
    if upright @ way < 0:  # seen from its back
        upright = -upright
    if upright @ way < GRAZING:
        raise PlacingError("the surface is seen from its side there, and mirrors nothing towards the camera")
    mirrored = 2 * (upright @ way) * upright - way
    return _vector(at + mirrored * distance)


def shadow_place(edge: Vector, shadow: Vector, distance: float) -> Vector:
    """Where a lamp stands for a point to cast its shadow onto another: on the line from the shadow through what casts it.

    Parameters
    ----------
    edge : Vector
        What casts the shadow, metres.
    shadow : Vector
        Where it is to fall.
    distance : float
        Metres from what casts it to the lamp.

    Raises
    ------
    PlacingError
        Where both are the same.

    Examples
    --------
    >>> shadow_place((0, 1, 0), (1, 0, 0), 2 ** 0.5)
    (-1.0, 2.0, 0.0)
    """
    way = _unit(_f(edge) - _f(shadow), "what casts the shadow and where it falls are one place")
    return _vector(_f(edge) + way * distance)


def standing_rotation(normal: Vector) -> Vector:
    """The rotation of what stands upon a surface: the shortest turn of the y axis onto its normal, in degrees about x, then y, then z.

    Parameters
    ----------
    normal : Vector
        Of the surface; of any length.

    Raises
    ------
    PlacingError
        Where it has none.

    References
    ----------
    SciPy's `Rotation.as_euler`, whose lower-case axes are those of the world, in their order.
    """
    to = _unit(_f(normal), "the surface has no direction there")
    up = np.array([0.0, 1.0, 0.0])
    axis = np.cross(up, to)
    sine, cosine = float(np.linalg.norm(axis)), float(up @ to)
    if sine < 1e-9:
        turn = Rotation.from_rotvec([0.0 if cosine > 0 else np.pi, 0.0, 0.0])
    else:
        turn = Rotation.from_rotvec(axis / sine * np.arctan2(sine, cosine))
    with np.errstate(all="ignore"):
        return _vector(turn.as_euler("xyz", degrees=True))


def _f(value: Vector) -> Floats:
    return np.array(value, np.float64)


def _unit(way: Floats, reason: str) -> Floats:
    length = float(np.linalg.norm(way))
    if not length > 1e-9:
        raise PlacingError(reason)
    unit: Floats = way / length
    return unit


def _vector(values: Floats) -> Vector:
    x, y, z = (round(float(each), 6) + 0.0 for each in values)
    return x, y, z
