"""Patterns that fade what is finer than a sample: what they fade to, and what is lost on the way.

A sample covers a footprint. A pattern finer than that becomes its mean, whatever its parameters: the mean, the spread and the
distribution of values are measured once for each set of parameters, on points spread evenly through many cells.

Steps that are not linear must be applied before the average, not after it: a threshold makes of faded noise all or nothing, but of a wet
ground far away the share that is wet. So a faded value stands for several: of patterns of one scale, values at places within the
sample, or anywhere once it is wider than all; of noise, what is left plus draws from the known distribution of what was faded away
(E. Heitz, D. Nowrouzezahrai, P. Poulin and F. Neyret, "Filtering Color Mapped Textures and Surfaces", I3D 2013, filter by the
distribution likewise; from memory); `signal.run` runs the steps on each and takes the mean.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache, partial
from typing import Any, ClassVar, Self

import numpy as np
import numpy.typing as npt
from annotated_types import Le
from pydantic import PrivateAttr

from texallon.core.derived import Cost, DerivedStore, derived
from texallon.core.document.recipe import Recipe, SignalRef
from texallon.core.kernel import Array, Int, Integers, kernel
from texallon.core.ops.lattice import mixed
from texallon.core.ops.op import Source, Space, change_of, footprint_in, position_in, space_key
from texallon.core.ops.points import Points

Floats = npt.NDArray[np.float64]

WIDTHS = 2.0 ** np.concatenate([np.arange(-10.0, -4.0), np.arange(-4.0, 0.0, 0.5), np.arange(0.0, 6.0)])
"""Footprints, in sizes of the pattern, at which a pattern is measured: closer where one-scale patterns fade."""

MEASURED, DRAWN = 2048, 32768
"""Points that means and spreads are measured on, and those that the distribution is."""

QUANTILES = 129
"""Even steps of the distribution that are kept."""

MISSED = 0.005
"""Share of a mean below which a difference is taken for chance, and a pattern left as it is."""

NOTICED = 0.04
"""Share of the whole spread below which what is lost does not matter."""


@dataclass(frozen=True)
class Known:
    """What is known of a pattern on the whole: `mean`, `deviation`, `quantiles (QUANTILES,)`, and how far from the mean these lie in
    deviations, `away`; and by width (see `at_width`) what must be added to keep the mean, `missed`, and the deviation of what is `lost`.
    """

    mean: float
    deviation: float
    quantiles: Floats
    away: Array
    missed: Array | None
    lost: Array


STEPS = 12
"""Steps of a parameter that shapes a pattern, to an octave of 1 + its value, at which it is measured."""


@dataclass(frozen=True)
class Part:
    """Some of the points, and what is known of a pattern there: `share (n,)` of `high`, the rest of `low`."""

    points: "slice | npt.NDArray[np.int64]"
    low: Known
    high: Known | None
    share: Array

    def of(self, read: Callable[[Known], Any]) -> Any:
        """Something that is known, at the part's points.

        Parameters
        ----------
        read : callable
            From what is known.
        """
        first = read(self.low)
        if self.high is None:
            return first
        return first + self.share * (read(self.high) - first)


def mean_of(found: Known) -> Any:
    """The mean, as a kernel's number.

    Parameters
    ----------
    found : Known
        Of a pattern.
    """
    return np.float32(found.mean)


def deviation_of(found: Known) -> Any:
    """The deviation, as a kernel's number.

    Parameters
    ----------
    found : Known
        Of a pattern.
    """
    return np.float32(found.deviation)


def lost_at(found: Known, width: Array) -> Array:
    """The deviation `(n,)` of what is lost at some widths.

    Parameters
    ----------
    found : Known
        Of a pattern.
    width : Array
        `(n,)` footprints in sizes of the pattern.

    Returns
    -------
    Array
        `(n,)`.
    """
    return at_width(width, found.lost)


def missed_at(found: Known, width: Array) -> Array:
    """What must be added `(n,)` at some widths to keep the mean.

    Parameters
    ----------
    found : Known
        Of a pattern.
    width : Array
        `(n,)` footprints in sizes of the pattern.

    Returns
    -------
    Array
        `(n,)`.
    """
    return np.zeros_like(width) if found.missed is None else at_width(width, found.missed)


class Filtered(Source):
    """A source with a size that fades where a sample is wider: `pattern` fills in values, which are then held to the known mean."""

    fades: ClassVar[bool] = True
    """Whether `pattern` itself goes to its mean, octave by octave; else it is faded here."""
    shaped_by: ClassVar[str] = ""
    """A parameter that may vary and changes the distribution of values."""
    gone: ClassVar[float] = 1.0
    """The width in sizes at which nothing of a pattern is left that is faded here; it begins to fade at half of that."""

    _found: Known | None = PrivateAttr(default=None)

    def unit(self) -> float:
        """The size that footprints are compared with, in the units of its space."""
        return float(self.size)  # type: ignore[attr-defined]

    def plain(self) -> "Filtered":
        """One of the same distribution, of size 1 in the world, without what only moves it about."""
        fields = type(self).model_fields
        moved: dict[str, Any] = {"size": 1.0, "seed": 0, "evolution": 0.0, "speed": 0.0, "space": "world"}
        return self.with_varied({}, **{name: value for name, value in moved.items() if name in fields})

    def known_at(self, points: Points) -> "list[Part]":
        """What is known of the pattern, by parts of the points: of one whose distribution varies from point to point, measured at even
        steps of what varies, each point having a share in two of them.

        Parameters
        ----------
        points : Points
            Where the op is evaluated, with the data it asked for.
        """
        if self.shaped_by not in points.parameters:
            return [Part(slice(None), self.found, None, np.zeros(1, np.float32))]
        # Even steps of the logarithm of 1 + gain: twelve to an octave, so that a step can't be seen.
        given = points.parameters[self.shaped_by][0]
        place = np.log2(np.maximum(np.float32(1) + given, np.float32(1))) * STEPS
        step = np.floor(np.where(np.isfinite(place), place, np.float32(0))).astype(np.int64)
        parts = []
        for number in np.unique(step):
            mine = np.flatnonzero(step == number)
            first, last = (self._held(2 ** (k / STEPS) - 1) for k in (int(number), int(number) + 1))
            low, high = (known(self.with_varied({}, **{self.shaped_by: value}).plain()) for value in (first, last))
            share = ((given[mine] - np.float32(first)) / np.float32(last - first or 1.0)).astype(np.float32)
            parts.append(Part(mine, low, high, share))
        return parts

    def _held(self, value: float) -> float:
        """A measured step of what varies, within the parameter's limits."""
        most = [each.le for each in type(self).model_fields[self.shaped_by].metadata if isinstance(each, Le)]
        return min(value, float(most[0])) if most else value  # type: ignore[arg-type]

    def sharp(self) -> float:
        """The width in sizes up to which nothing is lost."""
        return 0.01

    @property
    def found(self) -> Known:
        """What is known of the pattern, looked for once for each op."""
        if self._found is None:
            self._found = known(self.plain())
        return self._found

    def with_varied(self, varied: Mapping[str, SignalRef | Recipe], **changed: Any) -> Self:
        """The same op with parameters that vary; what is known of its pattern is looked for anew.

        Parameters
        ----------
        varied : mapping
            Signals by parameter.
        **changed : Any
            Other fields' values.
        """
        made = super().with_varied(varied, **changed)
        made._found = None
        return made

    def expected(self) -> float | None:
        """The mean over all places, where it is known without measuring."""
        return None

    def _pattern(self, points: Points, out: Array) -> None:
        """Fill `out (width, n)` for the points.

        Parameters
        ----------
        points : Points
            Where the op is evaluated, with the data it asked for.
        out : Array
            `(width, n)`, filled.
        """
        raise NotImplementedError

    def widths(self, points: Points) -> Array:
        """Footprints `(n,)` in sizes of the pattern.

        Parameters
        ----------
        points : Points
            Where the op is evaluated, with the data it asked for.

        Returns
        -------
        Array
            `(n,)`.
        """
        key = space_key(self.space)  # type: ignore[attr-defined]
        if "size" not in points.parameters:
            wide: Array = points.footprint(key) / np.float32(self.unit())
        else:
            # A lookup at p / size moves by a sample's width and, where the size changes, by p times the change of 1 / size besides: the
            # root of the mean square over the axes, as of a plain pattern whose neighbours differ as much.
            size, change = points.parameters["size"][0], points.parameters[change_of("size")][0]
            far = np.sqrt((points.position(key) ** 2).sum(axis=0))
            wide = np.hypot(points.footprint(key), far * change / size * np.float32(3**-0.5))
            wide = wide / (size * np.float32(self.unit() / self.size))  # type: ignore[attr-defined]
        if "evolution" in points.parameters:
            wide = np.hypot(wide, points.parameters[change_of("evolution")][0] * np.float32(3**-0.5))
        return wide if not points.parameters else np.nan_to_num(wide, nan=0.0, posinf=1e9)

    def _fill(self, points: Points, out: Array) -> None:
        self._pattern(points, out)
        width = self.widths(points)
        if not width.max(initial=0.0) > self.sharp():
            return
        for part in self.known_at(points):
            here = width[part.points]
            if not self.fades:
                out[:, part.points] += (np.float32(1) - self.kept(here)) * (part.of(mean_of) - out[:, part.points])
            if part.low.missed is not None or (part.high is not None and part.high.missed is not None):
                missed = part.of(partial(missed_at, width=here))
                out[:, part.points] += np.where(here > self.sharp(), missed, np.float32(0))

    def kept(self, width: Array) -> Array:
        """Share `(n,)` of a pattern faded here that is left at some widths.

        Parameters
        ----------
        width : Array
            `(n,)` footprint in the pattern's units.

        Returns
        -------
        Array
            `(n,)`.
        """
        left: Array = np.clip(np.float32(2) - np.float32(2 / self.gone) * width, 0, 1)
        return left

    def variants(self, points: Points, value: Array, count: int, salt: int) -> Array | None:
        """`count` values that a faded one stands for, `(width, count · n)`; nothing where too little is lost to matter.

        Parameters
        ----------
        points : Points
            Where the op is evaluated, with the data it asked for.
        value : Array
            Values at the given points.
        count : int
            Number of points, n.
        salt : int
            Tells one source's random numbers from another's.
        """
        width = self.widths(points)
        if not width.max(initial=0.0) > self.sharp():
            return None
        found = self.found
        # What is noticed is a matter of each point alone: nothing depends on which points are looked at together.
        lost, deviation = np.empty_like(width), np.empty_like(width)
        for part in self.known_at(points):
            here = width[part.points]
            lost[part.points] = part.of(partial(lost_at, width=here))
            deviation[part.points] = part.of(deviation_of)
        lost[~((lost > np.float32(NOTICED) * deviation) & (width > self.sharp()))] = 0.0
        if not lost.max(initial=0.0) > 0:
            return None
        kept, table = np.zeros(1, np.float32), found.away
        base, reach = value, lost
        if not self.fades:
            # One scale: what is faded away whole is any of its values, exactly as they are.
            kept, table = self.kept(width), found.quantiles.astype(np.float32)
            base, reach = np.zeros_like(value), np.ones_like(lost)
        apart = np.empty(points.count, np.float32)
        scatter(points.position(space_key(self.space)), np.uint32(salt), apart)  # type: ignore[attr-defined]
        made = np.empty((value.shape[0], count * points.count), np.float32)
        for place, number in enumerate(order_of(salt % 64, count)):
            mine = slice(place * points.count, (place + 1) * points.count)
            for row in range(value.shape[0]):
                draw(base[row], reach, apart, number, count, table, made[row, mine])
            if not self.fades:
                within = self._aside(points, value, number, salt) if kept.max() > 0 else value
                made[:, mine] = np.where(lost > 0, np.where(kept > 0, within, made[:, mine]), value)
        return made

    def _aside(self, points: Points, value: Array, number: int, salt: int) -> Array:
        """The pattern itself, sharp, at a place somewhere within each sample."""
        space: Space = self.space  # type: ignore[attr-defined]
        base, wide = position_in(space), footprint_in(space)
        position, aside = points.data[base], np.empty(points.count, np.float32)
        moved = position.copy()
        for row in range(position.shape[0]):
            scatter(points.position(space_key(space)), np.uint32(salt + 31 * number + 7 * row + 1), aside)
            moved[row] += (aside - np.float32(0.5)) * points.data[wide][0] * points.stretch(base)
        data = {**points.data, base: moved, wide: np.zeros_like(points.data[wide])}
        out = np.empty_like(value)
        there = Points(points.count, data, points.world_to_space, points.files, points.frame, points.time)
        self._pattern(there.with_parameters(points.parameters), out)
        return out


@cache
def order_of(salt: int, count: int) -> tuple[int, ...]:
    """Numbers below `count` in an order of a source's own, so that the variants of several sources don't go together.

    Parameters
    ----------
    salt : int
        Tells one source's random numbers from another's.
    count : int
        Number of points, n.
    """
    return tuple(int(k) for k in np.random.default_rng(salt).permutation(count))


FIRST, PER_OCTAVE = -11, 4
"""Tables by width start at 2 to this power, with so many even parts in each octave, up to 2⁵."""

NODES = np.concatenate([*[2.0**e * (1 + np.arange(PER_OCTAVE) / PER_OCTAVE) for e in range(FIRST, 5)], [32.0]])


def at_width(width: Array, table: Array) -> Array:
    """A table over `NODES` looked up at some widths `(n,)`; it is linear between them, and constant beyond.

    Parameters
    ----------
    width : Array
        `(n,)` footprint in the pattern's units.
    table : Array
        `(…, NODES)`.

    Returns
    -------
    Array
        `(n,)`.
    """
    found = np.empty_like(width)
    look_up_width(np.ascontiguousarray(width).view(np.int32), table, found)
    return found


@kernel
def look_up_width(bits: Integers, table: Array, out: Array) -> None:
    """A number's bits are its exponent and what lies between powers of two, so they are the place in the table.

    Parameters
    ----------
    bits : Integers
        `(n,)` widths, as the bits of float32.
    table : Array
        `(…, NODES)`.
    out : Array
        `(width, n)`, filled.
    """
    start = np.int32((127 + FIRST) << 23)
    last = np.int32(table.shape[0] - 1)
    unit = np.float32(2.0**-21)
    for i in range(out.shape[0]):
        place = np.float32(min(max(bits[i] - start, np.int32(0)), np.int32((last << 21) - 1))) * unit
        # The largest place rounds to the last node itself, and nothing lies beyond that: not even to be multiplied by 0.
        k = min(np.int32(place), last - np.int32(1))
        out[i] = table[k] + (place - np.float32(k)) * (table[k + 1] - table[k])


@kernel
def draw(value: Array, lost: Array, apart: Array, number: Int, count: Int, away: Array, out: Array) -> None:
    """Add what was lost, as the value of a distribution that lies at a share of it: one of `count` equal parts, somewhere within.

    Parameters
    ----------
    value : Array
        `(n,)` what is left of the pattern, changed in place.
    lost : Array
        `(n,)` variance that was faded.
    apart : Array
        Shape of its distribution.
    number : int
        Numbered from 0.
    count : int
        Of equal parts.
    away : Array
        `(n,)` how far it may lie from the mean.
    out : Array
        `(width, n)`, filled.
    """
    steps = np.float32(away.shape[0] - 1)
    scale = steps / np.float32(count)
    for i in range(out.shape[0]):
        # Every second part from its other end: together they keep to the mean.
        inside = apart[i] if number % 2 == 0 else np.float32(1) - apart[i]
        at = min((np.float32(number) + inside) * scale, steps - np.float32(1e-3))
        k = np.int32(at)
        out[i] = value[i] + lost[i] * (away[k] + (at - np.float32(k)) * (away[k + 1] - away[k]))


PATTERNS = DerivedStore(16_000_000)
"""What was measured of patterns: the same for all shots, a few kilobytes each, and kept apart, as ops know no store."""


def known(plain: Filtered) -> Known:
    """What is known of a pattern, measured once.

    Parameters
    ----------
    plain : Filtered
        The pattern without warps, at size 1.
    """
    return PATTERNS.value(measured.of(plain))


@derived("pattern", cost=Cost.INSTANT)
def measured(plain: Filtered) -> Known:
    """Measure a pattern; `plain` as `Filtered.plain` gives it.

    Parameters
    ----------
    plain : Filtered
        The pattern without warps, at size 1.
    """
    values = _values(plain, DRAWN, 0.0)
    mean, deviation = plain.expected(), float(values.std())
    mean = float(values.mean()) if mean is None else mean
    still = _values(plain, MEASURED, 0.0)
    mean_at, lost_at = [], []
    for width in WIDTHS:
        left = _values(plain, MEASURED, float(width))
        if not plain.fades:
            kept = min(max(2 - 2 * width / plain.gone, 0.0), 1.0)
            left = mean + kept * (left - mean)
        # On the same points as `still`, so that chance drops out of the difference until all is faded.
        share = min(float(left.std()) / max(deviation, 1e-12), 1.0)
        chance = (float(still.mean()) - mean) * share
        mean_at.append(float(left.mean()) - chance)
        lost_at.append(deviation * np.sqrt(max(1 - float(left.var()) / max(float(still.var()), 1e-30), 0.0)))
    quantiles = np.quantile(values, np.linspace(0, 1, QUANTILES))
    away = ((quantiles - mean) / max(deviation, 1e-12)).astype(np.float32)
    missed = mean - np.array(mean_at)
    missed[np.abs(missed) < MISSED * max(abs(mean), deviation)] = 0.0
    lost = _at_nodes(np.array(lost_at))
    return Known(mean, deviation, quantiles, away, _at_nodes(missed) if missed.any() else None, lost)


def _at_nodes(measured: Floats) -> Array:
    """Values at `WIDTHS` as a table over `NODES`; nothing is lost below the first."""
    spaces = np.concatenate([[float(FIRST)], np.log2(WIDTHS)])
    table: Array = np.interp(np.log2(NODES), spaces, np.concatenate([[0.0], measured])).astype(np.float32)
    return table


def _values(plain: Filtered, count: int, width: float) -> Floats:
    """Values at points spread evenly through a cube of 64 sizes (the additive recurrence of M. Roberts, 2018)."""
    root = 1.2207440846057596
    steps = np.array([1 / root, 1 / root**2, 1 / root**3])
    place = (0.5 + np.arange(1, count + 1)[:, None] * steps) % 1.0
    position = np.ascontiguousarray(((place - 0.5) * 64.0 + 0.37).T, np.float32)
    footprint = np.full((1, count), width, np.float32)
    out = np.empty((plain.result_width(0, {}), count), np.float32)
    with np.errstate(all="ignore"):
        plain._pattern(Points(count, {"position": position, "footprint": footprint}), out)
    found = out.astype(np.float64).ravel()
    return found[np.isfinite(found)] if np.isfinite(found).any() else np.zeros(1)


@kernel
def scatter(position: Array, salt: Int, out: Array) -> None:
    """An even number in 0…1 for each point, by its place.

    Parameters
    ----------
    position : Array
        `(3, n)` positions in `space`, in its units.
    salt : int
        Tells one source's random numbers from another's.
    out : Array
        `(width, n)`, filled.
    """
    for i in range(out.shape[0]):
        x = np.uint32(np.int32(position[0, i] * np.float32(7919.0))) * np.uint32(0x8DA6B343)
        y = np.uint32(np.int32(position[1, i] * np.float32(7907.0))) * np.uint32(0xD8163841)
        z = np.uint32(np.int32(position[2, i] * np.float32(7901.0))) * np.uint32(0xCB1AB31F)
        own = mixed(np.uint32(np.uint32(x ^ y ^ z) + salt))
        out[i] = np.float32(own >> np.uint32(8)) * np.float32(2.0**-24)
