"""Multiply by a number, a colour or another signal: keep only what both have."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import BinaryOp, Input, format_input, param


class Multiply(BinaryOp):
    name: ClassVar[str] = "multiply"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "The product of two values: what both have."
    phrase: ClassVar[str] = "times {by}"
    signal_phrase: ClassVar[str] = "broken up by {by}"
    non_finite: ClassVar[str] = "NaN stays NaN; infinity times 0 is NaN (IEEE 754)."

    by: Input = param(1.0, "A number, a colour or a signal.", kind="input")

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        return f"made this 0: times 0 from {format_input(self.by)}" if not np.any(inputs["by"]) else ""

    def affine_in(self, varying: frozenset[str]) -> bool:
        return len(varying) == 1

    def _join(self, incoming: Array, by: Array, out: Array) -> None:
        np.multiply(incoming, by, out=out)
