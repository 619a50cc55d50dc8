"""Displacement: the points of a mesh moved by what its looks say."""

from dataclasses import replace
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Cost, checkpoint, derived
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.smooth_normals import facing, smooth_normals
from texallon.core.kernel import Array
from texallon.core.ops.points import Matrix
from texallon.core.points.welded import weld

REST_NORMAL = "rest_normal"
"""The attribute that keeps how the surface leant there."""

FINEST = 0.5
"""In distances between points: what a mesh shows of a height. Twice that is a wave of four points, whose shape straight faces still keep."""

REST = "rest"
"""The attribute that keeps where points were, for signals that are to stay with the surface."""


class Heights(NamedTuple):
    """What one look says at each vertex: `along (1, v)` its normal in metres, and `freely (3, v)` in the object's space; either may be missing."""

    parts: tuple[int, ...]
    """Which parts of the mesh wear it, by position."""
    along: Array | None
    freely: Array | None


class Bounds(NamedTuple):
    """`zero` metres that leave the surface where it is; at most `most` metres either way; with `outwards` none below."""

    zero: float
    most: float
    outwards: bool


@derived("heights of a look", cost=Cost.INSTANT)
def look_heights(parts: tuple[int, ...], along: Array | None, freely: Array | None) -> Heights:
    """What one look says at each vertex.

    Parameters
    ----------
    parts : tuple of int
        Parts of the mesh that wear it, by position.
    along : Array, optional
        `(1, v)` metres.
    freely : Array, optional
        `(3, v)` metres in the object's space.
    """
    return Heights(parts, along, freely)


class AtRest(NamedTuple):
    """What displacing a mesh needs to know of it whatever the heights: its distinct `places (p, 3)`, for each vertex which is `one (v,)`,
    which way faces run `(f,)`, and the `normals (v, 3)` along which points move, of length 1 in the world."""

    places: npt.NDArray[np.float32]
    one: npt.NDArray[np.int64]
    ways: npt.NDArray[np.float64]
    normals: npt.NDArray[np.float64]


@derived("mesh at rest", cost=Cost.SLOW)
def at_rest(mesh: Mesh, linear: Matrix) -> AtRest:
    """A mesh before it is displaced: it stays while heights change with time.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    linear : Matrix
        `(3, 3)` from its own space into the world, where metres are measured.
    """
    check = checkpoint()
    places, one = weld(mesh.vertices)
    check()
    ways = facing(mesh.vertices, mesh.faces, mesh.normals)
    normals = smooth_normals(mesh.vertices, mesh.faces, 180.0, one, ways).astype(np.float64)
    normals = normals @ np.linalg.inv(np.asarray(linear, np.float64))
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    return AtRest(places, one, ways, normals)


@derived("displaced mesh", cost=Cost.SLOW)
def displaced(
    mesh: Mesh, rest: AtRest, heights: tuple[Heights, ...], linear: Matrix, bounds: Bounds, crease: float
) -> Mesh:
    """A mesh with its points moved, its normals made anew, and where points were before as the attribute `rest`.

    Points in one place move together, by the mean of what is said there, so that nothing opens.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    rest : AtRest
        Of it, by the same `linear`.
    heights : tuple of Heights
        Of its looks.
    linear : Matrix
        `(3, 3)` from its own space into the world, where metres are measured.
    bounds : Bounds
        What is held.
    crease : float
        Degrees by which faces may be bent and still be smooth.

    Returns
    -------
    Mesh
        With the same faces.

    References
    ----------
    R. Cook, "Shade Trees", SIGGRAPH 1984.
    """
    check = checkpoint()
    places, one, ways, at_vertices = rest
    count = len(places)
    into_world = np.asarray(linear, np.float64)
    back = np.linalg.inv(into_world)
    total, met = np.zeros((len(mesh.vertices), 3)), np.zeros(len(mesh.vertices))
    parts = np.zeros(len(mesh.faces), np.int32) if mesh.part_of_face is None else mesh.part_of_face
    for each in heights:
        check()
        wearing = np.zeros(len(mesh.vertices), bool)
        wearing[mesh.faces[np.isin(parts, each.parts)].ravel()] = True
        moved = np.zeros((len(mesh.vertices), 3))
        if each.along is not None:
            moved += (_held(each.along[0], bounds)[:, None] * at_vertices) @ back.T
        if each.freely is not None:
            moved += _within(each.freely.T.astype(np.float64), into_world, bounds.most)
        total[wearing] += moved[wearing]
        met[wearing] += 1
    check()
    by_place = np.stack([np.bincount(one, total[:, k], minlength=count) for k in range(3)], axis=1)
    shares = np.maximum(np.bincount(one, met, minlength=count), 1.0)[:, None]
    vertices = np.ascontiguousarray((places + by_place / shares)[one], np.float32)
    check()
    # A picture's normals come from what was, and from the slope of the height there: as fine as the picture, however coarse the mesh.
    before = {REST: mesh.vertices, REST_NORMAL: mesh.normals}
    return replace(
        mesh,
        vertices=vertices,
        normals=smooth_normals(vertices, mesh.faces, crease, one, ways),
        attributes={**mesh.attributes, **before},
    )


def _held(values: npt.NDArray[np.float32], bounds: Bounds) -> npt.NDArray[np.float64]:
    """Heights within their bounds; what is no number moves nothing."""
    low = 0.0 if bounds.outwards else -bounds.most
    held: npt.NDArray[np.float64] = np.clip(
        np.nan_to_num(values.astype(np.float64), nan=bounds.zero) - bounds.zero, low, bounds.most
    )
    return held


def _within(
    moved: npt.NDArray[np.float64], into_world: npt.NDArray[np.float64], most: float
) -> npt.NDArray[np.float64]:
    """Ways in the object's space, none longer than `most` in the world."""
    moved = np.nan_to_num(moved, nan=0.0, posinf=0.0, neginf=0.0)
    length = np.linalg.norm(moved @ into_world.T, axis=1, keepdims=True)
    held: npt.NDArray[np.float64] = moved * np.minimum(1, most / np.maximum(length, 1e-300))
    return held
