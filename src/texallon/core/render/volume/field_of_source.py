"""Bricks and light of a volume as derived values."""

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Cost, derived
from texallon.core.kernel import Array, Integers
from texallon.core.ops.points import transform_points
from texallon.core.render.light.volume_lights import ShiningVolume
from texallon.core.render.volume.brick_field import BrickField
from texallon.core.render.volume.bright_points import ListedPoints
from texallon.core.render.volume.grid import make_grid
from texallon.core.render.volume.medium_values import MediumPlan, split_medium
from texallon.core.render.volume.quantities import EMISSION, VALUES
from texallon.core.render.volume.source_values import OF_LIGHTS, Bricks
from texallon.core.render.volume.tables import BALL
from texallon.core.render.volume.volumes import Container, MediumSource
from texallon.core.signal.plan import Plan

Counts = npt.NDArray[np.int64]
Doubles = npt.NDArray[np.float64]

OF_LIGHT: Integers = np.arange(EMISSION, EMISSION + 3, dtype=np.int32)

LOOKED_AT = 24
"""Cells along a volume's longest side in which its light is looked at."""

WITHIN = 2
"""Places along each side of such a cell."""


@derived("medium", cost=Cost.INSTANT)
def medium_plan(plan: Plan | None) -> MediumPlan:
    """As `split_medium`.

    Parameters
    ----------
    plan : Plan, optional
        Outputs by channel.
    """
    return split_medium(plan)


@derived("bricks")
def brick_field(source: MediumSource, container: Container, finest: int, budget: int) -> BrickField:
    """A volume's bricks, of which only the coarsest are filled.

    Parameters
    ----------
    source : MediumSource
        What fills it.
    container : Container
        Where.
    finest : int
        Cells along its longest side.
    budget : int
        Bytes.
    """
    cells = finest if source.layout.rows else 1
    grid = make_grid(container.low, container.high, container.matrix, cells)
    return BrickField(grid, source.layout, source.rows, budget)


@derived("light of a volume")
def shining_volume(source: MediumSource, points: ListedPoints | None, container: Container) -> ShiningVolume:
    """Where a volume sends out light.

    Parameters
    ----------
    source : MediumSource
        What fills it.
    points : ListedPoints, optional
        Its bright points.
    container : Container
        Where.
    """
    size = (container.high - container.low).astype(np.float64)
    scale = np.linalg.norm(container.matrix[:, :3].astype(np.float64), axis=0)
    wide = size * scale
    count = np.clip(np.ceil(wide / max(float(wide.max()), 1e-12) * LOOKED_AT), 1, LOOKED_AT).astype(np.int64)
    layout = source.layout
    rows = range(EMISSION, EMISSION + 3)
    dark = (layout.row_of[rows] < 0).all() and not layout.constant[rows].any()
    if dark and (points is None or not len(points.radius)):
        none = np.zeros((3, 1, 1, 1), np.float32)
        return ShiningVolume(none[0], none, container.low, size.astype(np.float32), container.matrix, container.group)
    nx, ny, nz = (int(each) for each in count)
    cell = size / count
    cells = np.zeros((nz, ny, nx), np.float32) if dark else _looked_at(source, container, count, cell)
    volume = abs(float(np.linalg.det(container.matrix[:, :3].astype(np.float64)))) * float(np.prod(cell))
    grains = np.zeros((3, nz, ny, nx), np.float32)
    if points is not None and len(points.radius):
        own = np.empty_like(points.position)
        full = np.vstack([container.matrix, [0, 0, 0, 1]]).astype(np.float64)
        transform_points(np.linalg.inv(full)[:3].astype(np.float32), points.position, own)
        at = np.floor((own.astype(np.float64) - container.low[:, None]) / cell[:, None]).astype(np.int64)
        x, y, z = (np.clip(at[axis], 0, count[axis] - 1) for axis in range(3))
        number = (z * ny + y) * nx + x
        # ∫ (1 − d / w) over a ball of radius w is π w³ / 3.
        light = points.radiance * (np.float32(np.pi / 3) * points.radius**3)
        for c in range(3):
            grains[c] = (np.bincount(number, light[c], nx * ny * nz) / volume).reshape(nz, ny, nx)
    power = (cells + grains.max(axis=0)) * np.float32(volume)
    return ShiningVolume(power, grains, container.low, cell.astype(np.float32), container.matrix, container.group)


def _looked_at(source: MediumSource, container: Container, count: Counts, cell: Doubles) -> Array:
    """The light of cells, `(nz, ny, nx)`, the most of the three colours, at a few places of each."""
    size = cell * count
    scale = np.linalg.norm(container.matrix[:, :3].astype(np.float64), axis=0)
    axes = [(np.arange(n * WITHIN) + 0.5) / WITHIN for n in count]
    z, y, x = np.meshgrid(axes[2], axes[1], axes[0], indexing="ij")
    places = np.stack([x.ravel(), y.ravel(), z.ravel()]) * cell[:, None] + container.low[:, None]
    footprint = float((cell * scale).max()) / WITHIN
    # Kept as if they were the corners of bricks, so that another ramp evaluates no noise here either.
    pages = np.arange(-(-places.shape[1] // VALUES), dtype=np.int32)
    own = np.ascontiguousarray(places, np.float32)
    light = source.quantities(own, footprint, Bricks(OF_LIGHTS, pages), OF_LIGHT).max(axis=0)
    if container.kind == BALL:
        half = size / 2
        away = np.linalg.norm((places - container.low[:, None] - half[:, None]) / half[:, None], axis=0)
        light = np.where(away <= 1 + float((cell / half).max()), light, 0)
    nx, ny, nz = (int(each) for each in count)
    cells: Array = light.reshape(nz, WITHIN, ny, WITHIN, nx, WITHIN).mean(axis=(1, 3, 5)).astype(np.float32)
    return cells
