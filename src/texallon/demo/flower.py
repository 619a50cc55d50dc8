"""The night flower: broad petals in two whorls, a heart, and a stem."""

import numpy as np

from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.demo.cable import tube
from texallon.demo.carving import closed_normals, grid_faces, joined


def petals(count: int = 6) -> Mesh:
    """Two whorls of petals that open from the origin upwards and outwards, about 0.3 m wide.

    UV: across the petal and along it. Carries `petal`, a random number 0…1 each, and `along`, 0 at the heart.
    """
    random = np.random.Generator(np.random.Philox(77))
    made = []
    for whorl, (length, width, opening, lift) in enumerate(((0.20, 0.075, 1.75, 0.0), (0.16, 0.06, 1.15, 0.012))):
        for number in range(count):
            turn = 2 * np.pi * (number + 0.5 * whorl) / count + float(random.normal(0, 0.05))
            size = float(random.uniform(0.93, 1.07))
            bend = opening + float(random.normal(0, 0.05))
            made.append(_petal(length * size, width * size, bend, lift, turn, float(random.uniform())))
    return joined(made)


def _petal(length: float, width: float, opening: float, lift: float, turn: float, shade: float) -> Mesh:
    across, along = np.meshgrid(np.linspace(-1, 1, 33), np.linspace(0, 1, 49))
    half = width * np.sin(np.pi * np.clip(along, 0, 1) ** 0.72 * 0.985) ** 0.8 + 0.006
    # The petal leaves the heart steeply and curls over: its direction turns from up to outwards.
    angle = 0.25 + opening * along**1.1
    step = length / 48
    out = np.cumsum(np.sin(angle), axis=0) * step
    up = np.cumsum(np.cos(angle), axis=0) * step
    cup = 0.22 * half * across**2 * (1 - 0.6 * along)
    ruffle = 0.006 * along**3 * np.sin(across * 5.0 + shade * 9)
    x = across * half * (1 - 0.12 * along * across**2)
    forward = out - cup * np.cos(angle) + 0.012
    height = up + cup * np.sin(angle) + ruffle + lift
    c, s = np.cos(turn), np.sin(turn)
    vertices = np.stack([c * forward + s * x, height, -s * forward + c * x], axis=2).reshape(-1, 3).astype(np.float32)
    faces = grid_faces(49, 33)
    uv = np.stack([across * 0.5 + 0.5, along], axis=2).reshape(-1, 2).astype(np.float32)
    count = len(vertices)
    carried = {"petal": np.full(count, shade, np.float32), "along": along.reshape(-1).astype(np.float32)}
    return make_mesh(vertices, faces, closed_normals(vertices, faces), uv, carried)


def stem() -> Mesh:
    """A bent stem below the origin, and the heart with its stamens above it."""
    t = np.linspace(0, 1, 60)
    line = np.stack([0.07 * (1 - t) ** 2, -0.45 * (1 - t), 0.03 * np.sin(2.2 * (1 - t))], axis=1)
    parts = [tube(line, np.linspace(0.008, 0.011, 60), 20)]
    golden = np.pi * (3 - np.sqrt(5))
    for number in range(14):
        radius = 0.004 + 0.0016 * np.sqrt(number)
        turn = number * golden
        foot = np.array([radius * np.cos(turn), 0.0, radius * np.sin(turn)])
        top = foot * 4.2 + np.array([0, 0.085 + 0.004 * (number % 3), 0])
        path = foot + (top - foot) * np.linspace(0, 1, 14)[:, None]
        thick = np.concatenate([np.full(11, 0.0011), [0.0026, 0.0034, 0.0012]])
        parts.append(tube(path, thick, 10))
    return joined(parts)
