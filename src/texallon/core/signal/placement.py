"""Placements: the matrices of locators and objects from their position, rotation and scale."""

from collections.abc import Callable, Sequence
from math import cos, radians, sin
from typing import Protocol

import numpy as np
import numpy.typing as npt
from scipy.spatial.transform import Rotation

from texallon.core.document.base import Vector
from texallon.core.document.locator import Locator

Matrix4 = npt.NDArray[np.float64]


def placement(position: Vector, rotation: Vector, scale: float, stretch: Vector = (1.0, 1.0, 1.0)) -> Matrix4:
    """The 4×4 matrix that scales, turns about x, then y, then z (degrees), then moves (metres).

    Parameters
    ----------
    position : Vector
        Metres.
    rotation : Vector
        Degrees about x, then y, then z.
    scale : float
        Factor.
    stretch : Vector, optional
        Factors along its own axes, beside the scale.
    """
    x, y, z = (radians(angle) for angle in rotation)
    turn_x = np.array([[1, 0, 0], [0, cos(x), -sin(x)], [0, sin(x), cos(x)]])
    turn_y = np.array([[cos(y), 0, sin(y)], [0, 1, 0], [-sin(y), 0, cos(y)]])
    turn_z = np.array([[cos(z), -sin(z), 0], [sin(z), cos(z), 0], [0, 0, 1]])
    return _placed(turn_z @ turn_y @ turn_x, position, scale, stretch)


def _placed(turn: Matrix4, position: Vector, scale: float, stretch: Vector) -> Matrix4:
    matrix = np.eye(4)
    matrix[:3, :3] = turn * scale
    if stretch != (1.0, 1.0, 1.0):
        matrix[:3, :3] *= np.array(stretch)
    matrix[:3, 3] = position
    return matrix


class Standing(Protocol):
    """Something that stands somewhere by itself, or by a group."""

    @property
    def name(self) -> str: ...

    @property
    def belongs_to(self) -> str | None: ...

    @property
    def position(self) -> Vector: ...

    @property
    def rotation(self) -> Vector: ...

    @property
    def scale(self) -> float: ...

    @property
    def stretch(self) -> Vector: ...


class Placed(Standing, Protocol):
    """An object, or its `Placement`."""

    @property
    def follows(self) -> str | None: ...


class Arrangement(Protocol):
    """What stands where: a shot, or what of it plans depend on."""

    @property
    def locators(self) -> Sequence[Locator]: ...

    @property
    def objects(self) -> Sequence[Placed]: ...

    @property
    def object_groups(self) -> Sequence[Standing]: ...


class Places:
    """Where everything of a shot stands: matrices from the space of a thing into the world, each made once.

    Parameters
    ----------
    shot : Arrangement
        Checked, so that nothing stands by itself through others.
    """

    def __init__(self, shot: Arrangement) -> None:
        self._locators = {each.name: each for each in shot.locators}
        self._objects = {each.name: each for each in shot.objects}
        self._groups = {each.name: each for each in shot.object_groups}
        self._known: dict[tuple[str, str], Matrix4] = {}

    def _once(self, kind: str, name: str, make: Callable[[str], Matrix4]) -> Matrix4:
        key = (kind, name)
        if key not in self._known:
            self._known[key] = make(name)
        return self._known[key]

    def group(self, name: str) -> Matrix4:
        """Of an object group; KeyError where there is none.

        Parameters
        ----------
        name : str
            Of the group.
        """
        return self._once("group", name, self._group)

    def locator(self, name: str) -> Matrix4:
        """Of a locator; KeyError where there is none.

        Parameters
        ----------
        name : str
            Of the locator.
        """
        return self._once("locator", name, self._locator)

    def object(self, name: str) -> Matrix4:
        """Of an object; KeyError where there is none.

        Parameters
        ----------
        name : str
            Of the object.
        """
        return self._once("object", name, self._object)

    def parent(self, item: Standing) -> Matrix4:
        """What an object, locator or group is placed in: of what it follows, else of what it belongs to, else the world.

        Parameters
        ----------
        item : Standing
            One of the shot's.
        """
        follows = getattr(item, "follows", None)
        if follows is not None:
            return self.object(follows) if isinstance(item, Locator) else self.locator(follows)
        return np.eye(4) if item.belongs_to is None else self.group(item.belongs_to)

    def _within(self, item: Standing, own: Matrix4) -> Matrix4:
        return own if item.belongs_to is None else self.group(item.belongs_to) @ own

    def _group(self, name: str) -> Matrix4:
        item = self._groups[name]
        return self._within(item, placement(item.position, item.rotation, item.scale, item.stretch))

    def _object(self, name: str) -> Matrix4:
        item = self._objects[name]
        own = placement(item.position, item.rotation, item.scale, item.stretch)
        return self._within(item, own) if item.follows is None else self.locator(item.follows) @ own

    def _locator(self, name: str) -> Matrix4:
        item = self._locators[name]
        own = placement(item.position, item.rotation, item.scale, item.stretch)
        world = self._within(item, own) if item.follows is None else self.object(item.follows) @ own
        return world if item.aims_at is None else aimed(world, self.locator(item.aims_at)[:3, 3])


def written_out(matrix: Matrix4) -> dict[str, tuple[float, ...]]:
    """Position, rotation and stretch that place a locator where a matrix does, whatever that followed, belonged to or aimed at.

    Parameters
    ----------
    matrix : Matrix4
        `(4, 4)`; a shear, as of a turned thing in a stretched group, is left out.
    """
    lengths = np.linalg.norm(matrix[:3, :3], axis=0)
    turn, _ = np.linalg.qr(matrix[:3, :3] / lengths)
    turn = turn * np.sign((turn * matrix[:3, :3]).sum(axis=0))
    with np.errstate(all="ignore"):
        angles = Rotation.from_matrix(turn).as_euler("xyz", degrees=True)
    return {
        name: tuple(float(x) for x in part)
        for name, part in (("position", matrix[:3, 3]), ("rotation", angles), ("stretch", lengths))
    }


def aimed(matrix: Matrix4, target: npt.NDArray[np.float64]) -> Matrix4:
    """A placement turned so that its z axis points at a place and its y axis lies as near to upwards as that allows.

    Parameters
    ----------
    matrix : Matrix4
        Where it stands, and how large it is along its own axes.
    target : Array
        `(3,)` in the world; where it is the placement's own, that is left as it is.

    Returns
    -------
    Matrix4
        Without shear, which an uneven parent may have brought.
    """
    way = target - matrix[:3, 3]
    length = float(np.linalg.norm(way))
    if length < 1e-9:
        return matrix
    z = way / length
    up = np.array([0.0, 1.0, 0.0]) if abs(z[1]) < 0.99999 else np.array([0.0, 0.0, -1.0])
    x = np.cross(up, z)
    x /= np.linalg.norm(x)
    turned = matrix.copy()
    turned[:3, :3] = np.stack([x, np.cross(z, x), z], axis=1) * np.linalg.norm(matrix[:3, :3], axis=0)
    return turned


def locator_matrix(shot: Arrangement, name: str) -> Matrix4:
    """From the locator's space into the world; KeyError where there is no such locator.

    Parameters
    ----------
    shot : Arrangement
        At its time, or what of it stands where.
    name : str
        Of the locator.
    """
    return Places(shot).locator(name)


def object_matrix(shot: Arrangement, name: str) -> Matrix4:
    """From the object's space into the world, through what it follows or belongs to.

    Parameters
    ----------
    shot : Arrangement
        At its time, or what of it stands where.
    name : str
        Of the object.
    """
    return Places(shot).object(name)


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
