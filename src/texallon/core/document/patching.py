"""Editing a document by JSON Patch (RFC 6902)."""

from typing import Any

import jsonpatch
import jsonpointer

from texallon.core.document.extent import check_extent
from texallon.core.document.ids import by_position
from texallon.core.document.problem import DocumentError, Problem

LONGEST = 200
"""The most operations one patch may have."""


ROOM = 2_000_000
"""Values and characters that all copies of one patch may add."""


def apply_patch(document: Any, patch: Any) -> Any:
    """A patched copy of a parsed document; the original is left as it was. Pointers may go by ids in lists (see `ids`).

    Raises `DocumentError` pointing at the operation's target where the patch does not apply.

    Parameters
    ----------
    document : object
        Parsed JSON; left as it is.
    patch : object
        Operations of RFC 6902.
    """
    if not isinstance(patch, list) or not all(isinstance(operation, dict) for operation in patch):
        raise DocumentError([Problem("", "a patch is a list of operations (RFC 6902)")])
    if len(patch) > LONGEST:
        raise DocumentError([Problem("", f"the patch has {len(patch)} operations", f"at most {LONGEST}")])
    check_extent(patch)
    result = copied(document)
    room = ROOM
    for index, operation in enumerate(patch):
        target = operation.get("path")
        try:
            operation = _by_position(result, operation)
            if operation.get("op") == "copy":
                # What is copied may hold what was copied before: its size could double each time.
                room -= check_extent(jsonpointer.resolve_pointer(result, operation.get("from", "")))
                if room < 0:
                    raise DocumentError([Problem(str(target), f"operation {index} copies too much", "copy less")])
            result = jsonpatch.apply_patch(result, [operation], in_place=True)
        except (
            jsonpatch.JsonPatchException,
            jsonpointer.JsonPointerException,
            TypeError,
            KeyError,
            ValueError,
            RecursionError,
        ) as error:
            where = target if isinstance(target, str) else ""
            raise DocumentError([Problem(where, f"operation {index} can't be applied: {error}")]) from error
    return result


def _by_position(document: Any, operation: dict[str, Any]) -> dict[str, Any]:
    """An operation whose pointers may go by ids, with positions in their place."""
    pointers = {name: operation[name] for name in ("path", "from") if isinstance(operation.get(name), str)}
    return {**operation, **{name: by_position(document, each) for name, each in pointers.items()}}


def copied(value: Any) -> Any:
    """A copy of parsed JSON. Python's own, for anything, takes three times as long, at every move of a hand.

    Parameters
    ----------
    value : object
        Parsed JSON, or a number.
    """
    if isinstance(value, dict):
        return {key: copied(each) for key, each in value.items()}
    return [copied(each) for each in value] if isinstance(value, list) else value
