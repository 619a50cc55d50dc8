"""Noise summed over octaves (fractal Brownian motion): the irregularity of natural things."""

from collections.abc import Iterator
from typing import Any, ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, Float, kernel
from texallon.core.ops.fractal import Fractal, Octave
from texallon.core.ops.op import param
from texallon.core.ops.points import Points


class Noise(Fractal):
    name: ClassVar[str] = "noise"
    purpose: ClassVar[str] = "Smooth irregular variation: noise summed over octaves (fBm)."
    reference: ClassVar[str] = "Perlin, Improving Noise, SIGGRAPH 2002; Ebert et al., Texturing and Modeling (fBm)"
    phrase: ClassVar[str] = "noise of {size}"

    can_vary: ClassVar[tuple[str, ...]] = ("size", "evolution", "gain", "low", "high")
    ends_last: ClassVar[tuple[str, ...]] = ("low", "high")

    gain: float = param(0.5, "How strong each octave is compared with the one before.", low=0, high=1)
    low: Finite = param(0.0, "The value where the noise is −1, or lowest once it is spread.")
    high: Finite = param(1.0, "The value where the noise is +1, or highest once it is spread.")

    def ends(self) -> tuple[float, float]:
        return self.low, self.high

    def _combine(self, octaves: Iterator[Octave], points: Points, out: Array) -> None:
        """The sum divided by the sum of all strengths, so that it stays within ±1, mapped to `low`…`high`."""
        out[:] = 0
        gain = points.parameters["gain"][0] if "gain" in points.parameters else self.gain
        strength = gain**0
        for octave in octaves:
            if "gain" in points.parameters:
                out += strength * np.float32(octave.share) * octave.kept * octave.noise
            else:
                add_octave(octave.noise, octave.kept, np.float32(strength * octave.share), out)
            strength = strength * gain
        reach = (self.high - self.low) / 2 / full_strength(self.octaves, gain)
        np.multiply(out, np.asarray(reach, np.float32), out=out)
        np.add(out, np.float32((self.high + self.low) / 2), out=out)


def full_strength(octaves: float, gain: Any) -> Any:
    """The sum of the strengths of all octaves: 1 + gain + gain² …, the last by its share.

    Parameters
    ----------
    octaves : float
        The largest features first.
    gain : float or Array
        Strength of an octave over that of the one before; `(n,)` where it varies.
    """
    return sum(gain**number * min(octaves - number, 1.0) for number in range(int(np.ceil(octaves))))


@kernel
def add_octave(noise: Array, kept: Array, strength: Float, out: Array) -> None:
    """One octave more.

    Parameters
    ----------
    noise : Array
        `(n,)` one octave, within about ±1.
    kept : Array
        `(n,)` share of the octave that is not faded, 0…1.
    strength : float
        Of this octave.
    out : Array
        `(width, n)`, filled.
    """
    for i in range(out.shape[0]):
        out[i] += strength * kept[i] * noise[i]
