"""What all fractal noises share: their parameters, octaves that fade before they alias, distortion, and three fields for a colour."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.base import Finite
from texallon.core.kernel import Array, Float, kernel
from texallon.core.ops.filtered import Filtered, Known
from texallon.core.ops.lattice import BASES, mixed, noise_octave, noise_octave_each
from texallon.core.ops.op import Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points

MEAN_SIZE = {"gradient": 0.212, "value": 0.330}
"""The mean of |noise| over many points, measured: what stands for an octave that is too fine to see."""

MEAN_SQUARE = {"gradient": 0.068, "value": 0.160}
"""The mean of noise², likewise."""


ASIDE = ((0.0, 0.0, 0.0), (0.37, 0.59, 0.71), (0.67, 0.31, 0.43))
"""Where the lattices of a colour's three fields stand: on one lattice all gradient noise is 0 at the same points."""


@dataclass(frozen=True)
class Octave:
    """One octave at some points: `noise (n,)` within about ±1; `kept (n,)` of it that a sample can show; its share 0…1.

    The last of a fractional number of octaves counts only by its `share`. Where nothing is kept, `noise` says nothing.
    """

    number: int
    step: float
    noise: Array
    kept: Array
    share: float


class Fractal(Filtered):
    """Octaves of noise put together in some way; a subclass says how in `combine`."""

    category: ClassVar[str] = "noise"
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."
    fresh: ClassVar[Mapping[str, object]] = {"spread": "full"}
    can_vary: ClassVar[tuple[str, ...]] = ("size", "evolution", "gain")
    bends: ClassVar[frozenset[str]] = frozenset({"size", "evolution"})
    shaped_by: ClassVar[str] = "gain"

    size: float = param(0.25, "Size of the largest features.", unit="m", above=0, high=1e6)
    scale: tuple[Finite, Finite, Finite] = param(
        (1.0, 1.0, 1.0), "Stretches the features along each axis; 2 makes them twice as long. 0 counts as 1."
    )
    octaves: float = param(
        4.0, "How many layers of ever finer noise; a fraction fades the last one in.", low=1, high=16
    )
    lacunarity: float = param(2.0, "How much finer each octave is than the one before.", low=1, high=16)
    evolution: Finite = param(0.0, "Changes the pattern in place, like a fourth dimension.")
    speed: Finite = param(0.0, "How much evolution a second of the shot adds.", unit="/s")
    distortion: float = param(0.0, "How far other noise moves the lookup, in sizes.", low=0, high=16)
    distortion_size: float = param(1.0, "Size of that noise, in sizes.", above=0, high=1e3)
    basis: Literal["gradient", "value"] = param("gradient", "Smooth and even, or blotchy and blocky.")
    fields: Literal["number", "colour"] = param("number", "One field, or three independent ones as a colour or vector.")
    spread: Literal["as is", "full", "even"] = param(
        "as is",
        "As is, sums of many octaves keep to the middle. Full: 0 and 1 are what only one in a hundred values lies beyond. "
        "Even: all values between are as frequent.",
    )
    seed: int = param(0, "Another seed, another pattern.", low=0, high=2**31 - 1)
    space: Space = param("world", "What the pattern sticks to.", kind="place")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def time_dependent(self) -> bool:
        return self.speed != 0

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.fields == "colour" else 1

    def unit(self) -> float:
        return float(self.size * min(abs(axis or 1.0) for axis in self.scale))

    def sharp(self) -> float:
        return float(0.25 / max(self.lacunarity, 1.0) ** (int(np.ceil(self.octaves)) - 1))

    def ends(self) -> tuple[float, float]:
        """What 0 and 1 become once values are spread."""
        return 0.0, 1.0

    def _pattern(self, points: Points, out: Array) -> None:
        self.raw(points, out)
        if self.spread == "as is":
            return
        plain = self.with_varied(self.varied, spread="as is")
        for part in plain.known_at(points):
            here = out[:, part.points]
            out[:, part.points] = part.of(partial(self._spread, here))

    def _spread(self, values: Array, found: Known) -> Array:
        """Values `(width, n)` of a distribution, as this one spreads them."""
        first, last = self.ends()
        edges = found.quantiles
        even = np.linspace(0, 1, len(edges))
        if self.spread == "full":
            low, high = np.interp([0.01, 0.99], even, edges)
            reach = (last - first) / max(high - low, 1e-12)
            return values * np.float32(reach) + np.float32(first - low * reach)
        share = np.interp(values, edges, even)
        made: Array = np.where(np.isfinite(values), first + share * (last - first), values).astype(np.float32)
        return made

    def raw(self, points: Points, out: Array) -> None:
        """The octaves put together, before they are spread.

        Parameters
        ----------
        points : Points
            Where the op is evaluated, with the data it asked for.
        out : Array
            `(width, n)`, filled.
        """
        for row in range(out.shape[0]):
            seed = self.seed if row == 0 else int(mixed(np.uint32(self.seed + row * 0x51ED270B & 0xFFFFFFFF)))
            self._combine(self.sum_of(points, seed, ASIDE[row]), points, out[row])

    def _combine(self, octaves: Iterator[Octave], points: Points, out: Array) -> None:
        """Fill `out (n,)` from the octaves, the largest features first.

        Parameters
        ----------
        octaves : Iterator[Octave]
            The largest features first.
        points : Points
            Where the op is evaluated; it may carry parameters that vary.
        out : Array
            `(width, n)`, filled.
        """
        raise NotImplementedError

    def sum_of(self, points: Points, seed: int, aside: tuple[float, float, float]) -> Iterator[Octave]:
        """The octaves, one after the other; each reuses the arrays of the one before. `aside` moves the lattice, in sizes.

        Parameters
        ----------
        points : Points
            Where the op is evaluated, with the data it asked for.
        seed : int
            Of the random numbers.
        aside : tuple
            How far the lattice is moved, in sizes.
        """
        varies = "size" in points.parameters
        size = 1.0 if varies else self.size  # what varies is divided by beforehand
        frequency = np.array([1.0 / (size * (axis or 1.0)) for axis in self.scale], np.float64)
        position = points.position(space_key(self.space))
        if varies:
            position = position / points.parameters["size"]
        position = self._distorted(position, frequency, seed)
        if any(aside):
            position = position + (np.array(aside) / frequency).astype(np.float32)[:, None]
        cycles = (
            self.widths(points)
            if points.parameters
            else points.footprint(space_key(self.space)) * np.float32(np.abs(frequency).max())
        )
        nearest, farthest = float(cycles.min(initial=np.inf)), float(cycles.max(initial=0))
        noise, kept = np.zeros(points.count, np.float32), np.ones(points.count, np.float32)
        grown = self.speed * points.time
        evolution = self.evolution + grown
        step = 1.0
        for number in range(int(np.ceil(self.octaves))):
            # Full up to a quarter of a cycle per footprint, gone at half a cycle (the sampling theorem's limit).
            if not 4 * step * farthest <= 1:
                share_kept(cycles, np.float32(4 * step), kept)
            if not 4 * step * nearest >= 2:
                scaled = (frequency * step).astype(np.float32)
                if "evolution" in points.parameters:
                    moments = (points.parameters["evolution"][0] + np.float32(grown)) * np.float32(step)
                    noise_octave_each(position, scaled, np.uint32(seed), number, moments, BASES[self.basis], noise)
                else:
                    moment = float(evolution * step)
                    noise_octave(position, scaled, np.uint32(seed), number, moment, BASES[self.basis], noise)
            yield Octave(number, step, noise, kept, min(self.octaves - number, 1.0))
            step *= self.lacunarity

    def _distorted(self, position: Array, frequency: np.ndarray, seed: int) -> Array:
        if self.distortion == 0:
            return position
        moved = np.empty_like(position)
        coarser = (frequency / self.distortion_size).astype(np.float32)
        for row in range(3):
            noise_octave(position, coarser, np.uint32(seed), 101 + row, 0.0, 0, moved[row])
            moved[row] *= np.float32(self.distortion / frequency[row])
        moved += position
        return moved


@kernel
def share_kept(cycles: Array, factor: Float, kept: Array) -> None:
    """Fill `kept` with 2 − factor × cycles, held within 0…1.

    Parameters
    ----------
    cycles : Array
        `(n,)` cycles to a footprint.
    factor : float
        How fast it fades.
    kept : Array
        `(n,)` share of the octave that is not faded, 0…1.
    """
    zero, one = np.float32(0), np.float32(1)
    for i in range(kept.shape[0]):
        kept[i] = min(max(np.float32(2) - factor * cycles[i], zero), one)
