"""Bright points of volumes: listed, so that none is missed, however small it is in the picture.

Rays would meet such points too seldom, and differently for every move of the camera. They are listed once; in a view each gives its light to
the pixels about it, as much as it sends towards the eye (`points_in_view`).
"""

from dataclasses import dataclass

import numpy as np

from texallon.core.derived import derived
from texallon.core.document.look import BrightPoints
from texallon.core.geometry.mesh import MeshError
from texallon.core.kernel import Array, Integers, kernel
from texallon.core.ops.points import NO_FILES, OpFiles, transform_points
from texallon.core.random_numbers import uniform4
from texallon.core.render.volume.inside import inside
from texallon.core.render.volume.medium_values import held
from texallon.core.render.volume.volume_points import VolumeSpace
from texallon.core.render.volume.volumes import Container
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import evaluate

MOST_POINTS = 4_000_000
"""Of one volume."""

PLACED = 0x10000000
"""Random dimension of where points lie."""


@dataclass(frozen=True)
class ListedPoints:
    """The bright points of one volume: `position (3, m)` in the world, `radius (m,)` metres, and `radiance (3, m)` per metre in their middles."""

    position: Array
    radius: Array
    radiance: Array


@dataclass(frozen=True)
class PointSource:
    """What bright points are like: the plan of their channels, where any layer touches one, where they stand, and the pictures that recipes use."""

    plan: Plan | None
    space: VolumeSpace
    files: OpFiles = NO_FILES


@derived("bright points")
def bright_points(source: PointSource, container: Container, lattice: BrightPoints) -> ListedPoints:
    """The bright points of a volume that shine.

    Parameters
    ----------
    source : PointSource
        What they are like.
    container : Container
        What they lie in.
    lattice : BrightPoints
        How they are scattered.

    Raises
    ------
    MeshError
        Where there are too many.
    """
    first = np.floor(container.low.astype(np.float64) / lattice.spacing).astype(np.int64)
    last = np.ceil(container.high.astype(np.float64) / lattice.spacing).astype(np.int64)
    counts = np.maximum(last - first, 1)
    total = int(np.prod(counts))
    if total > MOST_POINTS:
        of = f"“{container.name}”" if container.name else "the atmosphere"
        wide = float((np.prod((container.high - container.low).astype(np.float64)) / MOST_POINTS) ** (1 / 3))
        raise MeshError(
            f"{of} would have {total:,} bright points; up to {MOST_POINTS:,}: a spacing of {wide:.3g} m or more"
        )
    own = np.empty((3, total), np.float32)
    chance = np.empty(total, np.float32)
    fill_lattice(first.astype(np.int32), counts.astype(np.int32), lattice.spacing, lattice.seed, own, chance)
    own = np.ascontiguousarray(own[:, chance < lattice.filled])
    own = np.ascontiguousarray(own[:, inside(container, own)])
    values = {
        "point_emission": np.zeros((1, 1), np.float32),
        "point_color": np.ones((3, 1), np.float32),
        "point_radius": np.full((1, 1), 0.002, np.float32),
    }
    n = own.shape[1]
    if source.plan is not None and n:
        footprint = np.full((1, n), 1e-4, np.float32)
        data = source.space.point_data(source.plan.required_data, own, footprint)
        made = evaluate(source.plan, source.plan.points(n, data, source.files))
        values |= {name: held(name, each) for name, each in made.items()}
    radiance = np.broadcast_to(values["point_emission"] * values["point_color"], (3, n))
    shines = radiance.max(axis=0) > 0 if n else np.zeros(0, np.bool_)
    world = np.empty((3, n), np.float32)
    transform_points(container.matrix, own, world)
    radius = np.broadcast_to(values["point_radius"][0], (n,))
    return ListedPoints(
        np.ascontiguousarray(world[:, shines]),
        np.ascontiguousarray(radius[shines]),
        np.ascontiguousarray(radiance[:, shines]),
    )


@kernel
def fill_lattice(first: Integers, counts: Integers, spacing: float, seed: int, own: Array, chance: Array) -> None:
    """A place at random in each cell of a lattice.

    Parameters
    ----------
    first, counts : Integers
        `(3,)` the first cell, and how many along each axis.
    spacing : float
        Size of a cell.
    seed : int
        Of the random numbers.
    own : Array
        `(3, cells)`, filled.
    chance : Array
        `(cells,)` a random number of each, filled.
    """
    i = 0
    for z in range(counts[2]):
        for y in range(counts[1]):
            for x in range(counts[0]):
                cx, cy, cz = first[0] + x, first[1] + y, first[2] + z
                u, v, w, c = uniform4(cx, cy, cz ^ PLACED, seed)
                own[0, i], own[1, i], own[2, i] = (cx + u) * spacing, (cy + v) * spacing, (cz + w) * spacing
                chance[i] = c
                i += 1
