"""Recipes by address: a JSON Pointer by stable ids, which still means the same recipe after any edit of what lies around it."""

from collections.abc import Mapping
from functools import reduce
from typing import Any

from pydantic import ValidationError

from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.ids import member, position
from texallon.core.document.problem import DocumentError, Path, Problem, tokens_of
from texallon.core.document.recipe import Recipe
from texallon.core.document.shot import Shot


def find_recipe(shot: Shot, address: str) -> tuple[Recipe | None, Path]:
    """The recipe at an address, and its path by positions; no recipe where a mask may be and none is.

    Parameters
    ----------
    shot : Shot
        The document.
    address : str
        JSON Pointer: of a layer's `where`, a channel's or signal's `recipe`, or a parameter of a step of one of these, as deep as needed.
        What stands in lists is named by id or position.

    Raises
    ------
    DocumentError
        Where there is no recipe there.
    """
    here: Any = shot
    path: list[str | int] = []
    for token in tokens_of(address):
        at = position(here, token)
        path.append(token if at is None else at)
        here = member(here, token)
    if here is None and path[-1:] == ["where"]:
        return None, tuple(path)
    if isinstance(here, Mapping) and "steps" in here:
        try:
            here = Recipe.model_validate(here)
        except ValidationError:
            raise _no_recipe(address) from None
    if not isinstance(here, Recipe):
        raise _no_recipe(address)
    return here, tuple(path)


def recipe_label(document: Any, path: Path) -> str:
    """What people call the recipe at a path: its signal, or its layer and what of it.

    Parameters
    ----------
    document : Any
        Of a shot, parsed or as JSON.
    path : tuple
        By positions.

    Examples
    --------
    >>> recipe_label({"looks": [{"layers": [{"name": "wet"}]}]}, ("looks", 0, "layers", 0, "where"))
    'wet · where'
    """
    if path[0] == "signals":
        return f"signal {_name_at(document, path[:2])}"
    part, *more = path[4:]
    name = _name_at(document, path[:4])
    return f"{name} · {part if part == 'where' else CHANNEL_BY_NAME[str(more[0])].label}"


def _name_at(document: Any, path: Path) -> str:
    found = reduce(member, path, document)
    return str(member(found, "name"))


def _no_recipe(address: str) -> DocumentError:
    hint = "a recipe is named as /looks/ID/layers/ID/where, …/channels/NAME/recipe or /signals/ID/recipe"
    return DocumentError([Problem(address, "there is no recipe at this address", hint)])
