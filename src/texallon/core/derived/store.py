"""The one place where derived values are kept: a budget in bytes, and the least recently used go first."""

import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from texallon.core.derived.disk import Disk
from texallon.core.derived.memory import SMALL, buffers
from texallon.core.derived.value import Cost, Derived, Given

T = TypeVar("T")

DEFAULT_BUDGET = 2_000_000_000
"""Bytes."""


@dataclass(frozen=True)
class Access:
    """One value that was asked for: whether it was kept already, and what computing it took.

    `seconds` and `bytes` are of this value alone, without what it is made from.
    """

    kind: str
    key: str
    reused: bool
    seconds: float
    bytes: int


@dataclass
class _Kept:
    value: Any
    kind: str
    blocks: dict[int, int]
    seconds: float


class DerivedStore:
    """Values by key, of at most `budget` bytes together.

    Safe to use from several threads: of two that ask for one value, one computes it and the other waits. Values that are larger than the
    budget alone are computed and handed out, but not kept.

    Parameters
    ----------
    budget : int
        Bytes; arrays that several values share count once.
    disk : Disk, optional
        Where large values that grow outlive the process.
    """

    def __init__(self, budget: int = DEFAULT_BUDGET, disk: Disk | None = None) -> None:
        self._budget = budget
        self.disk = disk
        self._kept: OrderedDict[str, _Kept] = OrderedDict()
        self._uses: dict[int, list[int]] = {}
        self._bytes = 0
        self._lock = threading.RLock()
        self._computing: dict[str, threading.RLock] = {}
        self._listeners: list[Callable[[Access], None]] = []
        self._within = threading.local()
        """Seconds that values took which were asked for while another was computed, by thread."""

    @property
    def budget(self) -> int:
        """Bytes that may be kept."""
        return self._budget

    @budget.setter
    def budget(self, value: int) -> None:
        with self._lock:
            self._budget = value
            self._shrink()

    @property
    def bytes(self) -> int:
        """Bytes that are kept now."""
        return self._bytes

    def holds(self) -> dict[str, tuple[int, int]]:
        """What is kept.

        Returns
        -------
        dict
            By kind, how many values, and their bytes; arrays that kinds share count in each.
        """
        found: dict[str, tuple[int, int]] = {}
        with self._lock:
            for each in self._kept.values():
                count, size = found.get(each.kind, (0, 0))
                found[each.kind] = (count + 1, size + sum(each.blocks.values()))
        return dict(sorted(found.items(), key=lambda pair: -pair[1][1]))

    def known(self, wanted: Derived[Any]) -> bool:
        """Whether a value is kept, so that asking for it costs nothing.

        Parameters
        ----------
        wanted : Derived[Any]
            What is asked for.
        """
        return wanted.content_key in self._kept

    def cost(self, wanted: Derived[Any]) -> Cost:
        """The cost of what is still to be computed for a value, its arguments included.

        Parameters
        ----------
        wanted : Derived[Any]
            What is asked for.
        """
        if self.known(wanted):
            return Cost.INSTANT
        inner = [self.cost(each) for each in _derived_in(wanted.arguments)]
        return max([wanted.function.cost, *inner])

    def value(self, wanted: Derived[T]) -> T:
        """A derived value, computed only if it is not kept.

        Parameters
        ----------
        wanted : Derived[T]
            What is asked for.

        Raises
        ------
        Interrupted
            When what is computed is no longer wanted; nothing half done is kept.
        """
        kept = self._look_up(wanted)
        if kept is not None:
            result: T = kept.value
            return result
        with self._turn(wanted.content_key):
            kept = self._look_up(wanted)
            if kept is not None:
                result = kept.value
                return result
            arguments = [self._settled(each) for each in wanted.arguments]
            above = getattr(self._within, "seconds", 0.0)
            self._within.seconds = 0.0
            begun = time.perf_counter()
            try:
                made = wanted.function(*arguments)
            finally:
                seconds = time.perf_counter() - begun
                inner, self._within.seconds = self._within.seconds, above + seconds
            self._keep(wanted, made, seconds - inner)
            return made

    def peek(self, wanted: Derived[T]) -> T | None:
        """A value if it is kept; it is not computed.

        Parameters
        ----------
        wanted : Derived[T]
            What is asked for.
        """
        kept = self._look_up(wanted)
        return None if kept is None else kept.value

    def put(self, wanted: Derived[T], value: T, seconds: float = 0.0) -> None:
        """Keep a value that was computed together with others.

        Parameters
        ----------
        wanted : Derived[T]
            What is asked for.
        value : T
            Bytes, or the value.
        seconds : float, optional
            That it took.
        """
        self._keep(wanted, value, seconds)

    def refresh(self, wanted: Derived[Any]) -> None:
        """Count the bytes of a kept value again, which has grown since (a film, a set of hits).

        Parameters
        ----------
        wanted : Derived[Any]
            What is asked for.
        """
        with self._lock:
            kept = self._kept.get(wanted.content_key)
            if kept is not None:
                self._release(kept.blocks)
                kept.blocks = buffers(kept.value) or {id(kept): SMALL}
                self._hold(kept.blocks)
                self._shrink()

    def forget(self) -> None:
        """Keep nothing any more."""
        with self._lock:
            self._kept.clear()
            self._uses.clear()
            self._bytes = 0

    def listen(self, listener: Callable[[Access], None]) -> Callable[[], None]:
        """Tell a function of every value that is asked for.

        Parameters
        ----------
        listener : callable
            Called with each access.

        Returns
        -------
        callable
            Ends it.
        """
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener)

    def _settled(self, argument: Any) -> Any:
        if isinstance(argument, Derived):
            return self.value(argument)
        if isinstance(argument, Given):
            return argument.value
        if isinstance(argument, tuple) and any(isinstance(each, (Derived, Given, tuple)) for each in argument):
            inner = [self._settled(each) for each in argument]
            return type(argument)(*inner) if hasattr(argument, "_fields") else tuple(inner)
        return argument

    def _look_up(self, wanted: Derived[Any]) -> _Kept | None:
        with self._lock:
            kept = self._kept.get(wanted.content_key)
            if kept is None:
                return None
            self._kept.move_to_end(wanted.content_key)
        if self._listeners:
            self._tell(Access(wanted.kind, wanted.content_key, True, 0.0, sum(kept.blocks.values())))
        return kept

    def _turn(self, key: str) -> threading.RLock:
        with self._lock:
            return self._computing.setdefault(key, threading.RLock())

    def _keep(self, wanted: Derived[Any], made: Any, seconds: float) -> None:
        blocks = buffers(made) or {id(made): SMALL}
        size = sum(blocks.values())
        with self._lock:
            self._computing.pop(wanted.content_key, None)
            if size <= self._budget:
                self._kept[wanted.content_key] = _Kept(made, wanted.kind, blocks, seconds)
                self._hold(blocks)
                self._shrink()
        if self._listeners:
            self._tell(Access(wanted.kind, wanted.content_key, False, seconds, size))

    def _hold(self, blocks: dict[int, int]) -> None:
        for block, size in blocks.items():
            uses = self._uses.setdefault(block, [0, size])
            uses[0] += 1
            if uses[0] == 1:
                self._bytes += size

    def _release(self, blocks: dict[int, int]) -> None:
        for block in blocks:
            uses = self._uses[block]
            uses[0] -= 1
            if uses[0] == 0:
                self._bytes -= uses[1]
                del self._uses[block]

    def _shrink(self) -> None:
        while self._bytes > self._budget and len(self._kept) > 1:
            _, dropped = self._kept.popitem(last=False)
            self._release(dropped.blocks)

    def _tell(self, access: Access) -> None:
        for listener in list(self._listeners):
            listener(access)


def _derived_in(arguments: tuple[Any, ...]) -> list[Derived[Any]]:
    found: list[Derived[Any]] = []
    for each in arguments:
        if isinstance(each, Derived):
            found.append(each)
        elif isinstance(each, tuple):
            found += _derived_in(each)
    return found
