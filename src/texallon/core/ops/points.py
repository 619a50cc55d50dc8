"""A batch of points to evaluate signals at, carrying only the data that the plan asked for."""

from collections.abc import Mapping
from copy import copy
from typing import Any, Protocol, TypeVar

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Derived, DerivedStore
from texallon.core.document.object import FileRef
from texallon.core.document.space import FOOTPRINTS, POSITIONS
from texallon.core.kernel import Array, kernel
from texallon.core.ops.pyramid import Pyramid
from texallon.core.ops.voxel_grid import VoxelGrid

T = TypeVar("T")

Matrix = npt.NDArray[np.float32]
"""An affine map as `(3, 4)` float32: rotation and scale, then translation."""


class OpFiles(Protocol):
    """Files that ops read from."""

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        """A picture with its smaller copies.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        raw : bool
            Whether its numbers are read as they are, rather than as colour.
        """

    def voxels(self, ref: FileRef, grid: str) -> VoxelGrid:
        """A voxel grid with its smaller copies.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        grid : str
            Which of the file's.
        """

    def made(self, wanted: Derived[T]) -> T:
        """A table that an op computes ahead, for all points at once.

        Parameters
        ----------
        wanted : Derived
            The table.
        """
        return TABLES.value(wanted)


TABLES = DerivedStore(200_000_000)
"""Where points of no shot keep tables."""


class NoFiles(OpFiles):
    """For points that ops read no files at."""

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        """Raises `FileNotFoundError`.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        raw : bool
            Whether its numbers are read as they are, not by the curve of a display.
        """
        raise FileNotFoundError(f"the picture “{ref.file}” is not there")

    def voxels(self, ref: FileRef, grid: str) -> VoxelGrid:
        """Raises `FileNotFoundError`.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        grid : str
            A grid's name in the file.
        """
        raise FileNotFoundError(f"the file “{ref.file}” is not there")


NO_FILES = NoFiles()


class Points:
    """Structure-of-arrays point data.

    `data` maps names to float32 arrays `(width, n)`: `position`, `object_position`, `rest_position` (metres), `normal` and
    `view` (unit; view points towards the eye), `uv` (2, n), `footprint` (1, n; width in metres that one sample stands for;
    `object_footprint` and `uv_footprint` in those coordinates), `object_id`, `part_id`, `instance_id`, and
    `attribute:NAME`. `world_to_space` maps `camera`, `locator:NAME` and `object:NAME` to the matrix from the world into them. `time` is in
    seconds from the first frame.
    """

    def __init__(
        self,
        count: int,
        data: Mapping[str, Array],
        world_to_space: Mapping[str, Matrix] | None = None,
        files: OpFiles = NO_FILES,
        frame: float = 1.0,
        time: float = 0.0,
    ) -> None:
        self.count = count
        self.data = data
        self.world_to_space = world_to_space or {}
        self.files = files
        self.frame, self.time = frame, time
        self._stretch: Mapping[str, Array] = {}
        self._measured: dict[str, Array] = {}
        self.parameters: Mapping[str, Array] = {}
        """Parameters of a source that vary from point to point, each `(1, n)`."""

    def with_parameters(self, parameters: Mapping[str, Array]) -> "Points":
        """The same points, for a source some of whose parameters vary.

        Parameters
        ----------
        parameters : mapping
            By name, each `(1, n)`.
        """
        result = copy(self)
        result.parameters = parameters
        return result

    def parameter(self, name: str, value: float) -> Any:
        """A source's parameter for NumPy's arithmetic: a number, or `(n,)` where it varies.

        Parameters
        ----------
        name : str
            Of the parameter.
        value : float
            Where it is the same everywhere.
        """
        return self.parameters[name][0] if name in self.parameters else np.float32(value)

    def position(self, place: str) -> Array:
        """Positions `(3, n)` in `world`, `object`, `rest`, `uv` (with z = 0), `camera`, `locator:NAME` or `object:NAME`.

        Parameters
        ----------
        place : str
            In which coordinates are meant: `world`, `object`, `rest`, `uv`, `camera`, `locator:NAME` or
            `object:NAME`.

        Returns
        -------
        Array
            `(3, n)`.
        """
        if place == "world":
            return self.data["position"]
        if place in ("object", "rest"):
            return self.data[POSITIONS[place]]
        if place not in self._measured:
            out = np.zeros((3, self.count), np.float32)
            if place == "uv":
                out[:2] = self.data["uv"]
            else:
                transform_points(self.world_to_space[place], self.data["position"], out)
            self._measured[place] = out
        return self._measured[place]

    def from_place(self, place: str, position: Array) -> Array:
        """Positions `(3, n)` in a place, as coordinates of the point data that the place is measured from.

        Parameters
        ----------
        place : str
            In which coordinates are meant: `world`, `object`, `rest`, `uv`, `camera`, `locator:NAME` or
            `object:NAME`.
        position : Array
            `(3, n)` positions in `space`, in its units.

        Returns
        -------
        Array
            `(3, n)`.
        """
        if place not in self.world_to_space:
            return position
        full = np.eye(4)
        full[:3] = self.world_to_space[place]
        out = np.empty((3, self.count), np.float32)
        transform_points(np.linalg.inv(full)[:3].astype(np.float32), position, out)
        return out

    def footprint(self, place: str) -> Array:
        """How much of a place's space one sample covers `(n,)`, in its units.

        Parameters
        ----------
        place : str
            In which coordinates are meant: `world`, `object`, `rest`, `uv`, `camera`, `locator:NAME` or
            `object:NAME`.

        Returns
        -------
        Array
            `(n,)`.
        """
        own = self.data[FOOTPRINTS.get(place, "footprint")][0]
        if place in self.world_to_space:
            scale = abs(float(np.linalg.det(self.world_to_space[place][:, :3].astype(np.float64)))) ** (1 / 3)
            own = own * np.float32(scale)
        base = POSITIONS.get(place, "position")
        result: Array = own * self._stretch[base] if base in self._stretch else own
        return result

    def stretch(self, base: str) -> Array:
        """By how much more a sample covers since space was bent `(n,)`.

        Parameters
        ----------
        base : str
            Name of the point data.

        Returns
        -------
        Array
            `(n,)`.
        """
        return self._stretch.get(base, np.ones(self.count, np.float32))

    def warped(self, changed: Mapping[str, Array]) -> "Points":
        """The same points looked up elsewhere: `changed` maps point data to arrays `(4, n)` (see `DomainWarp`).

        Parameters
        ----------
        changed : mapping
            By point data, `(4, n)`: coordinates and by how much more a sample covers.
        """
        data = dict(self.data)
        stretch = dict(self._stretch)
        for base, rows in changed.items():
            data[base] = np.ascontiguousarray(rows[: 2 if base == "uv" else 3])
            stretch[base] = rows[3]
        result = Points(self.count, data, self.world_to_space, self.files, self.frame, self.time)
        result._stretch = stretch
        return result

    def chunk(self, start: int, stop: int, count: int = 0) -> "Points":
        """The points `start`…`stop`, the last one repeated up to `count` where that is more, copied together for kernels.

        Parameters
        ----------
        start : int
            First of them.
        stop : int
            One after the last.
        count : int, optional
            Number of points, n.
        """
        count = max(count, stop - start)
        data = {name: columns(array, start, stop, count) for name, array in self.data.items()}
        result = Points(count, data, self.world_to_space, self.files, self.frame, self.time)
        result._stretch = {base: columns(rows[None], start, stop, count)[0] for base, rows in self._stretch.items()}
        return result


def columns(array: Array, start: int, stop: int, count: int) -> Array:
    """Columns `start`…`stop` of `(width, n)` as contiguous rows, the last one repeated up to `count`.

    Parameters
    ----------
    array : Array
        `(width, n)`.
    start : int
        First of them.
    stop : int
        One after the last.
    count : int
        Number of points, n.

    Returns
    -------
    Array
        `(width, n)`.
    """
    if stop - start == count:
        return np.ascontiguousarray(array[:, start:stop])
    out = np.empty((array.shape[0], count), array.dtype)
    out[:, : stop - start] = array[:, start:stop]
    out[:, stop - start :] = array[:, stop - 1 : stop]
    return out


@kernel
def transform_points(matrix: Matrix, position: Array, out: Array) -> None:
    """Positions through an affine map.

    Parameters
    ----------
    matrix : Matrix
        `(3, 4)` affine map.
    position : Array
        `(3, n)`.
    out : Array
        `(width, n)`, filled.
    """
    for row in range(3):
        a, b, c, d = matrix[row, 0], matrix[row, 1], matrix[row, 2], matrix[row, 3]
        for i in range(out.shape[1]):
            out[row, i] = a * position[0, i] + b * position[1, i] + c * position[2, i] + d
