"""Billow: the magnitude of noise summed over octaves, round above with creases below, like clouds and cobbles."""

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, Float, kernel
from texallon.core.ops.fractal import MEAN_SIZE, Fractal, Octave
from texallon.core.ops.noise import full_strength
from texallon.core.ops.op import param
from texallon.core.ops.points import Points


class Billow(Fractal):
    name: ClassVar[str] = "billow"
    purpose: ClassVar[str] = "Round swellings with creases between: clouds, cobbles, upholstery."
    reference: ClassVar[str] = "sum of |noise| (turbulence): Perlin, An Image Synthesizer, SIGGRAPH 1985"
    phrase: ClassVar[str] = "swellings of {size}"

    can_vary: ClassVar[tuple[str, ...]] = ("size", "evolution", "gain", "low", "high")
    ends_last: ClassVar[tuple[str, ...]] = ("low", "high")

    gain: float = param(0.5, "How strong each octave is compared with the one before.", low=0, high=1)
    low: Finite = param(0.0, "The value in the creases.")
    high: Finite = param(1.0, "The value that the highest tops could reach.")

    def ends(self) -> tuple[float, float]:
        return self.low, self.high

    def _combine(self, octaves: Iterator[Octave], points: Points, out: Array) -> None:
        out[:] = 0
        gain = points.parameters["gain"][0] if "gain" in points.parameters else self.gain
        strength = gain**0
        for octave in octaves:
            typical = np.float32(MEAN_SIZE[self.basis])
            if "gain" in points.parameters:
                swelling = typical + octave.kept * (np.abs(octave.noise) - typical)
                out += strength * np.float32(octave.share) * swelling
            else:
                add_swelling(octave.noise, octave.kept, np.float32(strength * octave.share), typical, out)
            strength = strength * gain
        out *= np.asarray((self.high - self.low) / full_strength(self.octaves, gain), np.float32)
        out += np.float32(self.low)


@kernel
def add_swelling(noise: Array, kept: Array, strength: Float, typical: Float, out: Array) -> None:
    """One octave more, its absolute value.

    Parameters
    ----------
    noise : Array
        `(n,)` one octave, within about ±1.
    kept : Array
        `(n,)` share of the octave that is not faded, 0…1.
    strength : float
        Of this octave.
    typical : float
        Mean square or size of an octave, to be left for one that faded.
    out : Array
        `(width, n)`, filled.
    """
    for i in range(out.shape[0]):
        out[i] += strength * (typical + kept[i] * (abs(noise[i]) - typical))
