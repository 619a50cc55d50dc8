"""Two changes made to one document at once, put together: what each has touched is taken from it, by stable ids.

A three-way merge of states (S. Khanna, K. Kunal and B. C. Pierce, "A Formal Investigation of Diff3", FSTTCS 2007, for what lists want):
where only one side differs from what both began with, that side is taken; where both do, and differently, that is a conflict. Members of lists
are distinguished by their ids, so that a change to a layer is one to that layer, wherever it stands meanwhile. Lists without ids (points of
a curve, vectors) are one value.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from texallon.core.document.ids import NOTHING, id_of
from texallon.core.document.problem import pointer


@dataclass(frozen=True)
class Conflict:
    """A place that both sides have changed: its JSON Pointer by ids, and what it was, is on this side and on the other (`NOTHING` where
    there is nothing)."""

    pointer: str
    was: Any
    mine: Any
    theirs: Any


@dataclass(frozen=True)
class Merged:
    """The document with both changes, and where they could not both be had: there it is as the preferred side has it."""

    document: Any
    conflicts: tuple[Conflict, ...]


def merge(base: Any, mine: Any, theirs: Any, prefer_mine: bool = False) -> Merged:
    """Put two changes to a document together.

    Parameters
    ----------
    base : object
        Parsed JSON that both began with.
    mine : object
        As one side has made it.
    theirs : object
        As the other has.
    prefer_mine : bool, optional
        Whose value stands where both have changed the same; the other side's unless given.

    Returns
    -------
    Merged
        None of the arguments is changed.

    Examples
    --------
    >>> base = {"layers": [{"id": "a", "on": True}, {"id": "b", "on": True}]}
    >>> mine = {"layers": [{"id": "b", "on": False}]}
    >>> theirs = {"layers": [{"id": "c", "on": True}, {"id": "a", "on": True}, {"id": "b", "on": True}]}
    >>> merge(base, mine, theirs).document
    {'layers': [{'id': 'c', 'on': True}, {'id': 'b', 'on': False}]}
    """
    merging = _Merging(prefer_mine)
    document = merging.value(base, mine, theirs, ())
    return Merged(document, tuple(merging.conflicts))


class _Merging:
    """One merge, and the conflicts that it has met."""

    def __init__(self, prefer_mine: bool) -> None:
        self.prefer_mine = prefer_mine
        self.conflicts: list[Conflict] = []

    def value(self, base: Any, mine: Any, theirs: Any, path: tuple[str, ...]) -> Any:
        """One value of the merged document; conflicts are noted.

        Parameters
        ----------
        base : Any
            What both began with, `NOTHING` where it was not there.
        mine : Any
            One side's value.
        theirs : Any
            The other side's value.
        path : tuple of str
            Names and ids from the document's top.

        Returns
        -------
        Any
            `NOTHING` where it is gone.
        """
        if _same(mine, theirs) or _same(theirs, base):
            return mine
        if _same(mine, base):
            return theirs
        if isinstance(base, dict) and isinstance(mine, dict) and isinstance(theirs, dict):
            return self._members(base, mine, theirs, path)
        if all(_identified(each) for each in (base, mine, theirs)):
            return self._lists(base, mine, theirs, path)
        return self._conflict(base, mine, theirs, path)

    def _conflict(self, base: Any, mine: Any, theirs: Any, path: tuple[str, ...]) -> Any:
        self.conflicts.append(Conflict(pointer(*path), base, mine, theirs))
        return mine if self.prefer_mine else theirs

    def _members(self, base: Any, mine: Any, theirs: Any, path: tuple[str, ...]) -> Any:
        made = {}
        for key in [*theirs, *(key for key in mine if key not in theirs)]:
            was, here, there = (each.get(key, NOTHING) for each in (base, mine, theirs))
            found = self.value(was, here, there, (*path, key))
            if found is not NOTHING:
                made[key] = found
        return made

    def _lists(self, base: Any, mine: Any, theirs: Any, path: tuple[str, ...]) -> Any:
        old, ours, other = (dict(zip(map(id_of, each), each, strict=True)) for each in (base, mine, theirs))
        for name in [name for name in ours if name not in old and name in other and ours[name] != other[name]]:
            # Both sides have added something under one id: it is two things.
            ours = {_another(name, {*ours, *other}) if each == name else each: value for each, value in ours.items()}
        found = {}
        for name in dict.fromkeys([*other, *ours, *old]):
            was, here, there = (each.get(name, NOTHING) for each in (old, ours, other))
            kept = self.value(was, here, there, (*path, name))
            if kept is not NOTHING:
                found[name] = kept if id_of(kept) == name else {**kept, "id": name}
        return [found[name] for name in self._order(list(old), list(ours), list(other), found, path)]

    def _order(self, old: list[str], ours: list[str], other: list[str], found: Any, path: tuple[str, ...]) -> list[str]:
        """Names of those that are there, in the order of the side that changed it; what only the other has comes after what it follows there."""
        common = [name for name in old if name in ours and name in other]
        mine, theirs = ([name for name in side if name in common] for side in (ours, other))
        first, second = other, ours
        if mine != common:
            if theirs not in (common, mine):
                self._conflict(common, mine, theirs, path)
            if theirs == common or self.prefer_mine:
                first, second = ours, other
        order = [name for name in first if name in found]
        at = 0
        for name in second:
            if name in order:
                at = order.index(name) + 1
            elif name in found:
                order.insert(at, name)
                at += 1
        return order


def _same(a: Any, b: Any) -> bool:
    """Whether two parts are equal; 1 is not `True`."""
    if a is NOTHING or b is NOTHING:
        return a is b
    return bool(a == b) and (type(a) is type(b) or (not isinstance(a, bool) and not isinstance(b, bool)))


def _identified(value: Any) -> bool:
    return isinstance(value, Sequence) and not isinstance(value, str) and all(id_of(each) for each in value)


def _another(name: str, taken: set[str]) -> str:
    number = 2
    while f"{name[:28]}x{number}" in taken:
        number += 1
    return f"{name[:28]}x{number}"
