"""One point of a surface, as tests look at it: a material, what it scatters between two directions, and its white furnace."""

from math import cos, pi, sin, sqrt

import numpy as np

from texallon.core.document.channels import CHANNELS
from texallon.core.kernel import allocating, kernel
from texallon.core.random_numbers import uniform4
from texallon.core.shade.albedo import albedo_table
from texallon.core.shade.base import ABSORBED, NON_SPECULAR
from texallon.core.shade.rows import BENDING, MATERIAL, MATERIAL_ROWS, NEAR_INDEX, SPECULAR_IOR
from texallon.core.shade.stack import make_stack
from texallon.core.shade.surface import evaluate, sample_surface

TABLE = albedo_table()


def material(inside: bool = False, near: float = 1.0, **channels: object) -> np.ndarray:
    """The rows of one material; `inside` sees a body's boundary from within, `near` is the index of what is outside of it."""
    rows = np.zeros((MATERIAL, 1), np.float32)
    for channel in (each for each in CHANNELS if each.shaded):
        start = MATERIAL_ROWS[channel.name]
        rows[start : start + channel.width, 0] = channels.get(channel.name, channel.default)
    own = rows[SPECULAR_IOR, 0]
    rows[NEAR_INDEX] = own if inside else near
    rows[BENDING] = near / own if inside else own / near
    return rows


@kernel
def scattered(
    m: np.ndarray, ox: float, oy: float, oz: float, ix: float, iy: float, iz: float, outside: bool, table: np.ndarray
) -> tuple[float, float, float, float]:
    """f·cosθ of red, green and blue, and the density of choosing `i`."""
    stack = make_stack(m, 0, ox, oy, oz, outside, False, (0.5, 0.5, 0.5, 0.5), table)
    r, g, b, density, _, _, _ = evaluate(m, 0, stack, ox, oy, oz, ix, iy, iz, table)
    return r, g, b, density


def scatters(m: np.ndarray, o: tuple[float, ...], i: tuple[float, ...], outside: bool = True) -> np.ndarray:
    """As `scattered`, in one array `(4,)`."""
    return np.array(scattered(m, *o, *i, outside, TABLE))


@kernel
def followed(
    m: np.ndarray, ox: float, oy: float, oz: float, outside: bool, pick: float, u: float, v: float, table: np.ndarray
) -> tuple[int, float, float, float]:
    """Kind and direction of where a path goes on."""
    stack = make_stack(m, 0, ox, oy, oz, outside, False, (0.5, 0.5, 0.5, 0.5), table)
    kind, ix, iy, iz, _, _, _, _, _, _, _, _ = sample_surface(m, 0, stack, ox, oy, oz, pick, u, v, table)
    return kind, ix, iy, iz


@allocating
def furnace(
    m: np.ndarray, mu: float, phi: float, outside: bool, softened: bool, table: np.ndarray, count: int, seed: int
) -> np.ndarray:
    """Share of light that a surface sends on in a white furnace to either side, by channel, seen at cosine `mu`."""
    total = np.zeros(3)
    ring = sqrt(1 - mu * mu)
    ox, oy = ring * cos(phi), ring * sin(phi)
    for s in range(count):
        pick, u, v, _ = uniform4(s, 0, 0, seed)
        a, b, c, d = uniform4(s, 0, 1, seed)
        stack = make_stack(m, 0, ox, oy, mu, outside, softened, (a, b, c, d), table)
        kind, _, _, _, red, green, blue, _, _, _, _, _ = sample_surface(m, 0, stack, ox, oy, mu, pick, u, v, table)
        if kind != ABSORBED:
            total[0] += red
            total[1] += green
            total[2] += blue
    return total / count


def given_back(
    mu: float, count: int = 60_000, inside: bool = False, softened: bool = False, phi: float = 0.4, **channels: object
) -> np.ndarray:
    """The furnace of a material by its channels, `(3,)`."""
    return furnace(material(inside, **channels), mu, phi, not inside, softened, TABLE, count, 3)


@allocating
def histogram(
    m: np.ndarray, mu: float, outside: bool, softened: bool, table: np.ndarray, count: int, across: int, up: int
) -> np.ndarray:
    """Chances of `across` × `up` cells of the whole sphere: as sampled, and as the density says, `(2, across, up)`."""
    found = np.zeros((2, across, up))
    ox = sqrt(1 - mu * mu)
    stack = make_stack(m, 0, ox, 0.0, mu, outside, softened, (0.3, 0.6, 0.5, 0.2), table)
    for s in range(count):
        pick, u, v, _ = uniform4(s, 2, 0, 3)
        kind, ix, iy, iz, _, _, _, _, _, _, _, _ = sample_surface(m, 0, stack, ox, 0.0, mu, pick, u, v, table)
        if kind == NON_SPECULAR:
            i = int((np.arctan2(iy, ix) / (2 * pi) + 0.5) * across) % across
            found[0, i, min(int((0.5 * iz + 0.5) * up), up - 1)] += 1.0 / count
    fine = 48
    for i in range(across * fine):
        for j in range(up * fine):
            phi, z = ((i + 0.5) / (across * fine) - 0.5) * 2 * pi, 2 * (j + 0.5) / (up * fine) - 1
            ring = sqrt(1 - z * z)
            _, _, _, density, _, _, _ = evaluate(m, 0, stack, ox, 0.0, mu, ring * cos(phi), ring * sin(phi), z, table)
            found[1, i // fine, j // fine] += density * 4 * pi / (across * fine) / (up * fine)
    return found
