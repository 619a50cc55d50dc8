"""The glasshouse floor: worn flagstones in courses of uneven length."""

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.demo.carving import closed_normals, grid_faces, joined, unevenness

COURSE = 0.74
JOINT = 0.014
EDGE = 0.012


def flagstones(reach: float = 5.2) -> Mesh:
    """A floor of about `reach` metres to each side, its worn tops near height 0.

    Carries `stone`: a random number 0…1 for each slab.
    """
    random = np.random.Generator(np.random.Philox(41))
    slabs = []
    z = -reach
    while z < reach:
        x = -reach - float(random.uniform(0, 0.7))
        while x < reach:
            length = float(random.uniform(0.6, 1.25))
            tilt = random.normal(0, 0.0022, 2)
            level = float(random.normal(0, 0.0025))
            slabs.append(_slab(x, z, length, COURSE, level, tilt, float(random.uniform())))
            x += length + JOINT
        z += COURSE + JOINT
    slabs.append(_bed(reach + 1.5))
    return joined(slabs)


def _steps(length: float) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Places along a slab, closer at the rounded edges, and how far the edge drops there."""
    count = max(int(length / 0.045), 4)
    round_off = EDGE * (1 - np.cos(np.linspace(0, np.pi / 2, 5)))[::-1]
    inner = np.linspace(EDGE, length - EDGE, count)
    start = EDGE * (1 - np.sin(np.linspace(0, np.pi / 2, 5)))[::-1]
    place = np.concatenate([[0.0], start[:-1], inner, (length - start[:-1])[::-1], [length]])
    drop = np.concatenate([[0.07], round_off[:-1], np.zeros(count), round_off[:-1][::-1], [0.07]])
    return place, drop


def _slab(
    x: float, z: float, length: float, width: float, level: float, tilt: npt.NDArray[np.float64], shade: float
) -> Mesh:
    across, drop_x = _steps(length)
    along, drop_z = _steps(width)
    px, pz = np.meshgrid(x + across, z + along)
    drop = np.maximum(drop_x[None, :], drop_z[:, None])
    flat = np.stack([px, np.full_like(px, shade * 7), pz], axis=2).reshape(-1, 3).astype(np.float32)
    worn = 0.0045 * unevenness(flat, 0.4, 5, 11).reshape(px.shape)
    y = level + tilt[0] * (px - x - length / 2) + tilt[1] * (pz - z - width / 2) + worn - drop
    ragged = 0.004 * unevenness(flat, 0.09, 3, 12).reshape(px.shape) * (drop > 0)
    vertices = np.stack([px + ragged, y, pz + ragged], axis=2).reshape(-1, 3).astype(np.float32)
    faces = np.ascontiguousarray(grid_faces(len(along), len(across))[:, ::-1])
    uv = vertices[:, [0, 2]].copy()
    stone = np.full(len(vertices), shade, np.float32)
    return make_mesh(vertices, faces, closed_normals(vertices, faces), uv, {"stone": stone})


def _bed(reach: float) -> Mesh:
    corners = np.array([[-reach, -0.02, -reach], [reach, -0.02, -reach], [reach, -0.02, reach], [-reach, -0.02, reach]])
    faces = np.array([[0, 2, 1], [0, 3, 2]])
    up = np.tile([0.0, 1.0, 0.0], (4, 1))
    return make_mesh(corners, faces, up, corners[:, [0, 2]], {"stone": np.full(4, 0.5, np.float32)})
