"""The files that a document names, wherever they stand in it."""

from collections.abc import Callable, Iterator
from typing import Any

Json = dict[str, Any]


def references(value: Any) -> Iterator[Json]:
    """Every `{file, sha256}` of a document, in its order.

    >>> [each["file"] for each in references({"objects": [{"geometry": {"file": "a.glb", "sha256": None}}]})]
    ['a.glb']
    """
    if isinstance(value, dict):
        if is_reference(value):
            yield value
        else:
            for each in value.values():
                yield from references(each)
    elif isinstance(value, list):
        for each in value:
            yield from references(each)


def with_references(value: Any, change: Callable[[Json], Json]) -> Any:
    """A copy of a document with each reference changed."""
    if isinstance(value, dict):
        return change(value) if is_reference(value) else {k: with_references(v, change) for k, v in value.items()}
    return [with_references(each, change) for each in value] if isinstance(value, list) else value


def is_reference(value: Json) -> bool:
    """Whether parsed JSON names a file."""
    return isinstance(value.get("file"), str) and set(value) <= {"file", "sha256"}
