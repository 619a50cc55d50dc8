"""Where the copies of an array stand, and what each carries."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from texallon.core.curve import frames
from texallon.core.derived import Cost, derived
from texallon.core.document.array import GridArray, LineArray, RingArray, SurfaceArray
from texallon.core.document.body import Tube
from texallon.core.geometry.bodies.tube import middle_of
from texallon.core.geometry.displaced import REST, REST_NORMAL
from texallon.core.geometry.mesh import Floats, Mesh
from texallon.core.geometry.particles import Particles
from texallon.core.geometry.scatter import Scattered
from texallon.core.kernel import Array, Integers, allocating
from texallon.core.ops.points import Matrix
from texallon.core.random_numbers import uniform4

Doubles = npt.NDArray[np.float64]

SHARE = "share"
"""The attribute that says how far along its array a copy stands, 0…1."""


@dataclass(frozen=True, eq=False)
class Copies:
    """Copies in some space.

    Attributes
    ----------
    frames : Array
        `(k, 4, 4)`: where each stands, its y axis off what it stands on.
    numbers : Array
        `(k,)` that stay with each, whatever becomes of the others.
    uv : Array
        `(k, 2)` of what it stands on, where that has a map.
    attributes : mapping
        By name, `(k, 1…4)`.
    body : Array, optional
        `(k,)` of which body each is; all of the first where nothing is said.
    """

    frames: Doubles
    numbers: npt.NDArray[np.int32]
    uv: Floats | None = None
    attributes: Mapping[str, Floats] = field(default_factory=dict)
    body: npt.NDArray[np.int32] | None = None

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        beside = [each for each in (self.uv, self.body, *self.attributes.values()) if each is not None]
        return int(self.frames.nbytes + self.numbers.nbytes + sum(each.nbytes for each in beside))


@derived("copies", cost=Cost.INSTANT)
def own_copies(array: GridArray | RingArray | None) -> Copies:
    """Copies in rows or on a ring, in the object's own space, always in the same order: along x first, then y, then z; or around.

    Parameters
    ----------
    array : GridArray or RingArray, optional
        Of an object; of none it stands where it stands, once.
    """
    if array is None:
        return Copies(np.eye(4)[None], np.zeros(1, np.int32))
    if isinstance(array, RingArray):
        angle = 2 * np.pi * np.arange(array.count) / array.count
        made = turned(angle) if array.turned else _unturned(array.count)
        made[:, 0, 3], made[:, 2, 3] = array.radius * np.sin(angle), array.radius * np.cos(angle)
        return _with_share(made)
    z, y, x = (each.ravel() for each in np.meshgrid(*[np.arange(n) for n in array.counts[::-1]], indexing="ij"))
    made = _unturned(len(x))
    middle = (np.array(array.counts) - 1) / 2
    # Level by level upwards; about its place along the others.
    made[:, :3, 3] = (np.stack([x, y, z], axis=1) - [middle[0], 0, middle[2]]) * array.spacing
    return _with_share(made)


@derived("copies along a line", cost=Cost.INSTANT)
def line_copies(tube: Tube, array: LineArray) -> Copies:
    """Copies along the middle of a tube, in its object's space: at its ends and evenly between, or evenly around where it is closed.

    Parameters
    ----------
    tube : Tube
        Whose line it is.
    array : LineArray
        How many, and whether they turn with it.
    """
    line, closed = middle_of(tube)
    along = frames(line, closed, tube.twist)
    share = np.arange(array.count) / max(array.count - (0 if closed else 1), 1)
    at = share * along.length[-1]

    def taken(values: Doubles) -> Doubles:
        return np.stack([np.interp(at, along.length, values[:, axis]) for axis in range(3)], axis=1)

    made = _unturned(array.count)
    if array.turned:
        tangent, side = taken(along.tangent), taken(along.side)
        tangent /= np.linalg.norm(tangent, axis=1, keepdims=True)
        side -= (side * tangent).sum(axis=1, keepdims=True) * tangent
        side /= np.linalg.norm(side, axis=1, keepdims=True)
        up = np.cross(side, tangent)  # a tube's side is level where it begins
        made[:, :3, 0], made[:, :3, 1], made[:, :3, 2] = np.cross(up, tangent), up, tangent
    made[:, :3, 3] = taken(line)
    return _with_share(made, share)


@derived("copies at particles", cost=Cost.INSTANT)
def particle_copies(particles: Particles, sized: bool) -> Copies:
    """A copy at each particle, in their object's space, with what it carries.

    Parameters
    ----------
    particles : Particles
        In their object's space.
    sized : bool
        Whether a body of one metre across fills each.
    """
    made = _unturned(len(particles.radii))
    if sized:
        made[:, :3, :3] *= 2 * particles.radii[:, None, None]
    made[:, :3, 3] = particles.positions
    return Copies(made, particles.numbers, None, dict(particles.attributes))


@derived("copies on a surface", cost=Cost.SLOW)
def surface_copies(mesh: Mesh, points: Scattered, matrix: Matrix, array: SurfaceArray) -> Copies:
    """Copies at points of a surface, in its object's space but as large as they are, with what the surface carries there.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    points : Scattered
        On it.
    matrix : Matrix
        `(3, 4)` into the world.
    array : SurfaceArray
        How they stand there.
    """
    corners, weights = mesh.faces[points.face], points.weights.astype(np.float64)
    linear = np.asarray(matrix, np.float64)[:, :3]
    place = _mixed(mesh.vertices, corners, weights)
    normal = _mixed(mesh.normals, corners, weights) @ np.linalg.inv(linear)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    axis = (1 - array.upright) * normal + array.upright * np.array([0.0, 1.0, 0.0])
    long = np.linalg.norm(axis, axis=1, keepdims=True)
    axis = np.where(long > 1e-6, axis / np.maximum(long, 1e-6), normal)
    # By the place itself, so that a copy stays as it is whatever becomes of the others.
    chance = np.empty((len(place), 4), np.float32)
    place_chances(np.ascontiguousarray(place, np.float32).view(np.int32), array.seed, chance)
    made = _unturned(len(place))
    upright = _upright_along(axis)
    leaning = np.radians(array.tilt) * np.sqrt(chance[:, 1])
    turn = upright @ turned(2 * np.pi * chance[:, 2])[:, :3, :3] @ tilted(leaning)[:, :3, :3]
    turn = (
        turn
        @ turned(2 * np.pi * array.turn * (chance[:, 0] - 0.5))[:, :3, :3]
        @ turned(-2 * np.pi * chance[:, 2])[:, :3, :3]
    )
    size = array.sizes[0] + chance[:, 3] * (array.sizes[1] - array.sizes[0])
    made[:, :3, :3] = np.linalg.inv(linear) @ (turn * size[:, None, None])
    made[:, :3, 3] = place
    uv = None if mesh.uv is None else _mixed(mesh.uv, corners, weights).astype(np.float32)
    carried = {
        name: _mixed(values, corners, weights).astype(np.float32)
        for name, values in mesh.attributes.items()
        if name not in (REST, REST_NORMAL)
    }
    numbers = (chance[:, :2] * 2.0**15).astype(np.int32) @ np.array([1 << 15, 1], np.int32)
    return Copies(made, numbers, uv, carried)


def _mixed(values: Floats, corners: npt.NDArray[np.int32], weights: Doubles) -> Doubles:
    found: Doubles = np.einsum("kc,kcw->kw", weights, values[corners].astype(np.float64))
    return found


@derived("baked under copies", cost=Cost.INSTANT)
def under_copies(bake: Array, mesh: Mesh, points: Scattered) -> Array:
    """What was baked on a surface, at points of it, `(k, width)`.

    Parameters
    ----------
    bake : Array
        `(v, width)` at its vertices.
    mesh : Mesh
        The surface.
    points : Scattered
        On it.

    Returns
    -------
    Array
        `(k, width)`.
    """
    return _mixed(bake, mesh.faces[points.face], points.weights.astype(np.float64)).astype(np.float32)


@allocating
def place_chances(bits: Integers, seed: int, out: Array) -> None:
    """Four numbers in [0, 1) for each place.

    Parameters
    ----------
    bits : Integers
        `(k, 3)` its coordinates, as whole numbers.
    seed : int
        Of the array.
    out : Array
        `(k, 4)`, filled.
    """
    for k in range(bits.shape[0]):
        out[k, 0], out[k, 1], out[k, 2], out[k, 3] = uniform4(bits[k, 0], bits[k, 1], bits[k, 2], seed)


@derived("points of copies", cost=Cost.INSTANT)
def points_of_copies(copies: Copies) -> Mesh:
    """Copies as a mesh without faces, at whose points signals are read.

    Parameters
    ----------
    copies : Copies
        In some space.
    """
    up = copies.frames[:, :3, 1]
    normals = up / np.maximum(np.linalg.norm(up, axis=1, keepdims=True), 1e-12)
    places = np.ascontiguousarray(copies.frames[:, :3, 3], np.float32)
    none = np.zeros((0, 3), np.int32)
    return Mesh(places, none, np.ascontiguousarray(normals, np.float32), copies.uv, dict(copies.attributes))


@derived("copies with attributes", cost=Cost.INSTANT)
def with_attributes(copies: Copies, names: tuple[str, ...], values: tuple[Array, ...]) -> Copies:
    """Copies that carry more.

    Parameters
    ----------
    copies : Copies
        k of them.
    names : tuple of str
        Of the attributes.
    values : tuple of Array
        `(k, 1…4)` each.
    """
    return replace(copies, attributes={**copies.attributes, **dict(zip(names, values, strict=True))})


@derived("copies of a body", cost=Cost.INSTANT)
def copies_of_body(copies: Copies, body: int) -> Copies:
    """Those of some copies that are of one body.

    Parameters
    ----------
    copies : Copies
        In some space.
    body : int
        From 0.
    """
    mine = np.full(len(copies.frames), body == 0) if copies.body is None else copies.body == body
    uv = None if copies.uv is None else copies.uv[mine]
    carried = {name: values[mine] for name, values in copies.attributes.items()}
    return Copies(copies.frames[mine], copies.numbers[mine], uv, carried, None)


def _with_share(frames: Doubles, share: Doubles | None = None) -> Copies:
    count = len(frames)
    along = np.arange(count) / max(count - 1, 1) if share is None else share
    return Copies(frames, np.arange(count, dtype=np.int32), None, {SHARE: along.astype(np.float32)[:, None]})


def _unturned(count: int) -> Doubles:
    return np.tile(np.eye(4), (count, 1, 1))


def turned(angle: Doubles | Floats) -> Doubles:
    """Turns about y, `(k, 4, 4)`.

    Parameters
    ----------
    angle : Array
        `(k,)` radians.

    Returns
    -------
    Array
        `(k, 4, 4)`.
    """
    return _about(angle, 2, 0)


def tilted(angle: Doubles | Floats) -> Doubles:
    """Turns about x, `(k, 4, 4)`.

    Parameters
    ----------
    angle : Array
        `(k,)` radians.

    Returns
    -------
    Array
        `(k, 4, 4)`.
    """
    return _about(angle, 1, 2)


def _about(angle: Doubles | Floats, one: int, other: int) -> Doubles:
    """Turns that bring one axis towards another."""
    made = _unturned(len(angle))
    made[:, one, one] = made[:, other, other] = np.cos(angle)
    made[:, other, one] = np.sin(angle)
    made[:, one, other] = -made[:, other, one]
    return made


def _upright_along(axis: Doubles) -> Doubles:
    """Turns `(k, 3, 3)` that bring y to each axis by the shortest way.

    References
    ----------
    T. Möller, J. F. Hughes, "Efficiently Building a Matrix to Rotate One Vector to Another", Journal of Graphics Tools 4 (1999).
    """
    x, y, z = axis[:, 0], axis[:, 1], axis[:, 2]
    made = np.empty((len(axis), 3, 3))
    h = 1 / np.maximum(1 + y, 1e-9)
    made[:, 0] = np.stack([1 - h * x * x, x, -h * x * z], axis=1)
    made[:, 1] = np.stack([-x, y, -z], axis=1)
    made[:, 2] = np.stack([-h * x * z, z, 1 - h * z * z], axis=1)
    down = y < -1 + 1e-9
    made[down] = np.diag([1.0, -1.0, -1.0])
    return made
