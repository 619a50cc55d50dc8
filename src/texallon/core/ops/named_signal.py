"""A named signal of the project, as the start of another recipe."""

from collections.abc import Mapping
from typing import ClassVar

from texallon.core.document.base import Name
from texallon.core.document.recipe import SignalRef
from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Source, Space, param
from texallon.core.ops.points import Points


class NamedSignal(Source):
    name: ClassVar[str] = "signal"
    category: ClassVar[str] = "values"
    purpose: ClassVar[str] = "A named signal of the project: change it once, and all that use it follow."
    phrase: ClassVar[str] = "{signal}"

    signal: Name = param(..., "The signal's name.", kind="signal")

    stand_ins: dict[Name, Space] = param(
        {}, "What stands in, here, for locators and objects that the signal measures from.", kind="stand-ins"
    )

    def second_inputs(self) -> Mapping[str, Input]:
        return {"signal": SignalRef(signal=self.signal, stand_ins=self.stand_ins)}

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return inputs["signal"]

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        out[:] = inputs["signal"]
