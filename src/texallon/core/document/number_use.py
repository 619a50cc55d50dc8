"""Named numbers in members of a shot that stand outside of recipes: a lamp's power, a placement, the lens, the surroundings.

What stands in the document there stays what it is, so that handles and older programs find a number; `resolve` puts the named one over it.
"""

from collections.abc import Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import Any

from pydantic import Field, ValidationError

from texallon.core.document.ids import NOTHING, Identified, by_id, found_at
from texallon.core.document.named_number import NamedNumber
from texallon.core.document.names import nearest
from texallon.core.document.number_ref import NumberRef
from texallon.core.document.problem import Problem, pointer, tokens_of
from texallon.core.document.put_number import put_number

PLACES = frozenset({"camera", "environment", "bloom", "lights", "locators", "object_groups", "objects"})
"""Members of a shot in which numbers may be named; what looks and signals hold names them where they stand."""


class NumberUse(NumberRef, Identified):
    """A place that takes a named number's value."""

    at: str = Field(
        min_length=2,
        max_length=200,
        pattern="^/",
        description="JSON Pointer by ids, such as /lights/ab12/power or /objects/cd34/position/1.",
    )


def with_number_uses(
    members: Mapping[str, Any],
    numbers: Sequence[NamedNumber],
    uses: Sequence[NumberUse],
    limits: Mapping[str, tuple[float, float]] = MappingProxyType({}),
) -> dict[str, Any]:
    """Members of a shot with the values of named numbers in the places that use them.

    A value that a place can't have, as a number with keys goes beyond these, is held between them there.

    Parameters
    ----------
    members : mapping
        Parts of a shot by the names of its fields.
    numbers : sequence of NamedNumber
        Of the shot.
    uses : sequence of NumberUse
        Checked, as `number_use_problems` does.
    limits : mapping, optional
        Between which values the keys of numbers lie, by name.
    """
    values = {each.name: each.value for each in numbers}
    made = dict(members)
    for use in uses:
        first, *rest = tokens_of(use.at)
        value = values[use.number]
        try:
            made[first] = put_number(made[first], rest, use.value_of(value))
        except ValidationError:
            if use.number not in limits:
                raise
            low, high = limits[use.number]
            made[first] = put_number(made[first], rest, use.value_of(min(max(value, low), high)))
    return made


def number_use_problems(
    members: Mapping[str, Any], numbers: Sequence[NamedNumber], uses: Sequence[NumberUse]
) -> Iterator[Problem]:
    """Uses of numbers that are not there, in places that are none, and values that a place can't have.

    Parameters
    ----------
    members : mapping
        Parts of a shot by the names of its fields.
    numbers : sequence of NamedNumber
        Of the shot.
    uses : sequence of NumberUse
        Of the shot.
    """
    known = {each.name: each.value for each in numbers}
    taken = set[tuple[str, ...]]()
    for index, use in enumerate(uses):
        at = pointer("number_uses", index, "at")
        tokens = tokens_of(use.at)
        found = found_at(members, tokens)
        if use.number not in known:
            reason = f"there is no number “{use.number}”"
            yield Problem(pointer("number_uses", index, "number"), reason, nearest(use.number, known))
        elif tokens[0] not in PLACES:
            yield Problem(at, f"“{tokens[0]}” has no numbers that can be named from here", nearest(tokens[0], PLACES))
        elif found is NOTHING:
            yield Problem(
                at, f"there is nothing at {use.at}", "an address that goes by ids, of something that is there"
            )
        elif by_id(members, tuple(tokens)) != use.at:
            yield Problem(at, f"{use.at} does not go by ids", by_id(members, tuple(tokens)))
        elif type(found) is not float:
            yield Problem(at, f"what stands at {use.at} is not a number that can be named", "the place of a number")
        elif tuple(tokens) in taken:
            yield Problem(at, f"a number is named for {use.at} already", "one for each place")
        else:
            taken.add(tuple(tokens))
            yield from _refused(members, tokens, use, known[use.number], at)


def _refused(members: Mapping[str, Any], tokens: list[str], use: NumberUse, value: float, at: str) -> Iterator[Problem]:
    wanted = use.value_of(value)
    try:
        put_number(members[tokens[0]], tokens[1:], wanted)
    except ValidationError as error:
        reason = f"“{use.number}” would make {' '.join(tokens[-2:])} {wanted:.6g}"
        yield Problem(at, reason, error.errors()[0]["msg"])
