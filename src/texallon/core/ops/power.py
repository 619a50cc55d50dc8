"""Raise to a power: press a mask towards its dark or its bright end.

A negative value to a power that is no whole number has no real result and gives 0; an even power turns negative values
positive, which undoes an inversion (common practice knows this as a trap).
"""

from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array, Float, kernel
from texallon.core.ops.op import Modifier, format_input, param
from texallon.core.ops.points import Points


class Power(Modifier):
    name: ClassVar[str] = "power"
    category: ClassVar[str] = "range"
    purpose: ClassVar[str] = "The value to a power: above 1 keeps only the brightest, below 1 spreads it out."
    reference: ClassVar[str] = (
        "definition; 0 for a negative base with an exponent that is no whole number, unless its sign is kept"
    )
    phrase: ClassVar[str] = "to the power of {exponent}"
    non_finite: ClassVar[str] = "NaN stays NaN; 0 to a negative power gives 0."

    can_vary: ClassVar[tuple[str, ...]] = ("exponent",)

    exponent: float = param(2.0, "The exponent.", low=-64, high=64)
    keep_sign: bool = param(
        False, "Whether what is negative stays so, at the size that its positive would have: −|x|^e."
    )

    def verdict(self, incoming: Array, inputs: Mapping[str, Array], out: Array) -> str:
        x = float(incoming[0, 0])
        whole = float(self.exponent).is_integer() or self.keep_sign
        return (
            f"made this 0: {format_input(x)} < 0 has no power of {format_input(self.exponent)}"
            if x < 0 and not whole
            else ""
        )

    def _run(self, points: Points, incoming: Array, inputs: Mapping[str, Array], out: Array) -> None:
        if self.keep_sign:
            sizes = np.abs(incoming)
            plain = self.model_copy(update={"keep_sign": False})
            plain.run(points, sizes, inputs, out)
            np.copyto(out, -out, where=incoming < 0)
            return
        if "exponent" in inputs:
            for row in range(out.shape[0]):
                power_each(incoming[row], inputs["exponent"][0], out[row])
            return
        for row in range(out.shape[0]):
            power(incoming[row], np.float32(self.exponent), out[row])


@kernel
def power_each(incoming: Array, exponents: Array, out: Array) -> None:
    """As `power`, to an exponent of its own at each point.

    Parameters
    ----------
    incoming : Array
        `(1 or 3, n)` values of the step before; `(0, n)` for a source.
    exponents : Array
        `(n,)` of the powers.
    out : Array
        `(width, n)`, filled.
    """
    for i in range(out.shape[0]):
        x, exponent = incoming[i], exponents[i]
        whole = np.floor(exponent) == exponent
        if x > 0 or x != x or exponent != exponent:
            out[i] = x**exponent if exponent == exponent else exponent
        elif x == 0:
            out[i] = np.float32(1) if exponent == 0 else np.float32(0)
        elif whole:
            size = (-x) ** exponent
            out[i] = -size if np.floor(exponent / 2) * 2 != exponent else size
        else:
            out[i] = np.float32(0)


@kernel
def power(incoming: Array, exponent: Float, out: Array) -> None:
    """A power; of a negative base with a fractional exponent it is 0.

    Parameters
    ----------
    incoming : Array
        `(1 or 3, n)` values of the step before; `(0, n)` for a source.
    exponent : float
        Of the power.
    out : Array
        `(width, n)`, filled.
    """
    whole = np.floor(exponent) == exponent
    odd = whole and np.floor(exponent / 2) * 2 != exponent
    for i in range(out.shape[0]):
        x = incoming[i]
        if x > 0 or x != x:
            out[i] = x**exponent
        elif x == 0:
            out[i] = np.float32(1) if exponent == 0 else np.float32(0)
        elif whole:
            size = (-x) ** exponent
            out[i] = -size if odd else size
        else:
            out[i] = np.float32(0)
