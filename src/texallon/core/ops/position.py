"""Where the point lies, in metres."""

from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from texallon.core.kernel import Array
from texallon.core.ops.op import Place, Source, param, place_key, position_in
from texallon.core.ops.points import Points

ROWS = {"x": 0, "y": 1, "z": 2}


class Position(Source):
    name: ClassVar[str] = "position"
    group: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "The point's coordinates: one of them, or all three as a vector."
    narrow: ClassVar[Mapping[str, Any]] = {"read": "y"}
    phrase: ClassVar[str] = "the position's {read} in {space}"

    read: Literal["x", "y", "z", "all"] = param("all", "Which coordinate.")
    space: Place = param("world", "What it is measured in.", kind="place")

    def needs(self) -> frozenset[str]:
        return frozenset({position_in(self.space)})

    def places(self) -> tuple[Place, ...]:
        return (self.space,)

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.read == "all" else 1

    def fill(self, points: Points, out: Array) -> None:
        where = points.position(place_key(self.space))
        out[:] = where if self.read == "all" else where[ROWS[self.read]]
