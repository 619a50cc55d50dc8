"""Reading a shot from JSON: older forms are brought up to date, and every problem is named with its place."""

import json
from collections.abc import Iterator
from itertools import islice
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from texallon.core.document.along import along_problems
from texallon.core.document.array_problems import array_problems
from texallon.core.document.camera import Camera
from texallon.core.document.carried_looks import carrying_problems
from texallon.core.document.domain_problems import domain_problems
from texallon.core.document.extent import check_extent
from texallon.core.document.ids import complete_ids
from texallon.core.document.light import Light
from texallon.core.document.named_number import number_problems
from texallon.core.document.names import duplicates, nearest
from texallon.core.document.number_use import PLACES, number_use_problems, with_number_uses
from texallon.core.document.parents import parent_problems
from texallon.core.document.problem import DocumentError, Problem, pointer
from texallon.core.document.remembered import signals_of
from texallon.core.document.remembered_problems import remembered_problems
from texallon.core.document.shot import SCHEMA, Shot
from texallon.core.document.track import MOVED, number_limits, track_problems

MOST_PROBLEMS = 50
"""Problems that are listed at once."""

LARGEST = 4_000_000
"""The longest document that is read, in characters."""


def parse_json(text: str) -> Any:
    """Parse JSON of at most `LARGEST` characters, refusing NaN and infinity; raises `DocumentError`.

    Parameters
    ----------
    text : str
        As a person wrote it.
    """
    if len(text) > LARGEST:
        raise DocumentError([Problem("", f"the document is {len(text):,} characters long", f"at most {LARGEST:,}")])
    try:
        return json.loads(text, parse_constant=_refuse_constant)
    except (ValueError, RecursionError) as error:
        raise DocumentError([Problem("", f"this is not JSON: {error}")]) from error


def _refuse_constant(word: str) -> float:
    raise ValueError(f"{word} is not a number that JSON knows")


def migrate(data: Any) -> Any:
    """Bring an older document up to the present form; a newer one is refused rather than half understood.

    Form 2 gave what stands in lists an id. The same document always comes out the same.

    Parameters
    ----------
    data : Any
        Parsed JSON; left as it is.

    Raises
    ------
    DocumentError
        Where it is no shot, does not say which form it has, or has one that is not known.
    """
    if not isinstance(data, dict):
        raise DocumentError([Problem("", "a shot is a JSON object", f'such as {{"schema": {SCHEMA}, …}}')])
    found = data.get("schema")
    if found is None:
        raise DocumentError([Problem("/schema", "the document does not say which form it has", f"schema: {SCHEMA}")])
    if isinstance(found, int) and found > SCHEMA:
        raise DocumentError([Problem("/schema", f"form {found} is newer than this program", f"at most {SCHEMA}")])
    if found == 1 and not isinstance(found, bool):
        data = {**data, "schema": SCHEMA}
    return complete_ids(data)


def completed(data: Any) -> Any:
    """A stored document in the form of today, with every member that was added since it was written; not checked.

    Parameters
    ----------
    data : Any
        Parsed JSON; left as it is.

    Raises
    ------
    DocumentError
        As `migrate`.
    """
    found = migrate(data)
    try:
        return shot_json(Shot.model_validate(found))
    except ValidationError:  # whoever checks it will hear; it can still be looked at, and mended
        return found


def read_shot(data: Any) -> Shot:
    """A validated shot from parsed JSON; raises `DocumentError` with a pointer to each offending value.

    Checks the shape and that names exist; what ops think of their parameters is checked where ops are known.

    Parameters
    ----------
    data : object
        Parsed JSON; left as it is.
    """
    check_extent(data)
    try:
        shot = Shot.model_validate(migrate(data))
    except ValidationError as error:
        raise DocumentError([_problem(detail) for detail in error.errors()[:MOST_PROBLEMS]]) from error
    problems = list(islice(_name_problems(shot), MOST_PROBLEMS))
    if problems:
        raise DocumentError(problems)
    return shot


def shot_json(shot: Shot) -> dict[str, Any]:
    """The document as plain JSON values, every member written out.

    Parameters
    ----------
    shot : Shot
        Checked.
    """
    result: dict[str, Any] = shot.model_dump(mode="json", by_alias=True)
    return result


def _problem(detail: ErrorDetails) -> Problem:
    # Which member of a union it is tells a person nothing.
    path = [part for part in detail["loc"] if part not in ("Recipe", "SignalRef") and not str(part).startswith("‹")]
    found = detail.get("input")
    shown = "" if isinstance(found, (dict, list)) or found is None else f"; found {found!r}"[:80]
    if detail["type"] == "missing":
        shown = ""
    return Problem(pointer(*path), detail["msg"] + shown)


def _name_problems(shot: Shot) -> Iterator[Problem]:
    """One after the other, as they are wanted: a suggestion takes a while where there are many names."""

    def unique(names: list[str], *path: str | int) -> Iterator[Problem]:
        for index in duplicates(names):
            reason = f"“{names[index]}” stands here for the second time"
            yield Problem(pointer(*path, index, "name"), reason, "names are unique")

    def known(name: str | None, names: set[str], kind: str, *path: str | int) -> Iterator[Problem]:
        if name is not None and name not in names:
            yield Problem(pointer(*path), f"there is no {kind} “{name}”", nearest(name, names))

    for kind in ("locators", "objects", "object_groups", "numbers", "signals", "looks", "lights"):
        yield from unique([each.name for each in getattr(shot, kind)], kind)
    looks = {look.name for look in shot.looks}
    signals = {signal.name for signal in shot.signals}
    for index, look in enumerate(shot.looks):
        yield from unique([layer.name for layer in look.layers], "looks", index, "layers")
        for layer_index, layer in enumerate(look.layers):
            if layer.look is not None:
                yield from known(layer.look.look, looks, "look", "looks", index, "layers", layer_index, "look", "look")
    yield from carrying_problems(shot.looks)
    for index, item in enumerate(shot.objects):
        yield from known(item.look, looks, "look", "objects", index, "look")
        yield from known(item.filled_with, looks, "look", "objects", index, "filled_with")
        yield from unique([part.name for part in item.parts], "objects", index, "parts")
        for part_index, part in enumerate(item.parts):
            yield from known(part.look, looks, "look", "objects", index, "parts", part_index, "look")
            picked = None if part.picked is None else part.picked.signal
            yield from known(picked, signals, "signal", "objects", index, "parts", part_index, "picked", "signal")
        for number, change in enumerate(item.copies):
            yield from known(change.signal, signals, "signal", "objects", index, "copies", number, "signal")
        floating = None if item.floats is None else item.floats.signal
        yield from known(floating, signals, "signal", "objects", index, "floats", "signal")
        for number, each in enumerate(item.remembers):
            for field, name in signals_of(each).items():
                yield from known(name, signals, "signal", "objects", index, "remembers", number, field)
        yield from remembered_problems(item, index, shot.frames)
        yield from array_problems(item, index, shot.objects)
    if shot.atmosphere is not None:
        yield from known(shot.atmosphere.look, looks, "look", "atmosphere", "look")
    yield from domain_problems(shot)
    yield from along_problems(shot.locators, shot.objects)
    yield from number_problems(shot.numbers, shot.signals, shot.looks)
    members = {name: getattr(shot, name) for name in PLACES}
    misused = list(number_use_problems(members, shot.numbers, shot.number_uses))
    yield from misused
    astray = list(
        track_problems({name: getattr(shot, name) for name in MOVED}, shot.tracks, shot.number_uses, shot.frames.clock)
    )
    yield from astray
    limits = {} if misused or astray else number_limits({"numbers": shot.numbers}, shot.tracks, shot.frames.clock)
    for end in (0, 1) if limits else ():
        # What both ends of a number's keys can be, all between can.
        numbers = [
            each.model_copy(update={"value": limits[each.name][end]}) if each.name in limits else each
            for each in shot.numbers
        ]
        yield from number_use_problems(members, numbers, shot.number_uses)
        yield from number_problems(numbers, shot.signals, shot.looks)
    if not misused:
        placed = with_number_uses(members, shot.numbers, shot.number_uses)
        yield from _aim_problems(placed["camera"], placed["lights"])
    yield from parent_problems(
        {"objects": shot.objects, "locators": shot.locators, "object_groups": shot.object_groups}
    )


def _aim_problems(camera: Camera, lights: list[Light]) -> Iterator[Problem]:
    if camera.position == camera.target:
        yield Problem("/camera/target", "the camera stands on the point it looks at", "move one of them")
    for index, light in enumerate(lights):
        if light.position == light.target:
            yield Problem(pointer("lights", index, "target"), "the light stands on the point it faces")
