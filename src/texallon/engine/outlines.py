"""The falloff shapes of the recipe that lies open, drawn over the picture: where they stand, and where they have faded."""

from collections.abc import Iterator
from typing import Any

import numpy as np
import numpy.typing as npt

from texallon.core.document import DocumentError
from texallon.core.document.recipe import Recipe, SignalRef
from texallon.core.document.recipe_address import find_recipe
from texallon.core.document.resolved import ResolvedShot
from texallon.core.document.space import LocatorRef, ObjectRef
from texallon.core.ops.falloff import Falloff
from texallon.core.ops.falloff_outline import outline
from texallon.core.ops.registry import make_op
from texallon.core.render.camera.view import View
from texallon.core.signal.placement import Places

MOST = 24
"""Shapes that are drawn at once."""


def outlines(shot: ResolvedShot, address: str, view: View) -> list[dict[str, Any]]:
    """For each shape in a recipe that stands in the world: its lines, and those where its border ends, in shares of the picture.

    Parameters
    ----------
    shot : ResolvedShot
        At its time.
    address : str
        Of the recipe; of none nothing is drawn.
    view : View
        The camera's.
    """
    if not address:
        return []
    try:
        recipe, _ = find_recipe(shot, address)
    except DocumentError:
        return []
    made: list[dict[str, Any]] = []
    places = Places(shot)
    for shape in _shapes(shot, recipe, ()):
        matrix = _standing(shot, places, shape)
        if matrix is None or len(made) == MOST:
            continue
        grown = {"outwards": shape.border, "inwards": -shape.border, "both ways": shape.border / 2}[shape.fades]
        lines, faded = (_drawn(outline(shape, by), matrix, view) for by in (0.0, grown))
        if lines or faded:
            made.append({"shape": shape.shape, "lines": lines, "faded": faded if shape.border > 0 else []})
    return made


def _shapes(shot: ResolvedShot, recipe: Recipe | SignalRef | None, seen: tuple[str, ...]) -> Iterator[Falloff]:
    """Those of a recipe's steps that are on, of recipes within them, and of signals that they name."""
    if isinstance(recipe, SignalRef):
        yield from _named(shot, recipe.signal, seen)
    if not isinstance(recipe, Recipe):
        return
    for step in recipe.steps:
        if not step.on:
            continue
        op = make_op(step)
        if isinstance(op, Falloff):
            yield op
        for value in step.params.values():
            if isinstance(value, dict) and "steps" in value:
                yield from _shapes(shot, Recipe.model_validate(value), seen)
            elif isinstance(value, dict) and isinstance(value.get("signal"), str):
                yield from _named(shot, value["signal"], seen)
        if step.op == "signal" and isinstance(step.params.get("signal"), str):
            yield from _named(shot, step.params["signal"], seen)


def _named(shot: ResolvedShot, name: str, seen: tuple[str, ...]) -> Iterator[Falloff]:
    found = next((each for each in shot.signals if each.name == name), None)
    if found is not None and name not in seen:
        yield from _shapes(shot, found.recipe, (*seen, name))


def _standing(shot: ResolvedShot, places: Places, shape: Falloff) -> npt.NDArray[np.float64] | None:
    """Where a shape stands in the world; nothing where that differs from object to object."""
    origin = shape.origin
    if origin == "world":
        return np.eye(4)
    if isinstance(origin, LocatorRef) and any(each.name == origin.locator for each in shot.locators):
        return places.locator(origin.locator)
    if isinstance(origin, ObjectRef) and any(each.name == origin.object for each in shot.objects):
        return places.object(origin.object)
    return None


def _drawn(
    lines: list[npt.NDArray[np.float64]], matrix: npt.NDArray[np.float64], view: View
) -> list[list[list[float]]]:
    """Lines in the picture, in as many pieces as lie before the camera."""
    found: list[list[list[float]]] = []
    for line in lines:
        piece: list[list[float]] = []
        for point in line @ matrix[:3, :3].T + matrix[:3, 3]:
            x, y, depth = view.project(point.astype(np.float32))
            if depth > 0.01:
                piece.append([round(x, 5), round(y, 5)])
            else:
                found, piece = ([*found, piece] if len(piece) > 1 else found), []
        if len(piece) > 1:
            found.append(piece)
    return found
