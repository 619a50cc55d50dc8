"""A volume's values on a lattice of voxels, to be written to a file: what a body is filled with, as other programs read it."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array
from texallon.core.render.graph import FrameGraph
from texallon.core.render.volume.inside import inside
from texallon.core.render.volume.medium_values import own_light
from texallon.core.render.volume.volumes import Container, MediumSource
from texallon.core.render.volume_reading import AIR

MOST_CELLS = 512
"""Along the longest side."""

MOST_BYTES = 4_000_000_000
"""Of all grids together, while they are made."""

SLAB = 1 << 18
"""Voxels evaluated together, about."""


class BakedVolume(NamedTuple):
    """Values at the middles of voxels, and where these lie.

    Attributes
    ----------
    grids : dict
        By name, `(nx, ny, nz)` or `(nx, ny, nz, 3)`: `density` per metre, `temperature` in kelvin, `emission` in radiance per metre, `scattering` and
        `absorption` as shares of the density by colour. What is the same everywhere and nothing is left out. Outside of the body all are 0.
    to_place : NDArray
        `(3, 4)` from indices to metres in the world.
    """

    grids: dict[str, Array]
    to_place: npt.NDArray[np.float64]


def bake_volume(
    graph: FrameGraph, name: str, cells: int, progress: Callable[[int, int], None] = lambda done, total: None
) -> BakedVolume:
    """What an object of a shot is filled with.

    Parameters
    ----------
    graph : FrameGraph
        Of the shot at a frame.
    name : str
        Of the object, or `air`; of an object of many copies the first is taken.
    cells : int
        Voxels along its longest side, 1…512.
    progress : callable, optional
        Told how many layers are done, and how many there are.

    Raises
    ------
    ValueError, MeshError
        Where there is no such object, it is filled with nothing, or there are too many voxels.
    """
    if not 1 <= cells <= MOST_CELLS:
        raise ValueError(f"a volume is baked in 1 to {MOST_CELLS} cells along its longest side, not {cells}")
    filled = graph.filled
    found = next((each for each in filled.containers if (each.name or AIR) == name), None)
    if found is None:
        known = (
            ", ".join(f"“{each}”" for each in dict.fromkeys(each.name or AIR for each in filled.containers))
            or "nothing"
        )
        raise ValueError(f"“{name}” is not filled with a volume; in this shot {known} is")
    return _baked(filled.source_value(found).value, found, cells, progress)


WIDTHS = {"density": 1, "temperature": 1, "emission": 3, "scattering": 3, "absorption": 3}
"""The grids that may be baked, and the numbers of a voxel."""


def _baked(source: MediumSource, container: Container, cells: int, progress: Callable[[int, int], None]) -> BakedVolume:
    size = (container.high - container.low).astype(np.float64)
    matrix = container.matrix.astype(np.float64)
    scale = np.maximum(np.linalg.norm(matrix[:, :3], axis=0), 1e-12)
    wide = float((size * scale).max()) / cells
    voxel = wide / scale
    count = np.maximum(np.ceil(size / voxel - 1e-6), 1).astype(np.int64)
    nx, ny, nz = (int(each) for each in count)
    wanted = nx * ny * nz * sum(WIDTHS.values()) * 4
    if wanted > MOST_BYTES:
        fits = int(cells * (MOST_BYTES / wanted) ** (1 / 3))
        raise ValueError(
            f"{cells} cells would take {wanted / 1e9:.1f} GB of memory; {fits} take less than {MOST_BYTES / 1e9:.0f}"
        )
    first = container.low.astype(np.float64) + voxel / 2
    grids = {name: np.zeros((nx, ny, nz, width), np.float32) for name, width in WIDTHS.items()}
    at_once = max(SLAB // (ny * nz), 1)
    for start in range(0, nx, at_once):
        end = min(start + at_once, nx)
        index = np.indices((end - start, ny, nz)).reshape(3, -1).astype(np.float64)
        index[0] += start
        own = np.ascontiguousarray(first[:, None] + index * voxel[:, None], np.float32)
        within = inside(container, own)
        channels = source.channels(own, wide)
        made = {
            "density": channels["density"],
            "temperature": channels["temperature"],
            "emission": own_light(channels),
            "scattering": channels["scattering_color"],
            "absorption": channels["absorption_color"],
        }
        for name, values in made.items():
            rows = np.where(within, values, np.float32(0)).T
            grids[name][start:end] = rows.reshape(end - start, ny, nz, -1)
        progress(end, nx)
    kept = {name: values for name, values in grids.items() if name == "density" or values.any()}
    to_place = np.empty((3, 4))
    to_place[:, :3] = matrix[:, :3] * voxel
    to_place[:, 3] = matrix[:, :3] @ first + matrix[:, 3]
    return BakedVolume({name: v[..., 0] if v.shape[3] == 1 else v for name, v in kept.items()}, to_place)
