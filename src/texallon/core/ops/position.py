"""Where the point lies, in metres."""

from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from texallon.core.kernel import Array
from texallon.core.ops.op import Source, Space, param, position_in, space_key
from texallon.core.ops.points import Points

ROWS = {"x": 0, "y": 1, "z": 2}


class Position(Source):
    name: ClassVar[str] = "position"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "The point's coordinates: one of them, or all three as a vector."
    narrow: ClassVar[Mapping[str, Any]] = {"read": "y"}
    phrase: ClassVar[str] = "the position's {read} in {space}"

    read: Literal["x", "y", "z", "all"] = param("all", "Which coordinate.")
    space: Space = param("world", "What it is measured in.", kind="place")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.read == "all" else 1

    def _fill(self, points: Points, out: Array) -> None:
        where = points.position(space_key(self.space))
        out[:] = where if self.read == "all" else where[ROWS[self.read]]
