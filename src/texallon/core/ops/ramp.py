"""A ramp: values read off a row of stops, numbers or colours."""

from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, Whole, kernel
from texallon.core.ops.op import Colour, Refinement, param
from texallon.core.ops.points import Points

INTERPOLATIONS = {"constant": 0, "linear": 1, "smooth": 2}


class Stop(BaseModel):
    """A value at a place on the ramp."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    at: Finite
    value: Finite | Colour


class Ramp(Refinement):
    name: ClassVar[str] = "ramp"
    purpose: ClassVar[str] = "Read a number or colour off a row of stops; the end stops hold beyond the ends."
    reference: ClassVar[str] = "piecewise interpolation; smooth is 3t²−2t³ between neighbours"
    phrase: ClassVar[str] = "as {stops}"
    scalar_only: ClassVar[bool] = True

    stops: Annotated[tuple[Stop, ...], Field(min_length=1, max_length=64)] = param(
        (Stop(at=0.0, value=0.0), Stop(at=1.0, value=1.0)), "The stops, in order of `at`.", kind="stops"
    )
    interpolation: Literal["constant", "linear", "smooth"] = param("linear", "How it goes from stop to stop.")

    @model_validator(mode="after")
    def _in_order(self) -> "Ramp":
        places = [stop.at for stop in self.stops]
        if places != sorted(places):
            raise ValueError("the stops are not in order of `at`")
        return self

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if any(isinstance(stop.value, tuple) for stop in self.stops) else 1

    def run(self, points: Points, incoming: Array, inputs: object, out: Array) -> None:
        at = np.array([stop.at for stop in self.stops], np.float32)
        for row in range(out.shape[0]):
            picked = [stop.value[row] if isinstance(stop.value, tuple) else stop.value for stop in self.stops]
            ramp(incoming[0], at, np.array(picked, np.float32), INTERPOLATIONS[self.interpolation], out[row])


@kernel
def ramp(incoming: Array, at: Array, value: Array, interpolation: Whole, out: Array) -> None:
    """Stops outside, points inside; two stops at one place make a hard edge there. NaN stays NaN."""
    zero, one = np.float32(0), np.float32(1)
    for i in range(out.shape[0]):
        out[i] = value[0] if incoming[i] == incoming[i] else incoming[i]
    for k in range(at.shape[0] - 1):
        start, gap = at[k], at[k + 1] - at[k]
        rise = value[k + 1] - value[k]
        for i in range(out.shape[0]):
            x = incoming[i] - start
            t = (one if gap <= zero else min(x / gap, one)) if x >= zero else zero
            if interpolation == 0:
                t = zero if x < gap else one
            elif interpolation == 2:
                t = t * t * (np.float32(3) - np.float32(2) * t)
            if x >= zero:
                out[i] = value[k] + t * rise
