"""Parameters that vary from point to point: what the plan puts between a parameter's recipe and the op that takes it.

None of these are ops of recipes. A source that is looked up at another size at each point also changes its pattern by how the size
changes: far from the middle of its space that is most of it. So for parameters that move a lookup the recipe is planned three times
more, a sample's width aside along each axis, and the op is given how much its values differ.
"""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array
from texallon.core.ops.op import DomainWarp, Modifier, Op, Space, footprint_in, value_at
from texallon.core.ops.points import Points

ASIDE_SPACES: tuple[Space, ...] = ("world", "object", "rest", "uv")
"""The spaces whose points lie in data of their own; all others are measured from the world's."""


class Aside(DomainWarp):
    """A lookup one sample's width aside along one axis."""

    name: ClassVar[str] = "aside"
    purpose: ClassVar[str] = "Looks one sample aside."
    phrase: ClassVar[str] = ""

    along: int = 0

    def required_data(self) -> frozenset[str]:
        return super().required_data() | {footprint_in(self.space)}

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        base = self.warps()
        out[:3] = points.position(str(self.space))
        out[self.along] += points.footprint(str(self.space))
        out[3] = points.stretch(base)


class Change(Op):
    """How much a value differs within a sample: of three values `0`, `1` and `2`, aside along the axes, from what comes in."""

    name: ClassVar[str] = "change"
    kind = Modifier.kind
    purpose: ClassVar[str] = "How much a value changes within a sample."
    phrase: ClassVar[str] = ""

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        out[0] = np.sqrt(sum((inputs[str(axis)][0] - incoming[0]) ** 2 for axis in range(3)))


class WithinLimits(Op):
    """A parameter's value held at the ends of what the parameter may be; one that is not a number stays so."""

    name: ClassVar[str] = "within limits"
    kind = Modifier.kind
    purpose: ClassVar[str] = "Holds a parameter within its limits."
    phrase: ClassVar[str] = ""

    low: float | None = None
    high: float | None = None

    def affine_in(self, varying: frozenset[str]) -> bool:
        return self.low is None and self.high is None

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        low = np.float32(-np.inf if self.low is None else self.low)
        high = np.float32(np.inf if self.high is None else self.high)
        np.clip(incoming, low, high, out=out)


class Between(Op):
    """From 0…1 to two ends that vary: the last thing that some sources do with their values."""

    name: ClassVar[str] = "between"
    kind = Modifier.kind
    purpose: ClassVar[str] = "Puts values of 0…1 between two ends."
    phrase: ClassVar[str] = ""

    low: Finite = 0.0
    high: Finite = 1.0

    def affine_in(self, varying: frozenset[str]) -> bool:
        return len(varying) == 1 or "incoming" not in varying

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return incoming

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        low, high = value_at(self.low, inputs, "low"), value_at(self.high, inputs, "high")
        np.multiply(incoming, high - low, out=out)
        np.add(out, low, out=out)
