"""All volumes of a shot: where they are, what fills them, and how kernels look them up."""

import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from texallon.core.derived import content_key
from texallon.core.geometry.rays import COPY, OPAQUE, MeshRays, Placed, SceneRays
from texallon.core.kernel import Array, Integers
from texallon.core.ops.points import NO_FILES, Matrix, OpFiles
from texallon.core.render.volume.brick_field import BrickField, Evaluate, Layout
from texallon.core.render.volume.medium_values import ALL_ROWS, MediumPlan, held, layout_of, quantities
from texallon.core.render.volume.quantities import MOST_LEVELS, QUANTITIES
from texallon.core.render.volume.source_values import Bricks, SourceValues, ValuesOfBricks
from texallon.core.render.volume.tables import ADDRESSES, CLOSED, NOTED_BITS, STAMPS, Addresses, VolumeTables, Wanted
from texallon.core.render.volume.volume_points import VolumeSpace
from texallon.core.signal.run import evaluate

MOST_ROUNDS = 96
"""How often rays are followed anew because bricks were missing; then coarser ones stand in, and that is counted."""

MOST_WANTED = 1 << 18
"""Bricks taken down in one go."""

SAMPLES_ACROSS = 3.0
"""Samples across a cell: what lies between corners is straight, and bricks of finer cells would be many times as many."""

AT_ONCE = 1 << 16
"""Points evaluated together: a brick has 729, and each step costs as much as a thousand of them to begin."""

HASTY = 400
"""Bricks filled after a picture that follows a hand."""

LOOKUPS_IN_HASTE = 0.4
"""Times as many lookups of light in a picture that follows a hand."""

COARSE_VARIANTS = 1
"""Values that stand for what is finer than a cell: the corners of cells draw others, so that their mean is right."""


@dataclass(frozen=True)
class Container:
    """What a volume fills.

    Attributes
    ----------
    name : str
        Of the object; of an atmosphere it is empty.
    look : int
        By position in the document.
    kind : int
        BOX, BALL or CLOSED.
    matrix : Matrix
        `(3, 4)` from its own space into the world.
    low, high : Array
        `(3,)` bounds there.
    group : int
        Light group of its own light.
    structure : MeshRays, optional
        Of a closed mesh.
    """

    name: str
    look: int
    kind: int
    matrix: Matrix
    low: Array
    high: Array
    group: int = 0
    structure: MeshRays | None = None

    @property
    def open_air(self) -> bool:
        """Whether it is an atmosphere."""
        return not self.name


@dataclass(frozen=True)
class MediumSource:
    """What fills a volume, as a function of the place.

    Attributes
    ----------
    medium : MediumPlan
        Of its look.
    space : VolumeSpace
        Where it stands.
    files : OpFiles
        Those that its recipes read.
    values : SourceValues, optional
        Where values of noises are kept for looks to come.
    """

    medium: MediumPlan
    space: VolumeSpace
    files: OpFiles = NO_FILES
    values: SourceValues | None = None

    @cached_property
    def layout(self) -> Layout:
        """What is stored of it."""
        return layout_of(self.medium)

    def channels(self, own: Array, footprint: float | Array, bricks: Bricks | None = None) -> dict[str, Array]:
        """Every channel of the medium by name, `(width, n)`, or `(width, 1)` where it is the same everywhere.

        Parameters
        ----------
        own : Array
            `(3, n)` in the volume's own space.
        footprint : float or Array
            Metres in the world that a sample stands for; `(n,)` where they differ.
        bricks : Bricks, optional
            Whose corners these are.
        """
        n = own.shape[1]
        channels = {name: np.array(value, np.float32)[:, None] for name, value in self.medium.uniform.items()}
        plan = self.medium.varying
        if plan is not None:
            data = self.space.point_data(plan.required_data, own, np.full((1, n), footprint, np.float32))
            kept = None if bricks is None or self.values is None else ValuesOfBricks(self.values, bricks, plan)
            made = evaluate(plan, plan.points(n, data, self.files), cache=kept, variants=COARSE_VARIANTS, chunk=AT_ONCE)
            channels |= {name: held(name, value) for name, value in made.items()}
        return channels

    def quantities(
        self, own: Array, footprint: float | Array, bricks: Bricks | None = None, rows: Integers = ALL_ROWS
    ) -> Array:
        """What the medium is like, `(r, n)`.

        Parameters
        ----------
        own : Array
            `(3, n)` in the volume's own space.
        footprint : float or Array
            Metres in the world that a sample stands for; `(n,)` where they differ.
        bricks : Bricks, optional
            Whose corners these are.
        rows : Integers, optional
            Which quantities are wanted, r: all unless given.

        Returns
        -------
        Array
            `(r, n)`.
        """
        return quantities(self.channels(own, footprint, bricks), own.shape[1], rows)

    @property
    def rows(self) -> Evaluate:
        """What is stored of it, as `BrickField` asks for it."""
        stored = np.flatnonzero(self.layout.row_of >= 0).astype(np.int32)

        def of_places(own: Array, footprint: Array, bricks: Bricks) -> Array:
            return self.quantities(own, footprint, bricks, stored)

        return of_places


_ticks = iter(range(1, 1 << 31))
_tick_lock = threading.Lock()


def next_tick() -> int:
    """Counts the uses of bricks."""
    with _tick_lock:
        return next(_ticks)


class VolumeUse(NamedTuple):
    """What volumes are looked up in: `bricks` filled so far, what they take, pixels across a cell; and the counts of `Volumes.counts`."""

    bricks: int
    megabytes: float
    cell_pixels: float
    exceeded: int
    untracked: int
    coarser: int

    def warnings(self) -> list[str]:
        """What is amiss, in words for a person."""
        said = (
            (self.exceeded, "times a bound of a volume did not hold, which leaves light out"),
            (self.untracked, "paths met more in volumes than can be followed"),
            (self.coarser, "paths took coarser bricks than they wanted, for want of room: lower the volume detail"),
        )
        return [f"{count:,} {what}" for count, what in said if count]


@dataclass(frozen=True)
class Volumes:
    """The volumes of a shot at a time, with the bricks of each."""

    containers: tuple[Container, ...]
    fields: tuple[BrickField, ...]
    given: str = ""
    samples_across: float = SAMPLES_ACROSS
    hasty: bool = False

    def looked_up(self, detail: float, hasty: bool = False) -> "Volumes":
        """The same volumes and bricks, looked up more or less finely.

        Parameters
        ----------
        detail : float
            Above 0; at 1 a cell is `SAMPLES_ACROSS` samples wide.
        hasty : bool, optional
            Whether what is missing is taken from coarser bricks, and filled for the next picture: for pictures that follow a hand.
        """
        made = replace(self, samples_across=SAMPLES_ACROSS / detail, hasty=hasty)
        made.__dict__.update(counts=self.counts, _bodies=self._bodies)
        return made

    @property
    def content_key(self) -> str:
        """The same for volumes that are the same everywhere."""
        return content_key(("volumes", self.given, self.samples_across, self.hasty))

    def __len__(self) -> int:
        return len(self.containers)

    @cached_property
    def counts(self) -> dict[str, int]:
        """How often a bound was exceeded (`violations`) or a path met more than can be followed (`untracked`), and how many paths had to take coarser
        bricks than they wanted (`coarser`)."""
        return {"violations": 0, "untracked": 0, "coarser": 0}

    def add_counts(self, counts: Integers) -> None:
        """Add what a kernel counted.

        Parameters
        ----------
        counts : Integers
            `(2,)` violations and paths that were not followed on.
        """
        self.counts["violations"] += int(counts[0])
        self.counts["untracked"] += int(counts[1])

    def use(self) -> VolumeUse:
        """What is used so far."""
        return VolumeUse(
            sum(field.filled for field in self.fields),
            round(sum(field.nbytes for field in self.fields) / 1e6, 1),
            round(self.samples_across, 2),
            self.counts["violations"],
            self.counts["untracked"],
            self.counts["coarser"],
        )

    @cached_property
    def _bodies(self) -> tuple[SceneRays | None, Integers, Integers, Integers]:
        closed = [k for k, each in enumerate(self.containers) if each.kind == CLOSED]
        none = np.zeros(1, np.int32)
        if not closed:
            return None, none, none, none
        placed = []
        for k in closed:
            structure = self.containers[k].structure
            assert structure is not None
            placed.append(Placed(structure, self.containers[k].matrix, OPAQUE))
        rays = SceneRays(placed)
        return rays, rays.table.first, (rays.table.kind == COPY).astype(np.int32), np.array(closed, np.int32)

    @cached_property
    def _fixed(self) -> VolumeTables:
        k = len(self.containers)
        matrices = np.zeros((k, 4, 4), np.float64)
        matrices[:, 3, 3] = 1
        matrices[:, :3] = [each.matrix for each in self.containers]
        levels = [field.grid.levels for field in self.fields]
        dims, first = np.ones((k, MOST_LEVELS, 3), np.int32), np.zeros((k, MOST_LEVELS), np.int32)
        for number, field in enumerate(self.fields):
            dims[number, : levels[number]], first[number, : levels[number]] = field.grid.dims, field.grid.first
        rays, body_first, copies, of_body = self._bodies
        return VolumeTables(
            np.array([each.kind for each in self.containers], np.int32),
            np.linalg.inv(matrices)[:, :3].astype(np.float64),
            np.stack([each.low for each in self.containers]).astype(np.float64),
            np.stack([each.high for each in self.containers]).astype(np.float64),
            np.array([each.open_air for each in self.containers], np.int32),
            np.array([each.group for each in self.containers], np.int32),
            0 if rays is None else rays.handle, body_first, copies, of_body,
            np.stack([field.grid.low for field in self.fields]).astype(np.float64),
            np.stack([field.grid.cell for field in self.fields]).astype(np.float64),
            np.array([field.grid.cell_world for field in self.fields], np.float64),
            np.array(levels, np.int32), dims, first,
            np.array([max(field.layout.rows, 1) for field in self.fields], np.int32),
            np.stack([field.layout.row_of for field in self.fields]).reshape(k, QUANTITIES),
            np.stack([field.layout.constant for field in self.fields]).reshape(k, QUANTITIES),
            np.zeros((k, ADDRESSES), np.int64), np.zeros(k, np.int32), 0, 0, self.samples_across, LOOKUPS_IN_HASTE if self.hasty else 1.0,
        )  # fmt: skip

    def follow(
        self, todo: Integers, run: Callable[[VolumeTables, Wanted], None], check: Callable[[], None] = lambda: None
    ) -> None:
        """Run a kernel until nothing is left to do, filling the bricks that it misses.

        What it gives depends on no order: nothing is taken from a brick that stands in for another, unless there is no room for what a batch
        needs, which is counted.

        Parameters
        ----------
        todo : Integers
            `(n,)` set to 0 by the kernel where it is done.
        run : callable
            Given tables, and where to note what is missing.
        check : callable
            Called between pieces of work; may raise `Interrupted`.
        """
        tick = next_tick()
        for round_number in range(MOST_ROUNDS + 1):
            noted = np.full(1 << NOTED_BITS, -1, np.int64)
            wanted = Wanted(np.empty(MOST_WANTED, np.int64), np.zeros(1, np.int32), noted)
            accept = self.hasty or round_number == MOST_ROUNDS
            with ExitStack() as held_still:
                for field in self.fields:
                    held_still.enter_context(field.reading())
                kept = [field.arrays for field in self.fields]
                addresses = np.array([[each.ctypes.data for each in arrays] for arrays in kept], np.int64)
                if accept and not self.hasty:
                    self.counts["coarser"] += int(todo.sum())
                room = np.array([len(arrays[STAMPS]) for arrays in kept], np.int32)
                run(self._fixed._replace(addresses=addresses, room=room, tick=tick, accept=int(accept)), wanted)
            if todo.any():
                self.fill(wanted, tick, check)
                continue
            if self.hasty:
                self.noted.append(wanted.code[: min(int(wanted.total[0]), len(wanted.code))].copy())
            return

    @cached_property
    def noted(self) -> list[Addresses]:
        """Bricks that pictures in haste have missed."""
        return []

    def fill_noted(self, pool: ThreadPoolExecutor) -> None:
        """Fill what a picture in haste has missed, for the next one: all of it in one go, as each evaluation takes time to begin.

        Parameters
        ----------
        pool : ThreadPoolExecutor
            Threads to do it by.
        """
        if not self.noted:
            return
        codes = np.unique(np.concatenate(self.noted))
        self.noted.clear()
        # The coarsest first, and no more than fit between two pictures.
        codes = codes[np.argsort(-((codes >> 32) % MOST_LEVELS), kind="stable")[:HASTY]]
        tick = next_tick()
        for number, slots in self._by_field(codes):
            self.fields[number].fill_alike(slots, tick, pool)

    def fill(self, wanted: Wanted, tick: int, check: Callable[[], None] = lambda: None) -> None:
        """Evaluate bricks that were missed.

        Parameters
        ----------
        wanted : Wanted
            As kernels noted them.
        tick : int
            When they were wanted.
        check : callable
            Called between pieces of work; may raise `Interrupted`.
        """
        count = min(int(wanted.total[0]), len(wanted.code))
        codes = np.unique(wanted.code[:count])
        for number, slots in self._by_field(codes):
            check()
            self.fields[number].fill_places(slots, tick, check)

    def _by_field(self, codes: Addresses) -> Iterator[tuple[int, Integers]]:
        """Which bricks are meant: for each volume of which there are any, places in its table."""
        of = (codes >> 32) // MOST_LEVELS
        for number in np.unique(of).tolist():
            mine = codes[of == number]
            first = self.fields[number].grid.first
            yield number, (first[(mine >> 32) % MOST_LEVELS] + (mine & 0xFFFFFFFF)).astype(np.int32)
