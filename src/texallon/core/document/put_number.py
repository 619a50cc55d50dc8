"""A part of a document with another number in one place."""

from typing import Any

from pydantic import BaseModel

from texallon.core.document.ids import position


def put_number(here: Any, tokens: list[str], value: float) -> Any:
    """A part of the document with a number in one place; what holds it is checked anew, for the limits that it has.

    Parameters
    ----------
    here : object
        A model, list, tuple or mapping; left as it is.
    tokens : list of str
        The way to the place, by names, ids and positions.
    value : float
        What is to stand there.

    Raises
    ------
    ValidationError
        Where it can't.
    """
    if not tokens:
        return value
    first, *rest = tokens
    if isinstance(here, BaseModel):
        own = {name: getattr(here, name) for name in type(here).model_fields}
        changed = {**own, first: put_number(own[first], rest, value)}
        return type(here).model_validate(changed) if _is_leaf(own[first], rest) else here.model_copy(update=changed)
    if isinstance(here, dict):
        return {**here, first: put_number(here[first], rest, value)}
    at = position(here, first)
    inner = list(here)
    if at is not None:
        inner[at] = put_number(inner[at], rest, value)
    return type(here)(inner)


def _is_leaf(own: Any, rest: list[str]) -> bool:
    return not rest or (len(rest) == 1 and isinstance(own, tuple))
