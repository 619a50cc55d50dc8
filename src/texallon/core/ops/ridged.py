"""Ridged multifractal noise: sharp crests that are rough where they are high and smooth in the valleys.

F. K. Musgrave's function in Ebert et al., *Texturing and Modeling: A Procedural Approach*: each octave is (offset − |noise|)²,
weighted by the octave before it. Octave strengths fall by lacunarity to the power −H.
"""

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array, Float, kernel
from texallon.core.ops.fractal import MEAN_SIZE, MEAN_SQUARE, Fractal, Octave
from texallon.core.ops.op import param, row_of
from texallon.core.ops.points import Points


class Ridged(Fractal):
    name: ClassVar[str] = "ridged"
    purpose: ClassVar[str] = "Sharp crests, rough where high: mountain ridges, veins, cracked ice."
    reference: ClassVar[str] = "Musgrave's ridged multifractal; Ebert et al., Texturing and Modeling, 3rd edition"
    phrase: ClassVar[str] = "ridges of {size}"

    octaves: float = param(
        6.0, "How many layers of ever finer noise; a fraction fades the last one in.", low=1, high=16
    )
    dimension: float = param(1.0, "H: how fast octaves weaken; higher is smoother.", low=0, high=4)
    offset: float = param(1.0, "The height of the crests before squaring.", low=-1, high=4)
    gain: float = param(2.0, "How strongly an octave lets the next one through.", low=0, high=64)

    def _combine(self, octaves: Iterator[Octave], points: Points, out: Array) -> None:
        weight = np.ones(points.count, np.float32)
        gain = row_of(self.gain, points.parameters, "gain", points.count)
        out[:] = 0
        typical = self.offset**2 - 2 * self.offset * MEAN_SIZE[self.basis] + MEAN_SQUARE[self.basis]
        for octave in octaves:
            strength = np.float32(octave.share * octave.step**-self.dimension)
            add_ridges(
                octave.noise, octave.kept, strength, np.float32(self.offset), gain, np.float32(typical),
                weight, out,
            )  # fmt: skip


@kernel
def add_ridges(
    noise: Array, kept: Array, strength: Float, offset: Float, gain: Array, typical: Float, weight: Array, out: Array
) -> None:
    """One octave more; `weight (n,)` holds each point's weight for this octave and then for the next.

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
    typical : float
        Mean square or size of an octave, to be left for one that faded.
    weight : Array
        `(n,)` of this octave, changed for the next.
    out : Array
        `(width, n)`, filled.
    """
    zero, one = np.float32(0), np.float32(1)
    for i in range(out.shape[0]):
        crest = offset - abs(noise[i])
        crest = (kept[i] * crest * crest + (one - kept[i]) * typical) * weight[i]
        out[i] += crest * strength
        weight[i] = min(max(crest * gain[i], zero), one)
