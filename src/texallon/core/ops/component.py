"""One number from a colour or vector: red, green or blue; x, y or z."""

from collections.abc import Mapping
from typing import ClassVar, Literal

from texallon.core.kernel import Array
from texallon.core.ops.op import Modifier, param
from texallon.core.ops.points import Points

PLACES = {"red": 0, "green": 1, "blue": 2, "x": 0, "y": 1, "z": 2}


class Component(Modifier):
    name: ClassVar[str] = "component"
    category: ClassVar[str] = "colour"
    purpose: ClassVar[str] = "One of the three numbers of a colour or vector; a number stays as it is."
    phrase: ClassVar[str] = "its {which}"

    which: Literal["red", "green", "blue", "x", "y", "z"] = param("red", "Which of the three.")

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 1

    def _run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        out[0] = incoming[PLACES[self.which] if incoming.shape[0] == 3 else 0]
