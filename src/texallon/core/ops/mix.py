"""Go part of the way from the incoming value to another."""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Input, Modifier, format_input, param
from texallon.core.ops.points import Points


class Mix(Modifier):
    name: ClassVar[str] = "mix"
    category: ClassVar[str] = "join"
    purpose: ClassVar[str] = "Blend towards another value: 0 keeps the incoming one, 1 takes the other."
    reference: ClassVar[str] = "linear interpolation a + t (b − a)"
    phrase: ClassVar[str] = "mixed with {other} by {amount}"

    other: Input = param(1.0, "A number, a colour or a signal.", kind="input")
    amount: Input = param(0.5, "How much of the other; not clamped.", kind="scalar input")

    def second_inputs(self) -> Mapping[str, Input]:
        return {"other": self.other, "amount": self.amount}

    def affine_in(self, varying: frozenset[str]) -> bool:
        return "amount" not in varying or len(varying) == 1

    def scalar_inputs(self) -> frozenset[str]:
        return frozenset({"amount"})

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        return f"took {format_input(self.other)} whole: the amount is 1" if np.all(inputs["amount"] == 1) else ""

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        np.subtract(inputs["other"], incoming, out=out)
        np.multiply(out, inputs["amount"], out=out)
        np.add(out, incoming, out=out)
