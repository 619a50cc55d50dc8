"""A volume's values in bricks, filled as rays need them: what has been looked at once costs nothing to look at again.

Bricks of 8³ cells hold the values at their 9³ corners in 16 bits, between the least and the largest of each. What is rendered is the medium
that these values make, linearly between corners: so a brick's largest value bounds all of it, and no bound is ever exceeded.
"""

import threading
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Integers
from texallon.core.render.volume.grid import Grid
from texallon.core.render.volume.quantities import (
    ABSORPTION,
    DENSITY,
    EMISSION,
    EMPTY,
    GLOW,
    HEADER,
    LEAST_ABSORPTION,
    LEAST_EXTINCTION,
    MISSING,
    MOST_RESIDUAL,
    MOST_REST,
    RECENT,
    SCATTERING,
    SHARP,
    VALUES,
)
from texallon.core.render.volume.source_values import OF_GRID, Bricks

BUDGET = 400_000_000
"""Bytes of one volume's bricks, unless given."""

FIRST = 64
"""Bricks that room is made for at first."""

ALIKE = 80
"""Bricks that a thread fills in one go where many are wanted at once: as many points as are evaluated together."""

AT_ONCE = 256
"""Bricks that are evaluated together."""

MARGIN = np.float32(1 + 1e-5)
"""Keeps a bound above what rounding makes of the values that it bounds."""

Evaluate = Callable[[Array, Array, Bricks], Array]
"""The rows that vary, `(rows, n)`, at places `(3, n)` of the body's own space, the corners of bricks, for samples of `(n,)` metres in the world."""


@dataclass(frozen=True)
class Layout:
    """Which quantities are stored, and what the others are everywhere.

    Attributes
    ----------
    row_of : Integers
        `(QUANTITIES,)` the row of each that varies; −1 for what does not.
    constant : Array
        `(QUANTITIES,)` of those.
    """

    row_of: Integers
    constant: Array

    @property
    def rows(self) -> int:
        """How many are stored."""
        return int(self.row_of.max(initial=-1)) + 1


class BrickField:
    """The bricks of one volume.

    Parameters
    ----------
    grid : Grid
        Where they lie.
    layout : Layout
        What they hold.
    evaluate : callable
        Gives their values.
    budget : int
        Bytes; where more is wanted, what was not used for longest goes.
    """

    def __init__(self, grid: Grid, layout: Layout, evaluate: Evaluate, budget: int = BUDGET) -> None:
        self.grid, self.layout, self._evaluate, self.budget = grid, layout, evaluate, budget
        self.table: Integers = np.zeros(grid.bricks, np.int32)
        self._room(FIRST)
        self._publish()
        self._used = 0
        self._free: list[int] = []
        self._slots = np.zeros(0, np.int64)
        self._claimed: set[int] = set()
        self._lock = threading.RLock()
        self._turn = threading.Condition()
        self._readers = 0
        self._evicting = False
        self.filled = 0
        """Bricks evaluated so far."""
        self._saved = 0
        self.fill(grid.levels - 1, np.arange(int(np.prod(grid.dims[-1])), dtype=np.int32))

    def _room(self, count: int) -> None:
        rows = max(self.layout.rows, 1)
        # Kernels read three values as four: there is one after the last.
        self.values: npt.NDArray[np.uint16] = np.empty(count * VALUES * rows + 1, np.uint16)[:-1].reshape(
            count, VALUES, rows
        )
        self.scales: Array = np.empty((count, rows, 2), np.float32)
        self.headers: Array = np.empty((count, HEADER), np.float32)
        self.stamps: Integers = np.zeros(count, np.int32)

    def _publish(self) -> None:
        self._arrays = (self.table, self.values, self.scales, self.headers, self.stamps)

    @contextmanager
    def reading(self) -> Iterator[None]:
        """While kernels look bricks up: none is given up meanwhile."""
        with self._turn:
            self._turn.wait_for(lambda: not self._evicting)
            self._readers += 1
        try:
            yield
        finally:
            with self._turn:
                self._readers -= 1
                self._turn.notify_all()

    @contextmanager
    def _alone(self) -> Iterator[None]:
        with self._turn:
            self._evicting = True
            self._turn.wait_for(lambda: self._readers == 0)
        try:
            yield
        finally:
            with self._turn:
                self._evicting = False
                self._turn.notify_all()

    @property
    def arrays(self) -> tuple[np.typing.NDArray[np.generic], ...]:
        """Table, values, scales, headers and stamps, in the order of `tables`; as long as they are held, kernels may read them."""
        return self._arrays

    @property
    def brick_bytes(self) -> int:
        """Bytes of one brick."""
        return int(self.values[0].nbytes + self.scales[0].nbytes + self.headers[0].nbytes + 4)

    @property
    def nbytes(self) -> int:
        """Of the bricks that are held; tables are used where there are bricks, and weigh little."""
        return (self._used - len(self._free)) * self.brick_bytes

    def in_use(self, since: int) -> Integers:
        """The bricks that were looked up lately, by their places in the table.

        Parameters
        ----------
        since : int
            The tick from which on a use counts.
        """
        found: Integers = self._slots[: self._used][self.stamps[: self._used] > since - RECENT].astype(np.int32)
        return found

    def fill_alike(self, slots: Integers, tick: int, pool: ThreadPoolExecutor | None = None) -> None:
        """Fill bricks that another field of the same grid had in use: whoever looks next will want them.

        Parameters
        ----------
        slots : Integers
            Places in the table.
        tick : int
            When they are wanted.
        pool : ThreadPoolExecutor, optional
            Threads to do it by.
        """
        # In two batches at least: one for each of two threads.
        batches = np.array_split(np.sort(slots), max(-(-len(slots) // ALIKE), min(len(slots), 2), 1))

        def work(batch: Integers) -> None:
            self.fill_places(batch, tick)

        for _ in map(work, batches) if pool is None else pool.map(work, batches):
            pass

    @property
    def unsaved(self) -> int:
        """Bricks evaluated since the last `save`."""
        return self.filled - self._saved

    def save(self, most: int) -> dict[str, np.typing.NDArray[np.generic]]:
        """What is held, for another run: empty bricks, and of the others those that were used last.

        Parameters
        ----------
        most : int
            Bytes.
        """
        with self._lock:
            self._saved = self.filled
            free = np.zeros(self._used, np.bool_)
            free[self._free] = True
            there = np.flatnonzero(~free)
            there = there[np.argsort(-self.stamps[there], kind="stable")][: most // self.brick_bytes]
            return {
                "slots": self._slots[there],
                "values": self.values[there],
                "scales": self.scales[there],
                "headers": self.headers[there],
                "empty": np.flatnonzero(self.table == EMPTY).astype(np.int64),
            }

    def restore(self, saved: Mapping[str, np.typing.NDArray[np.generic]]) -> bool:
        """Take in what another run has saved of a field of the same content; says whether it fits this field, else nothing is changed.

        Parameters
        ----------
        saved : mapping
            As from `save`.
        """
        rows = max(self.layout.rows, 1)
        count = len(saved["slots"]) if "slots" in saved else -1
        wanted = {
            "slots": (np.int64, (count,)),
            "values": (np.uint16, (count, VALUES, rows)),
            "scales": (np.float32, (count, rows, 2)),
            "headers": (np.float32, (count, HEADER)),
        }
        if any(
            name not in saved or saved[name].dtype != kind or saved[name].shape != shape
            for name, (kind, shape) in wanted.items()
        ):
            return False
        slots, empty = saved["slots"].astype(np.int64), saved.get("empty", np.zeros(0, np.int64))
        both = np.concatenate([slots, empty.astype(np.int64)])
        finite = np.isfinite(saved["scales"]).all() and np.isfinite(saved["headers"]).all()
        if not finite or len(np.unique(both)) != len(both) or (both < 0).any() or (both >= self.grid.bricks).any():
            return False
        with self._lock:
            self.table[both[count:][self.table[both[count:]] == MISSING]] = EMPTY
            new = np.flatnonzero(self.table[slots] == MISSING).astype(np.int32)
            room = int(self.budget // self.brick_bytes) - self._used + len(self._free)
            values = np.asarray(saved["values"], np.uint16)
            scales, headers = np.asarray(saved["scales"], np.float32), np.asarray(saved["headers"], np.float32)
            self._store(slots.astype(np.int32), new[: max(room, 0)], values, scales, headers, 1)
            self._saved = self.filled
        return True

    def missing(self, slots: Integers) -> Integers:
        """Those of some bricks that have not been filled.

        Parameters
        ----------
        slots : Integers
            `(m,)` places in the table.
        """
        found: Integers = slots[self.table[slots] == MISSING]
        return found

    def fill(self, level: int, numbers: Integers, tick: int = 0, check: Callable[[], None] = lambda: None) -> None:
        """Evaluate some bricks of a level, unless they are there.

        Parameters
        ----------
        level : int
            Of the bricks.
        numbers : Integers
            `(m,)` within the level, each once.
        tick : int
            When they were wanted, for choosing what goes.
        check : callable
            Called between pieces of work; may raise `Interrupted`.
        """
        self.fill_places(self.grid.first[level] + numbers, tick, check)

    def fill_places(self, slots: Integers, tick: int = 0, check: Callable[[], None] = lambda: None) -> None:
        """Evaluate some bricks of any levels, unless they are there: all together, as each evaluation takes time to begin.

        Parameters
        ----------
        slots : Integers
            `(m,)` places in the table, each once.
        tick : int
            When they were wanted, for choosing what goes.
        check : callable
            Called between pieces of work; may raise `Interrupted`.
        """
        while True:
            with self._lock:
                wanted = self.missing(slots)
                free = np.array([int(slot) not in self._claimed for slot in wanted], np.bool_)
                mine = np.sort(wanted[free][:AT_ONCE])
                claims = set(mine.tolist())
                self._claimed |= claims
            if len(wanted) == 0:
                return
            if len(mine) == 0:  # others are at the rest
                with self._turn:
                    self._turn.wait(0.01)
                continue
            try:
                check()
                self._fill(mine, tick)
            finally:
                with self._lock:
                    self._claimed -= claims
                with self._turn:
                    self._turn.notify_all()
            if len(self.missing(mine)):  # there is no room for all that is wanted at once
                return

    def _fill(self, slots: Integers, tick: int) -> None:
        grid, layout = self.grid, self.layout
        m = len(slots)
        if layout.rows:
            made = self._evaluate(*grid.places(slots), Bricks(OF_GRID, slots))
            each = made.reshape(layout.rows, m, VALUES).transpose(1, 2, 0)
        else:
            each = np.zeros((m, VALUES, 1), np.float32)
        low, high = each.min(axis=1), each.max(axis=1)
        step = (high - low) / SHARP
        scaled = (each - low[:, None]) / np.where(step > 0, step, 1)[:, None]
        stored = np.rint(scaled).astype(np.uint16)
        headers, empty = bounds(layout, low, low + step * SHARP, rms_emission(layout, each))
        with self._lock:
            self.filled += m
            self.table[slots[empty]] = EMPTY
            self._store(
                slots, np.flatnonzero(~empty).astype(np.int32), stored, np.stack([low, step], axis=-1), headers, tick
            )

    def _store(
        self,
        slots: Integers,
        there: Integers,
        stored: npt.NDArray[np.uint16],
        scales: Array,
        headers: Array,
        tick: int,
    ) -> None:
        at = self._claim(len(there), tick)
        there = there[: len(at)]
        self.values[at] = stored[there]
        self.scales[at] = scales[there]
        self.headers[at] = headers[there]
        self.stamps[at] = tick
        self._slots[at] = slots[there]
        self.table[slots[there]] = at + 1  # last, so that whoever looks meanwhile finds a whole brick

    def _claim(self, count: int, tick: int) -> Integers:
        """Room for some bricks: free, new, or that of bricks that were not used for longest."""
        most = max(int(self.budget // self.brick_bytes), FIRST)
        taken = self._free[:count]
        self._free = self._free[len(taken) :]
        fresh = min(count - len(taken), most - self._used)
        if self._used + fresh > len(self.headers):
            self._grow(min(max(2 * len(self.headers), self._used + fresh), most))
        at = [*taken, *range(self._used, self._used + fresh)]
        self._used += fresh
        if len(self._slots) < len(self.headers):
            self._slots = np.concatenate([self._slots, np.zeros(len(self.headers) - len(self._slots), np.int64)])
        short = count - len(at)
        if short > 0:
            at += self._evict(short, tick)
        return np.array(at, np.int32)

    def _evict(self, count: int, tick: int) -> list[int]:
        """Give up bricks that were not used for longest, but none filled in this tick; the coarsest level stays."""
        coarsest = int(self.grid.first[-1])
        can = np.flatnonzero((self.stamps[: self._used] < tick) & (self._slots[: self._used] < coarsest))
        order = can[np.argsort(self.stamps[can], kind="stable")]
        # More than is needed, so that not every fill has to look.
        gone = order[: max(count, len(order) // 4)]
        with self._alone():
            self.table[self._slots[gone]] = MISSING
        self._free = [*(int(each) for each in gone[count:]), *self._free]
        return [int(each) for each in gone[:count]]

    def _grow(self, count: int) -> None:
        values, scales, headers, stamps = self.values, self.scales, self.headers, self.stamps
        self._room(count)
        n = len(headers)
        self.values[:n], self.scales[:n], self.headers[:n], self.stamps[:n] = values, scales, headers, stamps
        self._publish()


def rms_emission(layout: Layout, values: Array) -> Array:
    """The light that bricks send out, `(m,)`: by the root of its mean square, as bricks with a spark want to be looked at more often than even ones.

    Parameters
    ----------
    layout : Layout
        Which quantities are rows.
    values : Array
        `(m, VALUES, rows)`.
    """
    rows = [int(row) for row in layout.row_of[EMISSION : EMISSION + 3]]
    constant = np.array([layout.constant[EMISSION + c] for c, row in enumerate(rows) if row < 0], np.float64)
    varying = values[:, :, [row for row in rows if row >= 0]]
    # Against the largest: the square of what is very bright can't be held.
    most = np.maximum(varying.max(axis=(1, 2), initial=0), constant.max(initial=0)).astype(np.float64)
    unit = np.where(most > 0, most, 1)
    shares = varying / unit.astype(np.float32)[:, None, None]
    squares = np.einsum("mvr,mvr->m", shares, shares) / VALUES + ((constant[:, None] / unit) ** 2).sum(axis=0)
    glow: Array = np.minimum(most * np.sqrt(squares), np.finfo(np.float32).max).astype(np.float32)
    return glow


def bounds(layout: Layout, low: Array, high: Array, glow: Array) -> tuple[Array, npt.NDArray[np.bool_]]:
    """What bricks are bounded by, from the least and largest of their rows.

    Parameters
    ----------
    layout : Layout
        Which quantities are rows.
    low, high : Array
        `(m, rows)`.
    glow : Array
        `(m,)` as from `rms_emission`.

    Returns
    -------
    tuple
        Headers `(m, HEADER)`, and `(m,)` whether nothing is in the brick.
    """
    m = len(low)

    def ends(quantity: int) -> tuple[Array, Array]:
        row = int(layout.row_of[quantity])
        if row >= 0:
            return low[:, row], high[:, row]
        value = np.full(m, layout.constant[quantity], np.float32)
        return value, value

    headers = np.zeros((m, HEADER), np.float32)
    least_density, most_density = ends(DENSITY)
    rest, residual = np.zeros(m, np.float32), np.zeros(m, np.float32)
    for c in range(3):
        least_s, most_s = ends(SCATTERING + c)
        least_a, most_a = ends(ABSORPTION + c)
        headers[:, LEAST_ABSORPTION + c] = least_density * least_a
        headers[:, LEAST_EXTINCTION + c] = least_density * (least_s + least_a)
        most = most_density * (most_s + most_a)
        rest = np.maximum(rest, most - headers[:, LEAST_ABSORPTION + c])
        residual = np.maximum(residual, most - headers[:, LEAST_EXTINCTION + c])
    tiny = most_density * 4e-7  # what rounding makes of a difference of equals
    headers[:, MOST_REST] = rest * MARGIN
    headers[:, MOST_RESIDUAL] = np.where(residual > tiny, residual * MARGIN, 0)
    headers[:, GLOW] = glow
    return headers, ~((rest > 0) | (headers[:, LEAST_ABSORPTION : LEAST_ABSORPTION + 3].max(axis=1) > 0) | (glow > 0))
