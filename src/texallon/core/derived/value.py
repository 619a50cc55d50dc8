"""What a derived value is: a function, what it is given, and the key that follows from both."""

import functools
import hashlib
from collections.abc import Callable
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Any, Generic, ParamSpec, TypeVar

from texallon.core.derived.content import content_key

T = TypeVar("T")
P = ParamSpec("P")


class Cost(IntEnum):
    """How long a kind of value takes to compute, by which a window's work is put in order."""

    INSTANT = 0
    """Within a picture's time: computed whenever it is asked for."""
    SLOW = 1
    """Up to seconds: computed for what is on the screen, and given up when a change comes in."""
    BACKGROUND = 2
    """Longer, or only useful: computed when nothing else waits."""


@dataclass(frozen=True)
class Given(Generic[T]):
    """An argument that is at hand already and identified by a key, so that its content need not be hashed."""

    value: T
    content_key: str


@dataclass(frozen=True)
class Derived(Generic[T]):
    """A value that can be computed, and may have been.

    Holding one costs nothing: `DerivedStore.value` computes it when it is wanted, its arguments first.
    """

    function: "DerivedFunction[..., T]"
    arguments: tuple[Any, ...]
    content_key: str = field(default="", compare=True)

    @property
    def kind(self) -> str:
        """What kind of value it is, as `texallon explain` lists it."""
        return self.function.kind


class DerivedFunction(Generic[P, T]):
    """A pure function whose results are kept. Called, it simply computes; `of` gives the derived value."""

    def __init__(self, function: Callable[P, T], kind: str, version: int, cost: Cost) -> None:
        self.kind, self.version, self.cost = kind, version, cost
        self._function = function
        functools.update_wrapper(self, function)

    def __call__(self, *arguments: P.args, **named: P.kwargs) -> T:
        return self._function(*arguments, **named)

    def of(self, *arguments: Any) -> Derived[T]:
        """The derived value of some arguments, which may be derived values themselves.

        Parameters
        ----------
        *arguments : object
            Numbers, arrays, models and the like, derived values, or `Given` ones.

        Raises
        ------
        TypeError
            Where an argument has no content to be identified by.
        """
        digest = hashlib.blake2b(f"{self.kind}@{self.version}".encode(), digest_size=16)
        for each in arguments:
            digest.update(content_key(each).encode())
        return Derived(self, arguments, digest.hexdigest())


def derived(kind: str, version: int = 1, cost: Cost = Cost.SLOW) -> Callable[[Callable[P, T]], DerivedFunction[P, T]]:
    """Make a function's results derived values.

    Parameters
    ----------
    kind : str
        What the value is, in the words of the trade; unique in the program.
    version : int
        Raised when the function's results change for the same arguments: values on disk from before are then not used.
    cost : Cost
        How long it takes.

    Examples
    --------
    >>> @derived("twice")
    ... def twice(x: int) -> int:
    ...     return 2 * x
    >>> twice(3), twice.of(3).content_key == twice.of(3).content_key, twice.of(3).content_key == twice.of(4).content_key
    (6, True, False)
    """
    return lambda function: DerivedFunction(function, kind, version, cost)
