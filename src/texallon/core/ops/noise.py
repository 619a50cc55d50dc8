"""Gradient noise, summed over octaves (fractal Brownian motion): the irregularity of natural things.

One octave is Perlin's noise with the quintic fade and twelve edge gradients (K. Perlin, "Improving Noise",
SIGGRAPH 2002), its lattice hashed by integer arithmetic in place of a permutation table so that a loop over
points becomes vector code. Octaves finer than a point's footprint fade out before they can alias.
"""

from typing import ClassVar

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, Real, Whole, inlined, kernel
from texallon.core.ops.op import Place, Source, param, place_key, position_in
from texallon.core.ops.points import Points

GREATEST = 1.0363538112118038
"""The largest magnitude of Perlin's 2002 noise with edge gradients; dividing by it bounds an octave by ±1."""


class Noise(Source):
    name: ClassVar[str] = "noise"
    purpose: ClassVar[str] = "Smooth irregular variation: gradient noise summed over octaves (fBm)."
    reference: ClassVar[str] = "Perlin, Improving Noise, SIGGRAPH 2002; Ebert et al., Texturing and Modeling (fBm)"
    phrase: ClassVar[str] = "noise of {size}"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    size: float = param(0.25, "Size of the largest features.", unit="m", above=0, high=1e6)
    scale: tuple[Finite, Finite, Finite] = param(
        (1.0, 1.0, 1.0), "Stretches the features along each axis; 2 makes them twice as long. 0 counts as 1."
    )
    octaves: int = param(4, "How many layers of ever finer noise are summed.", low=1, high=16)
    lacunarity: float = param(2.0, "How much finer each octave is than the one before.", low=1, high=8)
    gain: float = param(0.5, "How strong each octave is compared with the one before.", low=0, high=1)
    low: Finite = param(0.0, "The value where the noise is −1.")
    high: Finite = param(1.0, "The value where the noise is +1.")
    seed: int = param(0, "Another seed, another pattern.", low=0, high=2**31 - 1)
    space: Place = param("world", "What the pattern sticks to.", kind="place")

    def needs(self) -> frozenset[str]:
        return frozenset({position_in(self.space), "footprint"})

    def places(self) -> tuple[Place, ...]:
        return (self.space,)

    def fill(self, points: Points, out: Array) -> None:
        frequency = np.array([1.0 / (self.size * (axis or 1.0)) for axis in self.scale], np.float32)
        fractal_sum(
            points.position(place_key(self.space)),
            points.data["footprint"][0],
            frequency,
            self.octaves,
            np.float32(self.lacunarity),
            np.float32(self.gain),
            np.float32(self.low),
            np.float32(self.high),
            np.uint32(self.seed),
            out[0],
        )


@inlined
def mixed(n: Whole) -> Whole:
    """A well-mixed 32-bit number (the finaliser of MurmurHash3, A. Appleby, public domain)."""
    n = np.uint32(np.uint32(n ^ (n >> np.uint32(16))) * np.uint32(0x85EBCA6B))
    n = np.uint32(np.uint32(n ^ (n >> np.uint32(13))) * np.uint32(0xC2B2AE35))
    return np.uint32(n ^ (n >> np.uint32(16)))


@inlined
def corner_hash(x: Whole, y: Whole, z: Whole) -> Whole:
    """Four well-mixed bits for a lattice point whose coordinates have been multiplied by the seed's odd numbers."""
    h = np.uint32(x ^ y ^ z)
    return np.uint32(np.uint32(h ^ (h >> np.uint32(15))) * np.uint32(0x2C1B3C6D)) >> np.uint32(28)


@inlined
def edge_gradient(bits: Whole, x: Real, y: Real, z: Real) -> Real:
    """Dot product with one of the twelve edges of a cube, chosen by four bits (Perlin 2002)."""
    u = x if bits < 8 else y
    v = y if bits < 4 else (x if (bits & np.uint32(13)) == 12 else z)
    u = u if (bits & np.uint32(1)) == 0 else -u
    v = v if (bits & np.uint32(2)) == 0 else -v
    return u + v


@inlined
def fade(t: Real) -> Real:
    """6t⁵ − 15t⁴ + 10t³: flat to the second derivative at 0 and 1."""
    return t * t * t * (t * (t * np.float32(6) - np.float32(15)) + np.float32(10))


@inlined
def gradient_noise(x: Real, y: Real, z: Real, kx: Whole, ky: Whole, kz: Whole) -> Real:
    """One octave at a point, within ±1 and 0 at whole coordinates; `kx`, `ky`, `kz` are odd numbers that make the seed."""
    one = np.float32(1)
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    rx, ry, rz = x - fx, y - fy, z - fz
    ix, iy = np.uint32(np.uint32(np.int32(fx)) * kx), np.uint32(np.uint32(np.int32(fy)) * ky)
    iz = np.uint32(np.uint32(np.int32(fz)) * kz)
    jx, jy, jz = np.uint32(ix + kx), np.uint32(iy + ky), np.uint32(iz + kz)
    u, v, w = fade(rx), fade(ry), fade(rz)
    a = edge_gradient(corner_hash(ix, iy, iz), rx, ry, rz)
    b = edge_gradient(corner_hash(jx, iy, iz), rx - one, ry, rz)
    c = edge_gradient(corner_hash(ix, jy, iz), rx, ry - one, rz)
    d = edge_gradient(corner_hash(jx, jy, iz), rx - one, ry - one, rz)
    e = edge_gradient(corner_hash(ix, iy, jz), rx, ry, rz - one)
    f = edge_gradient(corner_hash(jx, iy, jz), rx - one, ry, rz - one)
    g = edge_gradient(corner_hash(ix, jy, jz), rx, ry - one, rz - one)
    h = edge_gradient(corner_hash(jx, jy, jz), rx - one, ry - one, rz - one)
    near = a + u * (b - a) + v * ((c + u * (d - c)) - (a + u * (b - a)))
    far = e + u * (f - e) + v * ((g + u * (h - g)) - (e + u * (f - e)))
    return (near + w * (far - near)) * np.float32(1 / GREATEST)


@kernel
def fractal_sum(
    position: Array,
    footprint: Array,
    frequency: Array,
    octaves: Whole,
    lacunarity: Real,
    gain: Real,
    low: Real,
    high: Real,
    seed: Whole,
    out: Array,
) -> None:
    """Sum of octaves divided by the sum of their strengths, so that it stays within ±1, mapped to `low`…`high`.

    The loop over octaves is outside and the one over points inside: that order is what the compiler vectorises.
    """
    count = out.shape[0]
    total = np.float32(0)
    strength = np.float32(1)
    step = np.float32(1)
    finest = max(abs(frequency[0]), abs(frequency[1]), abs(frequency[2]))
    half, zero, one = np.float32(0.5), np.float32(0), np.float32(1)
    for i in range(count):
        out[i] = zero
    for octave in range(octaves):
        own = mixed(np.uint32(seed + np.uint32(octave * 0x9E3779B9 + 0x1B873593)))
        # Odd numbers, so that no two lattice points along an axis share one.
        kx, ky, kz = np.uint32(own | np.uint32(1)), mixed(own) | np.uint32(1), mixed(mixed(own)) | np.uint32(1)
        ax, ay, az = frequency[0] * step, frequency[1] * step, frequency[2] * step
        falloff = np.float32(4) * finest * step
        for i in range(count):
            # Full up to a quarter of a cycle per footprint, gone at half a cycle (the sampling theorem's limit).
            kept = min(max(np.float32(2) - falloff * footprint[i], zero), one)
            n = gradient_noise(position[0, i] * ax, position[1, i] * ay, position[2, i] * az, kx, ky, kz)
            out[i] += strength * kept * n
        total += strength
        strength *= gain
        step *= lacunarity
    middle = (low + high) * half
    reach = (high - low) * half / total
    for i in range(count):
        out[i] = middle + reach * out[i]
