"""Multiply by a number, a colour or another signal: keep only what both have."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Joining, param


class Multiply(Joining):
    name: ClassVar[str] = "multiply"
    group: ClassVar[str] = "join"
    purpose: ClassVar[str] = "The product of two values: what both have."
    phrase: ClassVar[str] = "times {by}"
    signal_phrase: ClassVar[str] = "broken up by {by}"
    non_finite: ClassVar[str] = "NaN stays NaN; infinity times 0 is NaN (IEEE 754)."

    by: Input = param(1.0, "A number, a colour or a signal.", kind="input")

    def join(self, incoming: Array, by: Array, out: Array) -> None:
        np.multiply(incoming, by, out=out)
