"""Ridged multifractal noise: sharp crests that are rough where they are high and smooth in the valleys.

F. K. Musgrave's function in Ebert et al., *Texturing and Modeling: A Procedural Approach*: each octave is (offset − |noise|)²,
weighted by the octave before it. Octave strengths fall by lacunarity to the power −H.
"""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array, Real, Whole, kernel
from texallon.core.ops.noise import gradient_noise, mixed
from texallon.core.ops.op import Place, Source, param, place_key, position_in
from texallon.core.ops.points import Points


class Ridged(Source):
    name: ClassVar[str] = "ridged"
    purpose: ClassVar[str] = "Sharp crests, rough where high: mountain ridges, veins, cracked ice."
    reference: ClassVar[str] = "Musgrave's ridged multifractal; Ebert et al., Texturing and Modeling, 3rd edition"
    phrase: ClassVar[str] = "ridges of {size}"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    size: float = param(0.25, "Size of the largest features.", unit="m", above=0, high=1e6)
    octaves: int = param(6, "How many layers of ever finer noise are summed.", low=1, high=16)
    lacunarity: float = param(2.0, "How much finer each octave is than the one before.", low=1, high=8)
    dimension: float = param(1.0, "H: how fast octaves weaken; higher is smoother.", low=0, high=4)
    offset: float = param(1.0, "The height of the crests before squaring.", low=0, high=4)
    gain: float = param(2.0, "How strongly an octave lets the next one through.", low=0, high=16)
    seed: int = param(0, "Another seed, another pattern.", low=0, high=2**31 - 1)
    space: Place = param("world", "What the pattern sticks to.", kind="place")

    def needs(self) -> frozenset[str]:
        return frozenset({position_in(self.space), "footprint"})

    def places(self) -> tuple[Place, ...]:
        return (self.space,)

    def fill(self, points: Points, out: Array) -> None:
        weight = np.empty(points.count, np.float32)
        ridged_sum(
            points.position(place_key(self.space)),
            points.data["footprint"][0],
            np.float32(1 / self.size),
            self.octaves,
            np.float32(self.lacunarity),
            np.float32(self.dimension),
            np.float32(self.offset),
            np.float32(self.gain),
            np.uint32(self.seed),
            weight,
            out[0],
        )


@kernel
def ridged_sum(
    position: Array,
    footprint: Array,
    frequency: Real,
    octaves: Whole,
    lacunarity: Real,
    dimension: Real,
    offset: Real,
    gain: Real,
    seed: Whole,
    weight: Array,
    out: Array,
) -> None:
    """Octaves outside, points inside; `weight (n,)` holds each point's weight for the next octave."""
    zero, one = np.float32(0), np.float32(1)
    step = np.float32(1)
    for octave in range(octaves):
        own = mixed(np.uint32(seed + np.uint32(octave * 0x9E3779B9 + 0x1B873593)))
        kx, ky, kz = np.uint32(own | np.uint32(1)), mixed(own) | np.uint32(1), mixed(mixed(own)) | np.uint32(1)
        strength = np.float32(step**-dimension)
        scale = frequency * step
        falloff = np.float32(4) * scale
        for i in range(out.shape[0]):
            n = gradient_noise(position[0, i] * scale, position[1, i] * scale, position[2, i] * scale, kx, ky, kz)
            crest = offset - abs(n)
            crest = crest * crest
            before = one if octave == 0 else weight[i]
            crest = crest * before
            kept = min(max(np.float32(2) - falloff * footprint[i], zero), one)
            out[i] = (zero if octave == 0 else out[i]) + crest * strength * kept
            weight[i] = min(max(crest * gain, zero), one)
        step *= lacunarity
