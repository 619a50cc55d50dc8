"""An expression over the point's data and named signals, for what no other op says in one line.

`length(position - camera) / 40` is a fog ramp. See `texallon.core.ops.expression` for what may be written.
"""

from collections.abc import Mapping
from functools import cached_property
from typing import ClassVar

import numpy as np
from pydantic import Field, field_validator

from texallon.core.document.recipe import SignalRef
from texallon.core.kernel import Array
from texallon.core.ops.expression import FormulaError, Parsed, parse
from texallon.core.ops.op import Input, Source, Space, WrongParameterError
from texallon.core.ops.points import Points


class Formula(Source):
    name: ClassVar[str] = "formula"
    category: ClassVar[str] = "values"
    purpose: ClassVar[str] = "A formula of position, normal, uv, view, distance, time, frame and signals."
    reference: ClassVar[str] = "a subset of Python's expressions; a negative base to a fractional power is 0"
    phrase: ClassVar[str] = "{expression}"
    non_finite: ClassVar[str] = "As the formula says (IEEE 754): 1 / 0 is infinite, 0 / 0 is NaN."

    expression: str = Field(
        "length(position - camera) / 40",
        description='Such as clamp(position.y / 2, 0, 1) * signal("damp").',
        min_length=1,
        max_length=1000,
        json_schema_extra={"unit": "", "kind": "formula"},
    )

    @field_validator("expression")
    @classmethod
    def _can_be_read(cls, text: str) -> str:
        parse(text)
        return text

    @cached_property
    def parsed(self) -> Parsed:
        return parse(self.expression)

    def required_data(self) -> frozenset[str]:
        return self.parsed.required_data

    def spaces(self) -> tuple[Space, ...]:
        return ("camera",) if self.parsed.uses_camera else ()

    def time_dependent(self) -> bool:
        return self.parsed.time_dependent

    def second_inputs(self) -> Mapping[str, Input]:
        return {f"signal {name}": SignalRef(signal=name) for name in self.parsed.signals}

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        try:
            return self.parsed.width({name.removeprefix("signal "): width for name, width in inputs.items()})
        except FormulaError as error:
            raise WrongParameterError("expression", str(error), character=error.at) from None

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        given = {name.removeprefix("signal "): values for name, values in inputs.items()}
        out[:] = np.asarray(self.parsed.values(points, given), np.float32)
