"""Stable ids: what stands in a list is named by an id of its own, which stays when its name or its place in the list changes."""

import hashlib
from collections.abc import Mapping, Sequence
from typing import Annotated, Any

from pydantic import BaseModel, Field

from texallon.core.document.base import Model
from texallon.core.document.problem import DocumentError, Path, Problem, pointer, tokens_of

Id = Annotated[str, Field(pattern=r"^(?:[a-z][a-z0-9]{0,31})?$")]
"""Unique among its siblings; begins with a letter, so that it can't be taken for a position. Empty where none was given yet."""

LISTS = frozenset(
    {
        "looks",
        "layers",
        "steps",
        "space",
        "objects",
        "object_groups",
        "parts",
        "remembers",
        "locators",
        "lights",
        "light_groups",
        "signals",
        "numbers",
        "number_uses",
        "views",
        "tracks",
        "keys",
    }
)
"""Lists whose members have ids."""


NOTHING = object()
"""Stands for what is not there, as `None` may be a value."""


class Identified(Model):
    """A member of a list, named by an id that stays."""

    id: Id = Field("", description="Names it in patches and addresses; made by the program where it is left out.")


def complete_ids(data: Any) -> Any:
    """A document in which every member of a list that should have an id has one of its own.

    The same document always gets the same ids: from the names and places that lead to what has none. Of two siblings with one id the
    second gets another, as a copy should.

    Parameters
    ----------
    data : Any
        Parsed JSON; left as it is, and given back itself where nothing is missing.

    Examples
    --------
    >>> made = complete_ids({"looks": [{"name": "a", "layers": [{"name": "b"}]}]})
    >>> made["looks"][0]["id"] != made["looks"][0]["layers"][0]["id"]
    True
    >>> complete_ids(made) == made
    True
    """
    return data if _is_complete(data) else _completed(data, "")


def _is_complete(data: Any) -> bool:
    """Whether no id is missing or taken twice, as in every document that is stored."""
    waiting = [data]
    while waiting:
        value = waiting.pop()
        if isinstance(value, list):
            waiting += [each for each in value if isinstance(each, (dict, list))]
        elif isinstance(value, dict):
            for key, each in value.items():
                if not isinstance(each, (dict, list)):
                    continue
                if key in LISTS and isinstance(each, list):
                    members = [member for member in each if isinstance(member, dict)]
                    ids = [own for own in (member.get("id", "") for member in members) if isinstance(own, str)]
                    if "" in ids or len(set(ids)) < len(ids):
                        return False
                    waiting += members
                else:
                    waiting.append(each)
    return True


def _completed(value: Any, trail: str) -> Any:
    if isinstance(value, dict):
        made = {}
        for key, each in value.items():
            if key in LISTS and isinstance(each, list):
                made[key] = _members(each, f"{trail}/{key}")
            else:
                made[key] = _completed(each, f"{trail}/{key}")
        return made
    if isinstance(value, list):
        return [_completed(each, f"{trail}/{index}") for index, each in enumerate(value)]
    return value


def _members(values: list[Any], trail: str) -> list[Any]:
    taken = set[str]()
    made = []
    for index, each in enumerate(values):
        if not isinstance(each, dict):
            made.append(each)
            continue
        own = each.get("id", "")
        name = each.get("name") or f"{each.get('op', '')}{index}"
        if own == "" or (isinstance(own, str) and own in taken):
            own = _new_id(f"{trail}/{name}", taken)
        if isinstance(own, str):
            taken.add(own)
        inner = _completed({key: part for key, part in each.items() if key != "id"}, f"{trail}/{own}")
        made.append({"id": own, **inner})
    return made


def _new_id(trail: str, taken: set[str]) -> str:
    number = 0
    while True:
        digest = hashlib.blake2b(f"{trail}#{number}".encode(), digest_size=8).hexdigest()
        made = chr(ord("a") + int(digest[:2], 16) % 26) + digest[2:8]
        if made not in taken:
            return made
        number += 1


def without_ids(value: Any) -> Any:
    """Parsed JSON with no ids, to compare what is made alike.

    Parameters
    ----------
    value : object
        Parsed JSON, or a number.
    """
    if isinstance(value, dict):
        return {key: without_ids(each) for key, each in value.items() if key != "id"}
    return [without_ids(each) for each in value] if isinstance(value, list) else value


def by_position(document: Any, path: str) -> str:
    """A JSON Pointer with positions in place of the ids that it goes by.

    Parameters
    ----------
    document : Any
        What it points into.
    path : str
        Tokens that lie in a list may be positions, `-`, or ids.

    Raises
    ------
    DocumentError
        Where something that it names by id is gone.

    Examples
    --------
    >>> by_position({"looks": [{"id": "ab"}, {"id": "cd", "name": "x"}]}, "/looks/cd/name")
    '/looks/1/name'
    """
    tokens: list[str | int] = []
    here = document
    for token in tokens_of(path):
        if isinstance(here, list):
            at = _position(here, token, path)
            tokens.append(at)
            here = here[at] if isinstance(at, int) and at < len(here) else None
        else:
            tokens.append(token)
            here = here.get(token) if isinstance(here, dict) else None
    return pointer(*tokens)


def _position(values: list[Any], token: str, path: str) -> str | int:
    if token == "-" or not token[:1].isalpha():
        return int(token) if token.isdigit() else token
    at = position(values, token)
    if at is not None:
        return at
    raise DocumentError([Problem(path, "what this names is not there any more", "it was taken away meanwhile")])


def member(value: Any, token: str | int) -> Any:
    """What stands within something under a name, or at a position or id; `NOTHING` where there is none.

    Parameters
    ----------
    value : object
        Parsed JSON, or part of a document.
    token : str or int
        One token of a path or pointer.
    """
    if isinstance(value, Mapping):
        return value.get(token, NOTHING)
    if isinstance(value, BaseModel):
        return getattr(value, str(token)) if token in type(value).model_fields else NOTHING
    at = position(value, token)
    return NOTHING if at is None else value[at]


def found_at(here: Any, tokens: Sequence[str]) -> Any:
    """What stands at the end of a way of names, ids and positions; `NOTHING` where there is none.

    Parameters
    ----------
    here : object
        Parsed JSON, or part of a document.
    tokens : sequence of str
        Of a JSON Pointer.
    """
    for token in tokens:
        here = member(here, token)
        if here is NOTHING:
            break
    return here


def position(value: Any, token: str | int) -> int | None:
    """Where in a list something stands that is named by its id or position.

    Parameters
    ----------
    value : object
        What may be a list.
    token : str or int
        An id or a position.
    """
    if not isinstance(value, Sequence) or isinstance(value, str):
        return None
    return next((at for at, each in enumerate(value) if str(token) in (str(at), id_of(each))), None)


def id_of(value: Any) -> str:
    """The id of a member of a list; empty where it has none.

    Parameters
    ----------
    value : object
        Parsed JSON, or part of a document.
    """
    found = member(value, "id") if isinstance(value, Mapping | BaseModel) else NOTHING
    return found if isinstance(found, str) else ""


def by_id(document: Any, path: Path) -> str:
    """A JSON Pointer that goes by ids, from a path of positions.

    Parameters
    ----------
    document : object
        Parsed JSON, or a document; left as it is.
    path : tuple
        Names and positions.

    Examples
    --------
    >>> by_id({"looks": [{"id": "ab", "layers": [{"id": "cd"}]}]}, ("looks", 0, "layers", 0, "where"))
    '/looks/ab/layers/cd/where'
    """
    tokens: list[str | int] = []
    here = document
    for token in path:
        here, listed = member(here, token), position(here, token) is not None
        tokens.append((id_of(here) or token) if listed else token)
    return pointer(*tokens)
