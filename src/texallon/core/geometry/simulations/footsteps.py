"""Walking feet."""

import numpy as np
import numpy.typing as npt

from texallon.core.document.simulation import Footsteps
from texallon.core.geometry.mesh import Mesh, make_mesh

STANDS = 0.6
"""Of the time between two stands of one foot: both stand for a moment."""

SOLE = ((1.0, 0.0), (1.0, 0.35), (0.82, 0.55), (0.3, 0.6))
"""Radius and height of a foot's rings, in soles; it closes above and below."""


def make_footsteps(steps: Footsteps) -> Mesh:
    """Both feet, as closed bodies of flat faces. Parts: `left` and `right`.

    Parameters
    ----------
    steps : Footsteps
        At their moment.
    """
    vertices: list[npt.NDArray[np.float64]] = []
    faces: list[npt.NDArray[np.int64]] = []
    normals: list[npt.NDArray[np.float64]] = []
    for side in (0, 1):
        at, high = foot_at(steps, side)
        corners, own = _foot(steps.radius)
        placed = corners + np.array([at, high, (side - 0.5) * steps.apart])
        a, b, c = (placed[own[:, k]] for k in range(3))
        facing = np.cross(b - a, c - a)
        facing /= np.linalg.norm(facing, axis=1, keepdims=True)
        faces.append(np.arange(3 * len(own)).reshape(-1, 3) + sum(len(each) for each in vertices))
        vertices.append(np.stack([a, b, c], axis=1).reshape(-1, 3))
        normals.append(np.repeat(facing, 3, axis=0))
    part = np.repeat([0, 1], [len(each) for each in faces])
    return make_mesh(
        np.concatenate(vertices), np.concatenate(faces), np.concatenate(normals),
        part_names=("left", "right"), part_of_face=part,
    )  # fmt: skip


def foot_at(steps: Footsteps, side: int) -> tuple[float, float]:
    """How far a foot has come along x, and how high it is, metres.

    Parameters
    ----------
    steps : Footsteps
        At their moment.
    side : int
        0 the left, 1 the right.
    """
    turn = steps.seconds * steps.pace / 2 - 0.5 * side
    number = np.floor(turn)
    carried = max((turn - number - STANDS) / (1 - STANDS), 0.0)
    eased = carried * carried * (3 - 2 * carried)
    along = (number + eased + 0.5 * side) * steps.stride
    return float(along), float(steps.lift * np.sin(np.pi * carried) ** 2)


def _foot(radius: float) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.int64]]:
    angle = np.pi * (np.arange(6) + 0.5) / 3
    rings = [np.stack([r * np.cos(angle), np.full(6, h), -r * np.sin(angle)], axis=1) for r, h in SOLE]
    vertices = np.concatenate([*rings, [[0.0, 0.0, 0.0]], [[0.0, SOLE[-1][1], 0.0]]]) * radius
    below, above = 6 * len(SOLE), 6 * len(SOLE) + 1
    faces = []
    for k in range(6):
        after = (k + 1) % 6
        for ring in range(len(SOLE) - 1):
            low, high = 6 * ring, 6 * ring + 6
            faces += [[low + k, low + after, high + after], [low + k, high + after, high + k]]
        last = 6 * (len(SOLE) - 1)
        faces += [[below, after, k], [above, last + k, last + after]]
    return vertices, np.array(faces, np.int64)
