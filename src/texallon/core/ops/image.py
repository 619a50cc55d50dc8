"""A picture laid on the geometry by its UV map, or thrown on from three sides.

Whether its numbers are read as colour or as they are follows from its role: a mask, a roughness, a height or a normal
read as colour is wrong everywhere (common practice, no published source).
"""

from collections.abc import Mapping
from typing import Any, ClassVar, Literal

import numpy as np

from texallon.core.document.object import FileRef
from texallon.core.kernel import Array
from texallon.core.ops.op import Source, Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points
from texallon.core.ops.pyramid import EDGES, look_up

CHANNELS = {"red": 0, "green": 1, "blue": 2, "alpha": 3}


class Image(Source):
    name: ClassVar[str] = "image"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = "A picture (PNG, JPEG, TIFF, EXR or HDR) as colour, or as data such as a mask or a normal."
    reference: ClassVar[str] = (
        "mip map: Williams, Pyramidal Parametrics, 1983; colour through IEC 61966-2-1 unless linear"
    )
    narrow: ClassVar[Mapping[str, Any]] = {"role": "mask"}
    phrase: ClassVar[str] = "the picture {file} as {role}"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    file: FileRef = param(..., "The picture.", kind="image")
    role: Literal["colour", "mask", "roughness", "height", "normal"] = param(
        "colour", "What it means; colour and normal give three numbers, the others one."
    )
    read_as: Literal["by role", "colour", "raw"] = param(
        "by role", "Colour goes through the file's transfer curve; all other roles are read raw."
    )
    channel: Literal["red", "green", "blue", "alpha"] = param("red", "Which channel gives the one number.")
    projection: Literal["uv", "triplanar"] = param(
        "uv", "By the UV map, or from three sides and blended by the normal."
    )
    size: float = param(
        1.0, "Width of the picture: in UV units, or in metres where it is thrown on.", above=0, high=1e6
    )
    edges: Literal["repeat", "mirror", "hold"] = param("repeat", "What lies beyond the picture's edges.")
    sharpness: float = param(4.0, "How quickly one side takes over from the next.", low=1, high=64)
    space: Space = param("object", "What it sticks to where it is thrown on.", kind="place")

    @property
    def raw(self) -> bool:
        """Whether numbers are read as they are."""
        return self.read_as == "raw" or (self.read_as == "by role" and self.role != "colour")

    @property
    def place(self) -> Space:
        return "uv" if self.projection == "uv" else self.space

    def required_data(self) -> frozenset[str]:
        where = {position_in(self.place), footprint_in(self.place)}
        return frozenset(where if self.projection == "uv" else where | {"normal"})

    def spaces(self) -> tuple[Space, ...]:
        return (self.place,)

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.role in ("colour", "normal") else 1

    def _fill(self, points: Points, out: Array) -> None:
        picture = points.files.pyramid(self.file, self.raw)
        key = space_key(self.place)
        position, width = points.position(key), points.footprint(key) / np.float32(self.size)
        first = 0 if out.shape[0] == 3 else min(CHANNELS[self.channel], picture.channels - 1)
        grey = out.shape[0] == 3 and picture.channels < 3
        into = np.zeros((1, points.count), np.float32) if grey else out
        into[:] = 0
        scale = np.float32(1 / self.size)
        edge = EDGES[self.edges]
        if self.projection == "uv":
            everything = np.ones(points.count, np.float32)
            u, v = position[0] * scale, position[1] * scale
            look_up(picture.pixels, picture.levels, u, v, width, edge, first, everything, into)
        else:
            tall = np.float32(picture.width / picture.height)
            weight = np.abs(points.data["normal"]) ** np.float32(self.sharpness)
            weight /= np.maximum(weight.sum(axis=0), np.float32(1e-20))
            for side, (across, up) in enumerate(((2, 1), (0, 2), (0, 1))):
                u, v = position[across] * scale, position[up] * (scale * tall)
                share = np.ascontiguousarray(weight[side])
                look_up(picture.pixels, picture.levels, u, v, width, edge, first, share, into)
        if grey:
            out[:] = into
