"""Spore pods: drops of glass on short stalks, and the many small spheres inside them."""

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.demo.cable import tube
from texallon.demo.carving import closed_normals, grid_faces, joined, lathe, smooth_profile

PLACES = ((0.0, 0.20, 0.0, 1.0), (-0.27, 0.155, 0.11, 0.74), (0.25, 0.135, 0.15, 0.62))
"""Each pod's centre and size, metres and share of the largest."""

SHAPE = [
    (0.0, -0.155),
    (0.06, -0.14),
    (0.112, -0.085),
    (0.128, -0.01),
    (0.112, 0.07),
    (0.066, 0.128),
    (0.02, 0.15),
    (0.0, 0.153),
]


def glass_pods() -> Mesh:
    """Three closed drops of glass."""
    made = []
    for x, y, z, size in PLACES:
        vertices, faces, uv = lathe(smooth_profile(SHAPE, 0.004), 160)
        placed = (vertices * size + np.array([x, y, z])).astype(np.float32)
        made.append(make_mesh(placed, faces, closed_normals(placed, faces), uv))
    return joined(made)


_angle = np.linspace(0, 2 * np.pi, 16, endpoint=False)
_tilt = np.linspace(-np.pi / 2, np.pi / 2, 9)[:, None]
ROUND = np.stack(
    [np.cos(_tilt) * np.cos(_angle), np.sin(_tilt) * np.ones(16), np.cos(_tilt) * np.sin(_angle)], axis=2
).reshape(-1, 3)
"""Points of a unit sphere."""


def within(points: npt.NDArray[np.floating]) -> npt.NDArray[np.bool_]:
    """Whether points `(n, 3)` lie within the largest pod, about its centre."""
    wide = np.interp(points[:, 1], [height for _, height in SHAPE], [away for away, _ in SHAPE], left=0, right=0)
    inside: npt.NDArray[np.bool_] = np.hypot(points[:, 0], points[:, 2]) < wide
    return inside


def spores(count: int = 54) -> Mesh:
    """Small spheres within each pod, apart from each other. Carries `spore`, a random number 0…1 each."""
    random = np.random.Generator(np.random.Philox(81))
    made = []
    for x, y, z, size in PLACES:
        placed: list[npt.NDArray[np.float64]] = []
        radii: list[float] = []
        for _ in range(count * 40):
            if len(placed) >= int(count * size):
                break
            radius = float(random.uniform(0.009, 0.021)) * size**0.5
            spot = random.uniform(-1, 1, 3) * np.array([0.1, 0.12, 0.1]) * size
            if not within((spot + 1.2 * radius * ROUND) / size).all():
                continue
            if all(np.linalg.norm(spot - other) > (radius + r) * 1.15 for other, r in zip(placed, radii, strict=True)):
                placed.append(spot)
                radii.append(radius)
        for spot, radius in zip(placed, radii, strict=True):
            made.append(_ball(spot + np.array([x, y, z]), radius, float(random.uniform())))
    return joined(made)


def _ball(centre: npt.NDArray[np.float64], radius: float, shade: float) -> Mesh:
    across, down = np.meshgrid(np.linspace(0, 2 * np.pi, 41), np.linspace(0, np.pi, 21))
    unit = np.stack([np.sin(down) * np.cos(across), np.cos(down), -np.sin(down) * np.sin(across)], axis=2).reshape(
        -1, 3
    )
    faces = np.ascontiguousarray(grid_faces(21, 41)[:, ::-1])
    uv = np.stack([across / (2 * np.pi), 1 - down / np.pi], axis=2).reshape(-1, 2)
    carried = {"spore": np.full(len(unit), shade, np.float32)}
    return make_mesh(centre + radius * unit, faces, unit, uv, carried)


def pod_stalks() -> Mesh:
    """Bent stalks that carry the pods."""
    made = []
    for x, y, z, size in PLACES:
        t = np.linspace(0, 1, 40)
        line = np.stack(
            [x * (0.72 + 0.28 * t), (y - 0.15 * size) * t, z * (0.72 + 0.28 * t) + 0.03 * np.sin(np.pi * t)], axis=1
        )
        made.append(tube(line, np.linspace(0.009, 0.006, 40) * size**0.5, 20))
    return joined(made)
