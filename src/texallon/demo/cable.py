"""Round tubes along a line, for wire, rope and stems: u goes once around, v runs along in metres."""

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.demo.carving import grid_faces

Doubles = npt.NDArray[np.float64]


def tube(line: Doubles, radius: Doubles | float, around: int) -> Mesh:
    """A tube through points `(n, 3)`; its frame is carried along without twisting (parallel transport)."""
    count = len(line)
    step = np.gradient(line, axis=0)
    tangent = step / np.maximum(np.linalg.norm(step, axis=1, keepdims=True), 1e-12)
    side = np.cross(tangent[0], [0.0, 1.0, 0.0] if abs(tangent[0, 1]) < 0.9 else [1.0, 0.0, 0.0])
    sides = np.empty((count, 3))
    for number in range(count):
        side = side - tangent[number] * (side @ tangent[number])
        side = side / np.linalg.norm(side)
        sides[number] = side
    ups = np.cross(tangent, sides)
    angle = np.linspace(0, 2 * np.pi, around + 1)
    wide = np.broadcast_to(np.asarray(radius, np.float64), count)[:, None, None]
    ring = sides[:, None] * np.cos(angle)[None, :, None] + ups[:, None] * np.sin(angle)[None, :, None]
    vertices = (line[:, None] + wide * ring).reshape(-1, 3)
    length = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    uv = np.stack(np.broadcast_arrays(angle[None] / (2 * np.pi), length[:, None]), axis=2).reshape(-1, 2)
    faces = grid_faces(count, around + 1)
    return make_mesh(vertices, np.ascontiguousarray(faces), ring.reshape(-1, 3), uv)


def rope() -> Mesh:
    """A coil of rope on the ground, 4 cm through."""
    t = np.linspace(0, 1, 900)
    turn = 2 * np.pi * 3.4 * t
    out = 0.30 + 0.03 * np.sin(3 * turn) * t
    height = 0.021 + 0.034 * np.floor(3.4 * t) + 0.034 * np.clip((3.4 * t % 1) * 4 - 3, 0, 1)
    x, z = out * np.cos(turn), out * np.sin(turn)
    return tube(np.stack([x, height, z], axis=1), ROPE_RADIUS, 48)


ROPE_RADIUS = 0.02
