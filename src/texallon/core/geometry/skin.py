"""One closed surface around many balls."""

from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.spatial import KDTree

from texallon.core.derived import Cost, derived
from texallon.core.geometry.mesh import Floats, Mesh, MeshError, make_mesh
from texallon.core.geometry.particles import Particles
from texallon.core.kernel import Array, Float, kernel

FAR = 1e6
"""Where no ball reaches."""

AWAY = 0.01
"""Of a cell's length: no corner is nearer to the surface."""

NEIGHBOURS = 16
"""How many balls count at a place of the skin."""

Doubles = npt.NDArray[np.float64]

MOST_CELLS = 30_000_000
"""Of the box around the particles: 120 MB for the field, and as much again twice while it is cut."""


@derived("skin", cost=Cost.SLOW)
def skinned(particles: Particles, smooth: float, cell: float | None) -> Mesh:
    """The surface where the smooth union of all balls ends; it carries their attributes, mixed by how near each ball is.

    Parameters
    ----------
    particles : Particles
        In their object's space.
    smooth : float
        Metres over which balls flow into one another.
    cell : float, optional
        Length of cells, metres; a third of the median radius unless given.

    Raises
    ------
    MeshError
        For no particles, or cells so small that there would be too many, with the length that would do.

    References
    ----------
    The union is −s·log Σ exp(−dᵢ/s): K. Perlin's "soft minimum"; see I. Quilez, "Smooth minimum", 2013. Cells are cut after T. Lewiner, H. Lopes,
    A. W. Vieira, G. Tavares, "Efficient Implementation of Marching Cubes' Cases with Topological Guarantees", Journal of Graphics Tools 8 (2003).
    """
    if not len(particles.radii):
        raise MeshError("there are no particles to put a skin around")
    from skimage.measure import marching_cubes  # read only where it is wanted: it brings much along

    length = float(np.median(particles.radii)) / 3 if cell is None else cell
    # A smooth union swells where many balls meet: by so much that all of them could lie in one place.
    reach = smooth * np.log(max(len(particles.radii), 1)) * 0.25 + 3 * length
    most = float(particles.radii.max()) + reach
    low = particles.positions.min(axis=0).astype(np.float64) - most - length
    high = particles.positions.max(axis=0).astype(np.float64) + most + length
    counts = np.ceil((high - low) / length).astype(np.int64) + 2
    if counts.prod() > MOST_CELLS:
        fits = length * (float(counts.prod()) / MOST_CELLS) ** (1 / 3) * 1.02
        raise MeshError(
            f"a skin of cells {length:.3g} m long would need {counts.prod() / 1e6:,.0f} million of them, and {MOST_CELLS / 1e6:.0f} million are "
            f"made at most: cells of {fits:.3g} m would do"
        )
    total = np.zeros(tuple(counts), np.float32)
    sharpness = max(smooth / 4, length * 1e-2)
    join_balls(total, low, length, particles.positions, particles.radii, sharpness, reach)
    field = np.where(total > 0, -sharpness * np.log(np.maximum(total, np.float32(1e-38))), np.float32(FAR))
    # Beyond what was looked at nothing is known but that it lies outside; a step there would tilt the surface.
    np.minimum(field, np.float32(reach), out=field)
    cut: Any = marching_cubes  # has no types
    # A corner that lies on the surface to the last bit would become faces of no size, and a hair beside it faces of hardly any.
    least = np.float32(AWAY * length)
    field = np.where(np.abs(field) < least, np.where(field < 0, -least, least), field)
    places, faces, _, _ = cut(field, 0.0, spacing=(length,) * 3)
    made = places.astype(np.float64) + low
    near = _Near(particles, made, sharpness)
    # Cells place it between their corners; one step along the slope brings it to where the balls themselves say.
    made = made - np.clip(near.height, -length / 2, length / 2)[:, None] * near.uphill
    near = _Near(particles, made, sharpness)
    a, b, c = (made[faces[:, k]] for k in range(3))
    if float((a * np.cross(b, c)).sum()) < 0:  # what they enclose lies on their other side
        faces = faces[:, ::-1]
    return make_mesh(made, faces.astype(np.int32), near.uphill, attributes=near.carried(sharpness + length))


class _Near:
    """The balls nearest to some places, and the field that these make there: its height, and the unit vector in which it grows."""

    def __init__(self, particles: Particles, places: Doubles, sharpness: float) -> None:
        self._particles = particles
        number = min(NEIGHBOURS, len(particles.radii))
        self._near = np.reshape(KDTree(particles.positions).query(places, number)[1], (-1, number))
        to = places[:, None] - particles.positions[self._near].astype(np.float64)
        away = np.linalg.norm(to, axis=2)
        self._gap = away - particles.radii[self._near]
        least = self._gap.min(axis=1, keepdims=True)
        weight = np.exp((least - self._gap) / sharpness)
        total = weight.sum(axis=1, keepdims=True)
        self.height: Doubles = (least - sharpness * np.log(total))[:, 0]
        up = np.einsum("vk,vkx->vx", weight / total, to / np.maximum(away, 1e-12)[:, :, None])
        self.uphill: Doubles = up / np.maximum(np.linalg.norm(up, axis=1, keepdims=True), 1e-12)

    def carried(self, width: float) -> dict[str, Floats]:
        """What the balls carry, mixed by how near the surface of each lies.

        Parameters
        ----------
        width : float
            Metres within which neighbours mix.

        Returns
        -------
        dict
            By attribute, each `(v, width)`.
        """
        weight = np.exp((self._gap.min(axis=1, keepdims=True) - self._gap) / width)
        weight /= weight.sum(axis=1, keepdims=True)
        return {
            name: np.einsum("vk,vkw->vw", weight, values[self._near]).astype(np.float32)
            for name, values in self._particles.attributes.items()
        }


@kernel
def join_balls(
    total: Array, low: Array, cell: Float, positions: Array, radii: Array, sharpness: Float, reach: Float
) -> None:
    """Sums of exp(−d/s) over all balls at the corners of cells, d metres from each, as far as `reach`.

    Parameters
    ----------
    total : Array
        `(x, y, z)`, filled.
    low : Array
        `(3,)` where the first corner lies, metres.
    cell : float
        Length of a cell, metres.
    positions : Array
        `(k, 3)` metres.
    radii : Array
        `(k,)` metres.
    sharpness : float
        s, metres.
    reach : float
        Metres from a ball's surface.
    """
    for k in range(radii.shape[0]):
        x, y, z, r = positions[k, 0] - low[0], positions[k, 1] - low[1], positions[k, 2] - low[2], radii[k]
        out = r + reach
        for a in range(max(int((x - out) / cell), 0), min(int((x + out) / cell) + 2, total.shape[0])):
            dx = a * cell - x
            for b in range(max(int((y - out) / cell), 0), min(int((y + out) / cell) + 2, total.shape[1])):
                dy = b * cell - y
                for c in range(max(int((z - out) / cell), 0), min(int((z + out) / cell) + 2, total.shape[2])):
                    dz = c * cell - z
                    d = np.sqrt(dx * dx + dy * dy + dz * dz) - r
                    if d < reach:
                        total[a, b, c] += np.exp(min(-d / sharpness, 60.0))
