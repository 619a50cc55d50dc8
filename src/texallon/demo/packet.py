"""A seed packet: the paper, and two pictures that may be printed on it."""

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.demo.carving import closed_normals, grid_faces

WIDTH, HEIGHT = 768, 1024
Pixels = npt.NDArray[np.floating]


def seed_packet() -> Mesh:
    """A sheet of 0.24 m × 0.32 m that stands on the ground and bulges a little, its picture upright."""
    u, v = np.meshgrid(np.linspace(0, 1, 121), np.linspace(0, 1, 161))
    x, y = (u - 0.5) * 0.24, v * 0.32
    bulge = 0.018 * (np.sin(np.pi * u) * np.sin(np.pi * v)) ** 0.7
    curl = 0.01 * (v**3) * (u - 0.5)
    vertices = np.stack([x, y, bulge + curl], axis=2).reshape(-1, 3).astype(np.float32)
    faces = grid_faces(161, 121)
    uv = np.stack([u, v], axis=2).reshape(-1, 2).astype(np.float32)
    return make_mesh(vertices, faces, closed_normals(vertices, faces), uv)


def flower_label() -> npt.NDArray[np.uint8]:
    """A day flower on cream paper, `(1024, 768, 3)`."""
    return _label((236, 224, 196), (34, 84, 62), (214, 74, 52), (246, 196, 64), 7, 0.62)


def night_label() -> npt.NDArray[np.uint8]:
    """A night flower on dark blue."""
    return _label((24, 30, 62), (96, 110, 170), (176, 148, 232), (250, 244, 214), 5, 0.78)


def _label(
    paper: tuple[int, int, int],
    ink: tuple[int, int, int],
    petal: tuple[int, int, int],
    heart: tuple[int, int, int],
    petals: int,
    slim: float,
) -> npt.NDArray[np.uint8]:
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(float)
    picture = np.ones((HEIGHT, WIDTH, 3)) * np.array(paper, float)

    def paint(cover: Pixels, colour: tuple[int, int, int]) -> None:
        picture[:] += np.clip(cover, 0, 1)[..., None] * (np.array(colour, float) - picture)

    frame = np.minimum.reduce([x, y, WIDTH - 1 - x, HEIGHT - 1 - y])
    paint(1 - np.abs(frame - 44) + 5, ink)
    paint(1 - np.abs(frame - 62) + 1.5, ink)
    # The stem and two leaves, then the flower.
    cx, cy = WIDTH / 2, 390.0
    sway = 26 * np.sin((y - cy) / 150)
    paint((1 - np.abs(x - cx - sway) + 8) * ((y > cy) & (y < 850)), ink)
    for side, at in ((-1, 640), (1, 720)):
        along = side * (x - cx - 20 * side) / 170
        across = (y - at + 70 * along) / 50
        paint((np.sin(np.pi * np.clip(along, 0, 1)) - np.abs(across)) * 40 * ((along > 0) & (along < 1)), ink)
    angle = np.arctan2(y - cy, x - cx)
    away = np.hypot(x - cx, y - cy)
    outline = 205 * (slim + (1 - slim) * np.abs(np.cos(petals * angle / 2)))
    paint((outline - away) * 0.6, petal)
    paint((np.abs(np.sin(petals * angle / 2)) < 0.06) * (away < outline - 30) * (away > 60) * 0.6, ink)
    paint((62 - away) * 0.6, heart)
    seeds = (np.hypot((x - cx) % 17 - 8.5, (y - cy) % 17 - 8.5) < 4) & (away < 52)
    paint(seeds * 0.7, ink)
    # Where words would stand: three bars.
    for top, half, thick in ((112, 210, 22), (908, 230, 14), (940, 150, 8)):
        paint((1 - np.abs(y - top) + thick) * (np.abs(x - cx) < half), ink)
    random = np.random.Generator(np.random.Philox(84))
    grain = random.normal(0, 2.2, (HEIGHT, WIDTH, 1))
    return np.rint(np.clip(picture + grain, 0, 255)).astype(np.uint8)
