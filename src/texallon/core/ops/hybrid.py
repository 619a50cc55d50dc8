"""Hybrid multifractal noise: plains that stay smooth beside heights that are rough, as weathered land is.

F. K. Musgrave's function in Ebert et al., *Texturing and Modeling: A Procedural Approach*: octaves of (noise + offset) whose
weight is the product of those before, never above 1, so that detail gathers where the coarse octaves are high.
"""

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array, Float, kernel
from texallon.core.ops.fractal import Fractal, Octave
from texallon.core.ops.op import param, row_of
from texallon.core.ops.points import Points


class Hybrid(Fractal):
    name: ClassVar[str] = "hybrid"
    purpose: ClassVar[str] = "Smooth where low and rough where high: weathered ground, deposits, eroded stone."
    reference: ClassVar[str] = "Musgrave's hybrid multifractal; Ebert et al., Texturing and Modeling, 3rd edition"
    phrase: ClassVar[str] = "weathered ground of {size}"

    octaves: float = param(
        6.0, "How many layers of ever finer noise; a fraction fades the last one in.", low=1, high=16
    )
    dimension: float = param(0.25, "H: how fast octaves weaken; higher is smoother.", low=0, high=4)
    offset: float = param(0.7, "Raises the noise: higher is rough everywhere, 0 only at the peaks.", low=-1, high=4)
    gain: float = param(1.0, "How strongly an octave lets the next one through.", low=0, high=64)

    def _combine(self, octaves: Iterator[Octave], points: Points, out: Array) -> None:
        weight = np.ones(points.count, np.float32)
        gain = row_of(self.gain, points.parameters, "gain", points.count)
        out[:] = 0
        for octave in octaves:
            strength = np.float32(octave.share * octave.step**-self.dimension)
            add_weathering(octave.noise, octave.kept, strength, np.float32(self.offset), gain, weight, out)


@kernel
def add_weathering(
    noise: Array, kept: Array, strength: Float, offset: Float, gain: Array, weight: Array, out: Array
) -> None:
    """One octave more; `weight (n,)` is the product of what came before, held at 1 before it is used.

    Parameters
    ----------
    noise : Array
        `(n,)` one octave, within about ±1.
    kept : Array
        `(n,)` share of the octave that is not faded, 0…1.
    strength : float
        Of this octave.
    offset : float
        Added to each octave before it is weighted.
    gain : Array
        `(n,)` strength of an octave over that of the one before.
    weight : Array
        `(n,)` of this octave, changed for the next.
    out : Array
        `(width, n)`, filled.
    """
    one = np.float32(1)
    for i in range(out.shape[0]):
        signal = (kept[i] * noise[i] + offset) * strength
        before = min(weight[i], one)
        out[i] += before * signal
        weight[i] = before * signal * gain[i]
