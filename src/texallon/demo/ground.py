"""Grounds that are a height over the plane: a slate hillside, the floor around a drain, the bed of a pond."""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.demo.carving import closed_normals, grid_faces, joined, unevenness

Floats = npt.NDArray[np.float32]


def ground(reach: float, cells: int, height: Callable[[Floats], npt.NDArray[np.floating]]) -> Mesh:
    """A square of `reach` metres to each side; `height` gives metres for flat points `(n, 3)`. UV are metres along x and z."""
    line = np.linspace(-reach, reach, cells + 1)
    x, z = np.meshgrid(line, line)
    flat = np.stack([x, np.zeros_like(x), z], axis=2).reshape(-1, 3).astype(np.float32)
    vertices = flat.copy()
    vertices[:, 1] = height(flat)
    faces = np.ascontiguousarray(grid_faces(cells + 1, cells + 1)[:, ::-1])
    return make_mesh(vertices, faces, closed_normals(vertices, faces), flat[:, [0, 2]])


def slate_hill() -> Mesh:
    """A hillside that rises away from the eye in broad swells."""

    def height(flat: Floats) -> npt.NDArray[np.floating]:
        swell = 0.36 * unevenness(flat, 2.1, 2, 31) + 0.10 * unevenness(flat, 0.7, 2, 32)
        return 0.34 * (1.5 - flat[:, 2]) * 0.55 + swell

    return ground(3.6, 300, height)


def drain_floor() -> Mesh:
    """A floor that falls gently to a round drain in the middle, 9 cm wide and dark."""

    def height(flat: Floats) -> npt.NDArray[np.floating]:
        away = np.hypot(flat[:, 0], flat[:, 2])
        fall = -0.05 * np.exp(-((away / 0.55) ** 2))
        hole = -0.12 * np.clip((0.06 - away) / 0.022, 0, 1)
        return fall + hole + 0.0015 * unevenness(flat, 0.2, 3, 33)

    return ground(2.2, 360, height)


def pond_bed() -> Mesh:
    """A hollow 0.5 m deep with shallow banks."""

    def height(flat: Floats) -> npt.NDArray[np.floating]:
        uneven = 0.5 * unevenness(flat, 1.4, 3, 34)
        away = np.hypot(flat[:, 0] / 1.25, flat[:, 2]) + uneven * 0.5
        bowl = np.clip((away - 0.9) / 1.5, -0.6, 1.2)
        return 0.42 * bowl + 0.02 * unevenness(flat, 0.16, 3, 35)

    return ground(5.0, 260, height)


def pebbles(count: int = 170) -> Mesh:
    """Rounded stones strewn over the bed of the pond and its banks. Carries `pebble`, a random number 0…1 each."""
    random = np.random.Generator(np.random.Philox(78))
    bed = pond_bed()
    made = []
    for _ in range(count):
        x, z = random.uniform(-2.6, 2.6), random.uniform(-2.2, 2.2)
        nearest = int(np.argmin((bed.vertices[:, 0] - x) ** 2 + (bed.vertices[:, 2] - z) ** 2))
        size = float(random.uniform(0.035, 0.13)) * (1.5 if random.uniform() < 0.12 else 1.0)
        made.append(_pebble(random, bed.vertices[nearest], size))
    return joined(made)


def spilled_pebbles(count: int = 26) -> Mesh:
    """Stones that lie about the foot of the basin, on a floor at height 0. Carries `pebble`, as those of the pond."""
    random = np.random.Generator(np.random.Philox(79))
    made = []
    for _ in range(count):
        away, angle = float(random.uniform(0.62, 1.35)), float(random.uniform(0, 2 * np.pi))
        place = np.array([away * np.cos(angle), 0.0, away * np.sin(angle)], np.float32)
        made.append(_pebble(random, place, float(random.uniform(0.03, 0.075))))
    return joined(made)


def _pebble(random: np.random.Generator, place: Floats, size: float) -> Mesh:
    across, down = np.meshgrid(np.linspace(0, 2 * np.pi, 25), np.linspace(0, np.pi, 15))
    ball = np.stack([np.sin(down) * np.cos(across), np.cos(down), -np.sin(down) * np.sin(across)], axis=2)
    shade = float(random.uniform())
    scale = np.array([random.uniform(0.8, 1.25), random.uniform(0.45, 0.7), random.uniform(0.8, 1.2)]) * size
    rough = 1 + 0.16 * unevenness((ball.reshape(-1, 3) + shade * 40).astype(np.float32), 1.3, 2, 36)
    points = ball.reshape(-1, 3) * rough[:, None] * scale
    turn = float(random.uniform(0, 2 * np.pi))
    c, s = np.cos(turn), np.sin(turn)
    points = np.stack([c * points[:, 0] + s * points[:, 2], points[:, 1], c * points[:, 2] - s * points[:, 0]], axis=1)
    vertices = (points + place + [0, scale[1] * 0.35, 0]).astype(np.float32)
    faces = grid_faces(15, 25)
    uv = np.stack([across / (2 * np.pi), 1 - down / np.pi], axis=2).reshape(-1, 2)
    carried = {"pebble": np.full(len(vertices), shade, np.float32)}
    faces = np.ascontiguousarray(faces[:, ::-1])
    return make_mesh(vertices, faces, closed_normals(vertices, faces), uv, carried)


def pond_water() -> Mesh:
    """A wide, nearly level sheet of water at height 0, with the swell of a light wind."""

    def height(flat: Floats) -> npt.NDArray[np.floating]:
        return 0.0022 * unevenness(flat * np.float32([1, 1, 1.6]), 0.34, 3, 37)

    return ground(4.9, 320, height)


def pillar() -> Mesh:
    """A fluted pillar 3 m high and 36 cm thick, its foot at the origin."""
    angle = np.linspace(0, 2 * np.pi, 241)
    heights = np.array([0, 0.08, 0.085, 0.12, 0.14, 0.16, 0.2, *np.linspace(0.22, 3.0, 60)])
    widths = np.array([0.24, 0.24, 0.235, 0.225, 0.20, 0.192, 0.182, *np.linspace(0.18, 0.165, 60)])
    fluted = np.clip((heights - 0.16) / 0.08, 0, 1)[:, None]
    flute = 0.011 * np.abs(np.sin(angle * 10))[None] ** 0.7
    radius = widths[:, None] - fluted * (0.011 - flute)
    x, z = radius * np.cos(angle), -radius * np.sin(angle)
    y = np.broadcast_to(heights[:, None], x.shape)
    vertices = np.stack([x, y, z], axis=2).reshape(-1, 3).astype(np.float32)
    faces = grid_faces(len(heights), 241)
    uv = np.stack(np.broadcast_arrays(angle / (2 * np.pi), heights[:, None]), axis=2).reshape(-1, 2)
    return make_mesh(vertices, faces, closed_normals(vertices, faces), uv)


def moulded_pillar() -> Mesh:
    """A pillar 1.4 m high, its foot at the origin: deep flutes between two stacks of mouldings."""
    angle = np.linspace(0, 2 * np.pi, 481)
    heights = np.concatenate([np.linspace(0, 0.34, 110), np.linspace(0.35, 1.05, 60), np.linspace(1.06, 1.4, 110)])

    def bulge(low: float, high: float, out: float) -> npt.NDArray[np.floating]:
        return out * np.sqrt(np.clip(1 - ((heights - low) / (high - low) * 2 - 1) ** 2, 0, 1))

    widths = np.full(len(heights), 0.155)
    for above in (False, True):
        for low, high, out in ((0.0, 0.09, 0.085), (0.10, 0.125, 0.035), (0.135, 0.20, 0.062), (0.215, 0.235, 0.022)):
            ends = (1.4 - high, 1.4 - low) if above else (low, high)
            widths = np.maximum(widths, 0.155 + bulge(*ends, out))
    widths[(heights < 0.055) | (heights > 1.345)] = 0.235
    shaft = np.clip(np.minimum(heights - 0.25, 1.15 - heights) / 0.05, 0, 1)[:, None]
    flute = 0.03 * np.abs(np.sin(angle * 8))[None] ** 0.8
    radius = widths[:, None] - shaft * flute
    x, z = radius * np.cos(angle), -radius * np.sin(angle)
    y = np.broadcast_to(heights[:, None], x.shape)
    vertices = np.stack([x, y, z], axis=2).reshape(-1, 3).astype(np.float32)
    faces = grid_faces(len(heights), 481)
    uv = np.stack(np.broadcast_arrays(angle / (2 * np.pi), heights[:, None]), axis=2).reshape(-1, 2)
    return make_mesh(vertices, faces, closed_normals(vertices, faces), uv)
