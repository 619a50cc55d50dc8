"""A voxel grid from a file: the density or heat of a simulation, or anything else that was baked in space."""

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import StringConstraints

from texallon.core.document.object import FileRef
from texallon.core.kernel import Array
from texallon.core.ops.op import Source, Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points
from texallon.core.ops.voxel_grid import look_up_voxels

GridName = Annotated[str, StringConstraints(min_length=1, max_length=200)]


class Voxels(Source):
    name: ClassVar[str] = "voxels"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "A voxel grid of an OpenVDB or NumPy file: density, temperature or any other."
    reference: ClassVar[str] = (
        "trilinear between voxels, with smaller copies as in Williams, Pyramidal Parametrics, 1983; "
        "values lie at whole indices and the background beyond, as in OpenVDB (Museth, VDB, 2013)"
    )
    narrow: ClassVar[Mapping[str, Any]] = {"read_as": "number"}
    phrase: ClassVar[str] = "the grid {grid} of {file}"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN; so does a voxel that holds one."

    file: FileRef = param(..., "The file.", kind="voxel file")
    grid: GridName = param("density", "Which of the file's grids.", kind="voxel grid")
    read_as: Literal["number", "colour"] = param(
        "number", "Of a grid of vectors the number is their length; of one of numbers the colour is grey."
    )
    size: float = param(1.0, "How many times as large it is as the file says.", above=0, high=1e6)
    space: Space = param("object", "In which place it stands.", kind="place")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.read_as == "colour" else 1

    def _fill(self, points: Points, out: Array) -> None:
        grid = points.files.voxels(self.file, self.grid)
        key = space_key(self.space)
        to_index = grid.to_index.copy()
        to_index[:, :3] /= self.size
        width = points.footprint(key) / np.float32(grid.voxel * self.size)
        made = np.empty((grid.width, points.count), np.float32)
        position = np.ascontiguousarray(points.position(key), np.float32)
        wide = np.ascontiguousarray(np.broadcast_to(width, (points.count,)), np.float32)
        look_up_voxels(grid.values, grid.levels, grid.background, to_index, position, wide, made)
        if out.shape[0] == grid.width:
            out[:] = made
        elif out.shape[0] == 1:
            out[0] = np.sqrt((made * made).sum(axis=0))
        else:
            out[:] = made[:1]
