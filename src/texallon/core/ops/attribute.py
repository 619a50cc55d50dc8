"""Data stored on the geometry: a painted weight, a temperature, a vertex colour."""

from collections.abc import Mapping
from typing import ClassVar, Literal

from texallon.core.kernel import Array
from texallon.core.ops.op import Source, param
from texallon.core.ops.points import Points


class Attribute(Source):
    name: ClassVar[str] = "attribute"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "A value stored on the geometry, interpolated across each face; 0 where there is none."
    phrase: ClassVar[str] = "the attribute {attribute}"

    attribute: str = param("color", "The attribute's name; `color` is the vertex colour.", kind="attribute")
    read: Literal["number", "colour"] = param("number", "Read one number (the first), or a colour.")

    def required_data(self) -> frozenset[str]:
        return frozenset({f"attribute:{self.attribute}"})

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.read == "colour" else 1

    def _fill(self, points: Points, out: Array) -> None:
        stored = points.data[f"attribute:{self.attribute}"]
        out[:] = stored[: out.shape[0]] if stored.shape[0] >= out.shape[0] else stored[:1]
