"""Values of noises and patterns at the corners of bricks, kept apart from what looks make of them: another ramp or gain evaluates none of them again.

They belong to a place, not to a look: bricks of an edited look find what the look before it has evaluated.
"""

import threading
import weakref
from collections import OrderedDict
from collections.abc import Mapping
from typing import NamedTuple, Protocol

import numpy as np

from texallon.core.derived import derived
from texallon.core.kernel import Array, Integers
from texallon.core.ops.filtered import Filtered
from texallon.core.render.volume.quantities import VALUES
from texallon.core.signal.plan import Plan

BUDGET = 300_000_000
"""Bytes for the values of one volume, unless given."""


OF_GRID, OF_LIGHTS = 0, 1
"""Which lattice places belong to: the grid of bricks, or the one on which volumes are asked for light."""


class Bricks(NamedTuple):
    """Which bricks values belong to: of which `lattice`, and their `numbers (m,)` within it; places in the table where it is the grid."""

    lattice: int
    numbers: Integers


class LookedUp(Protocol):
    """Bricks that tell which of them were looked up lately."""

    def in_use(self, since: int) -> Integers:
        """By their places in the table.

        Parameters
        ----------
        since : int
            The tick from which on a use counts.
        """


class SourceValues:
    """Values by node, lattice and brick; what was not used for longest goes first.

    Parameters
    ----------
    budget : int
        Bytes.
    """

    def __init__(self, budget: int = BUDGET) -> None:
        self.budget = budget
        self._pages: OrderedDict[tuple[str, int, int], Array] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()
        self._last: weakref.ReferenceType[LookedUp] | None = None
        self._since = 0

    @property
    def nbytes(self) -> int:
        """What is kept."""
        return self._bytes

    def begin_picture(self, field: "LookedUp", tick: int) -> Integers:
        """Note whose bricks a picture looks up; gives those that the picture before looked up in another field, by their places in the table.

        Parameters
        ----------
        field : LookedUp
            The bricks of the same place, of a look as it is now.
        tick : int
            When the picture begins.

        Returns
        -------
        Integers
            `(m,)`; none where the field is the same.
        """
        last, since = None if self._last is None else self._last(), self._since
        self._last, self._since = weakref.ref(field), tick
        return np.zeros(0, np.int32) if last is None or last is field else last.in_use(since)

    def find(self, node: str, bricks: Bricks) -> Array | None:
        """A node's values at the corners of bricks, if all are kept.

        Parameters
        ----------
        node : str
            Its key.
        bricks : Bricks
            m.

        Returns
        -------
        Array or None
            `(width, m · 729)`.
        """
        with self._lock:
            pages = []
            for number in bricks.numbers.tolist():
                page = self._pages.get((node, bricks.lattice, number))
                if page is None:
                    return None
                pages.append(page)
                self._pages.move_to_end((node, bricks.lattice, number))
        return np.concatenate(pages, axis=1)

    def keep(self, node: str, bricks: Bricks, values: Array) -> None:
        """Keep a node's values.

        Parameters
        ----------
        node : str
            Its key.
        bricks : Bricks
            m.
        values : Array
            `(width, m · 729)`.
        """
        with self._lock:
            for at, number in enumerate(bricks.numbers.tolist()):
                key = (node, bricks.lattice, number)
                if key not in self._pages:
                    page = values[:, at * VALUES : (at + 1) * VALUES].copy()
                    self._pages[key] = page
                    self._bytes += page.nbytes
            while self._bytes > self.budget and self._pages:
                _, gone = self._pages.popitem(last=False)
                self._bytes -= gone.nbytes


@derived("values of sources in bricks")
def source_values(place: str, budget: int) -> SourceValues:
    """Room for the values at the corners of one volume's bricks.

    Parameters
    ----------
    place : str
        Tells where its bricks lie.
    budget : int
        Bytes.
    """
    return SourceValues(budget)


class ValuesOfBricks:
    """What `evaluate` finds and keeps of the values at some bricks' corners: those of sources alone, which are dear.

    Parameters
    ----------
    values : SourceValues
        All that is kept.
    bricks : Bricks
        Whose corners are the points.
    plan : Plan
        What is evaluated.
    """

    def __init__(self, values: SourceValues, bricks: Bricks, plan: Plan) -> None:
        self._values, self._bricks = values, bricks
        self._sources: Mapping[str, bool] = {node.key: isinstance(node.op, Filtered) for node in plan.nodes}

    def get(self, key: str) -> Array | None:
        """A source's values `(width, n)`, if they are kept.

        Parameters
        ----------
        key : str
            Of the node.
        """
        return self._values.find(key, self._bricks) if self.keeps(key) else None

    def keeps(self, key: str) -> bool:
        """Whether a node's values are kept.

        Parameters
        ----------
        key : str
            Of the node.
        """
        return self._sources.get(key, False)

    def put(self, key: str, value: Array) -> None:
        """Keep a source's values.

        Parameters
        ----------
        key : str
            Of the node.
        value : Array
            `(width, n)`.
        """
        self._values.keep(key, self._bricks, value)
