"""The mesh of a tube along a line."""

import numpy as np

from texallon.core.curve import Doubles, frames
from texallon.core.document.along import line_of
from texallon.core.document.body import Tube
from texallon.core.geometry.mesh import Mesh, MeshError, make_mesh


def make_tube(body: Tube) -> Mesh:
    """A tube whose UV map is in metres: u around it (at its radius as it is given), v along it; its ends are closed.

    Parameters
    ----------
    body : Tube
        Its measures, metres.

    Raises
    ------
    MeshError
        Where all its points lie in one place.
    """
    line, closed = middle_of(body)
    along = frames(line, closed, body.twist)
    around = body.segments
    angle = np.linspace(0, 2 * np.pi, around + 1)
    other = np.cross(along.tangent, along.side)
    ring = along.side[:, None] * np.cos(angle)[None, :, None] + other[:, None] * np.sin(angle)[None, :, None]
    radius = body.radius * _factors(body, along.length)
    points = line[:, None] + radius[:, None, None] * ring
    points[:, -1] = points[:, 0]
    if closed:
        points[-1] = points[0]
    # Where it grows thicker its side leans back.
    lean = np.gradient(radius, along.length)
    normals = ring - lean[:, None, None] * along.tangent[:, None]
    normals /= np.linalg.norm(normals, axis=2, keepdims=True)
    uv = np.stack(np.broadcast_arrays(angle[None] * body.radius, along.length[:, None]), axis=2)
    parts = [(points.reshape(-1, 3), normals.reshape(-1, 3), uv.reshape(-1, 2), _grid(len(line), around))]
    if not closed:
        for at, way in ((0, -1.0), (-1, 1.0)):
            flat = np.stack([np.cos(angle), way * np.sin(angle)], axis=1) * radius[at]
            parts.append(_cap(points[at], line[at], way * along.tangent[at], flat, way))
    starts = np.cumsum([0, *[len(part[0]) for part in parts[:-1]]])
    faces = np.concatenate([part[3] + start for part, start in zip(parts, starts, strict=True)])
    vertices, all_normals, all_uv = (np.concatenate([part[k] for part in parts]) for k in range(3))
    return make_mesh(vertices, faces, all_normals, all_uv)


def middle_of(body: Tube) -> tuple[Doubles, bool]:
    """The line in the middle of a tube, `(n, 3)`, and whether it ends where it begins.

    Parameters
    ----------
    body : Tube
        Its measures, metres.

    Raises
    ------
    MeshError
        Where all its points lie in one place.
    """
    line = line_of(body)
    if len(line) < 2:
        raise MeshError("the points of the tube all lie in one place")
    return line, body.closed and len(line) > 3


def _factors(body: Tube, length: Doubles) -> Doubles:
    """What the radius is multiplied by along the tube."""
    if not body.thickness:
        return np.ones(len(length))
    at, factor = np.asarray(body.thickness, np.float64).T
    order = np.argsort(at, kind="stable")
    found: Doubles = np.interp(length / length[-1], at[order], factor[order])
    return found


def _grid(rows: int, around: int) -> np.ndarray:
    first = (np.arange(rows - 1)[:, None] * (around + 1) + np.arange(around)).ravel()
    right, up = first + 1, first + around + 1
    return np.stack([first, right, up + 1, first, up + 1, up], axis=1).reshape(-1, 3)


def _cap(
    rim: Doubles, middle: Doubles, normal: Doubles, flat: Doubles, way: float
) -> tuple[Doubles, Doubles, Doubles, np.ndarray]:
    """A flat end: a fan about its middle, with its own place in the map."""
    count = len(rim) - 1
    points = np.concatenate([middle[None], rim])
    number = np.arange(1, count + 1)
    fan = np.stack([np.zeros(count, np.int64), number, number + 1], axis=1)
    uv = np.concatenate([np.zeros((1, 2)), flat])
    return points, np.tile(normal, (len(points), 1)), uv, fan if way > 0 else fan[:, [0, 2, 1]]
