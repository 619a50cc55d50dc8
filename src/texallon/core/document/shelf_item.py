"""A look as the shelf keeps it: with all that it is made from, so that any shot can take it; and how a shot takes it.

All works on documents as plain JSON. What goes with a look: looks that its layers carry, signals that its recipes use, named numbers, and
the locators that it measures from. An object that it measures from can't go along: a locator at the object's place stands in for it.
"""

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from copy import deepcopy
from typing import Annotated, Any

from pydantic import Field

from texallon.core.document.base import Model, Name
from texallon.core.document.locator import Locator
from texallon.core.document.look import Look
from texallon.core.document.named_number import NamedNumber
from texallon.core.document.number_in_formula import formula_with, numbers_in_formula
from texallon.core.document.problem import DocumentError, Problem
from texallon.core.document.recipe import Signal

Json = dict[str, Any]

Used = Callable[[Any], Iterator[str]]
"""Names of the signals that a piece of a document uses, formulas included."""

Renamed = Callable[[Json, str, str], Json]
"""A document with a signal under another name."""


class ShelfItem(Model):
    """A look and all that it is made from. The first of `looks` is the look itself."""

    looks: list[Look] = Field(min_length=1, max_length=64)
    signals: list[Signal] = Field(default_factory=list, max_length=256)
    numbers: list[NamedNumber] = Field(default_factory=list, max_length=256)
    locators: list[Locator] = Field(default_factory=list, max_length=256)
    tags: list[Annotated[str, Field(min_length=1, max_length=40)]] = Field(default_factory=list, max_length=16)
    note: Annotated[str, Field(max_length=2000)] = ""

    @property
    def name(self) -> Name:
        """Of the look itself."""
        return self.looks[0].name


def gathered(
    document: Json, name: str, tags: Sequence[str], note: str, used: Used, place: Callable[[str, str], Json]
) -> ShelfItem:
    """A look of a shot with all that it is made from.

    Parameters
    ----------
    document : dict
        Of a shot, as plain JSON.
    name : str
        Of the look.
    tags : sequence of str
        Words to find it by.
    note : str
        What is to be known of it.
    used : callable
        Names of signals that a piece of a document uses.
    place : callable
        Gives position, rotation and stretch of a `locator` or an `object`, by its name, in the world.

    Raises
    ------
    DocumentError
        Where there is no such look.
    """
    by_name = {each["name"]: each for each in document["looks"]}
    if name not in by_name:
        raise DocumentError([Problem("/looks", f"there is no look “{name}”")])
    looks = [by_name[each] for each in _closed([name], lambda each: carried_names(by_name[each]))]
    signals = {each["name"]: each for each in document.get("signals", [])}
    first = list(dict.fromkeys(each for look in looks for each in used(look) if each in signals))
    names = _closed(first, lambda each: [inner for inner in used(signals[each]) if inner in signals])
    parts: Json = deepcopy({"looks": looks, "signals": [signals[each] for each in names]})
    wanted = set(_named(parts, "number"))
    parts["numbers"] = [
        each
        for each in document.get("numbers", [])
        if each["name"] in wanted or each.get("look") in {look["name"] for look in looks}
    ]
    kept_looks = {None, *(look["name"] for look in looks)}
    parts["numbers"] = [
        {**each, "project": False, "look": each.get("look") if each.get("look") in kept_looks else None}
        for each in parts["numbers"]
    ]
    locators = {each["name"]: each for each in document.get("locators", [])}
    objects = list(dict.fromkeys(_named(parts, "object")))
    known = {each["name"] for each in document.get("objects", [])}
    stand_ins = {each: _free(each, locators) for each in objects}
    parts = _replaced(parts, "object", lambda ref: {"locator": stand_ins[ref["object"]]})
    # Nothing that a locator would follow or aim at comes along: it stands where that puts it.
    measured = [each for each in dict.fromkeys(_named(parts, "locator")) if each in locators]
    kept = [{"name": each, **place("locator", each)} for each in measured]
    kept += [{"name": stand_ins[each], **place("object", each)} for each in objects if each in known]
    item = {**parts, "locators": kept, "tags": list(tags), "note": note}
    return ShelfItem.model_validate(item)


def taken(
    document: Json, item: ShelfItem, renamed: Renamed, link: Json | None, instead: str = ""
) -> tuple[str, list[Json]]:
    """How a shot takes a look from the shelf: the name that it has there, and the operations (RFC 6902).

    What the shot has already under the same name and with the same content is used; what only shares a name gets another one.

    Parameters
    ----------
    document : dict
        Of the shot, as plain JSON.
    item : ShelfItem
        From the shelf.
    renamed : callable
        Gives a document with a signal under another name.
    link : dict, optional
        `name` and `version` by which the look stays linked to the shelf; nothing for a copy of its own.
    instead : str, optional
        A look of the shot whose layers the item's take the place of: it keeps its name.

    Raises
    ------
    DocumentError
        Where there is no look to replace.
    """
    made: Json = json.loads(item.model_dump_json())
    operations: list[Json] = []
    for kind in ("signals", "locators", "numbers"):
        there = {each["name"]: each for each in document.get(kind, [])}
        for name in [each["name"] for each in made[kind]]:
            own = next(each for each in made[kind] if each["name"] == name)
            if name not in there:
                there[name] = own
                continue
            knob = (
                kind == "numbers" and instead and there[name].get("look") == instead
            )  # turned here: it stays as it is
            if kind == "locators" or knob or _same(own, there[name]):
                made[kind] = [
                    each for each in made[kind] if each is not own
                ]  # a shot's own locator is where the look belongs
                continue
            free = _free(name, there)
            there[free] = own
            made = renamed(made, name, free) if kind == "signals" else _renumbered(made, name, free)
    names = {each["name"]: each for each in document["looks"]}
    if instead and instead not in names:
        raise DocumentError([Problem("/looks", f"there is no look “{instead}”")])
    for index, name in enumerate([each["name"] for each in made["looks"]]):
        if index == 0 and instead:
            made = _relooked(made, name, instead)
            continue
        wanted = _free(name, names)
        if index and name in names and _same(made["looks"][index], names[name]):
            continue
        made = _relooked(made, name, wanted)
        names[wanted] = made["looks"][index]
    for kind in ("signals", "locators", "numbers"):
        operations += [{"op": "add", "path": f"/{kind}/-", "value": _bare(each)} for each in made[kind]]
    first = {**_bare(made["looks"][0]), "shelf": link}
    if instead:
        at = [each["name"] for each in document["looks"]].index(instead)
        operations += [
            {"op": "add", "path": f"/looks/{at}/layers", "value": first["layers"]},
            {"op": "add", "path": f"/looks/{at}/shelf", "value": link},
        ]
    else:
        operations.append({"op": "add", "path": "/looks/-", "value": first})
    fresh = [each for each in made["looks"][1:] if each["name"] not in {look["name"] for look in document["looks"]}]
    operations += [{"op": "add", "path": "/looks/-", "value": _bare(each)} for each in fresh]
    return str(first["name"]), operations


def carried_names(look: Json) -> list[str]:
    """The looks that a look's layers carry.

    Parameters
    ----------
    look : dict
        As plain JSON.
    """
    return [layer["look"]["look"] for layer in look["layers"] if layer.get("look")]


def _closed(start: Sequence[str], leads: Callable[[str], Sequence[str]]) -> list[str]:
    """Names, and all that they lead to, nearest first."""
    found = list(start)
    for each in found:
        found += [name for name in dict.fromkeys(leads(each)) if name not in found]
    return found


def _named(part: Any, kind: str) -> Iterator[str]:
    """Names that references of a kind hold: `{"locator": NAME}`, `{"number": NAME, …}`."""
    if isinstance(part, dict):
        if isinstance(part.get(kind), str) and _is_reference(part, kind):
            yield part[kind]
        if kind == "number" and isinstance(part.get("expression"), str):
            yield from numbers_in_formula(part["expression"])
        for each in part.values():
            yield from _named(each, kind)
    elif isinstance(part, list):
        for each in part:
            yield from _named(each, kind)


def _is_reference(part: Mapping[str, Any], kind: str) -> bool:
    return part.keys() <= ({kind, "times", "plus"} if kind == "number" else {kind})


def _replaced(part: Any, kind: str, change: Callable[[Json], Json]) -> Any:
    if isinstance(part, dict):
        if isinstance(part.get(kind), str) and _is_reference(part, kind):
            return change(part)
        return {key: _replaced(each, kind, change) for key, each in part.items()}
    return [_replaced(each, kind, change) for each in part] if isinstance(part, list) else part


def _renumbered(item: Json, old: str, new: str) -> Json:
    quoted = {old: f'number("{new}")'}

    def formulas(part: Any) -> Any:
        if isinstance(part, dict):
            own = {key: formulas(each) for key, each in part.items()}
            return (
                {**own, "expression": formula_with(own["expression"], quoted.get)}
                if isinstance(own.get("expression"), str)
                else own
            )
        return [formulas(each) for each in part] if isinstance(part, list) else part

    made: Json = formulas(
        _replaced(item, "number", lambda ref: {**ref, "number": new} if ref["number"] == old else ref)
    )
    made["numbers"] = [{**each, "name": new} if each["name"] == old else each for each in made["numbers"]]
    return made


def _relooked(item: Json, old: str, new: str) -> Json:
    made = deepcopy(item)
    for look in made["looks"]:
        look["name"] = new if look["name"] == old else look["name"]
        for layer in look["layers"]:
            if layer.get("look") and layer["look"]["look"] == old:
                layer["look"]["look"] = new
    for number in made["numbers"]:
        number["look"] = new if number.get("look") == old else number.get("look")
    return made


def _free(name: str, taken: Mapping[str, Any]) -> str:
    """The name, or with a number after it where it is in use."""
    number, free = 2, name
    while free in taken:
        free, number = f"{name[:70]} {number}", number + 1
    return free


def _bare(part: Any) -> Any:
    """Without ids: the shot gives its own."""
    if isinstance(part, dict):
        return {key: _bare(each) for key, each in part.items() if key != "id"}
    return [_bare(each) for each in part] if isinstance(part, list) else part


def _same(one: Any, other: Any) -> bool:
    return bool(_bare(one) == _bare(other))
