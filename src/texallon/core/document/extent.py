"""What any JSON must keep to before it is looked at as a document: how deep and how large it is, and which numbers and characters it holds.

Everything that follows may then recurse, copy and count without asking again.
"""

import re
from math import isfinite
from typing import Any

from texallon.core.document.problem import DocumentError, Path, Problem, pointer

DEEPEST = 64
"""Levels of nesting: a recipe within an input within a recipe takes five."""

MOST = 400_000
"""Values in all."""

LONGEST = 4_000_000
"""Characters in all texts and names together."""

UNFIT = re.compile("[\0\ud800-\udfff]")
"""Characters that no database and no file can hold."""

EXACT = 2**53
"""Integers beyond are not exact in JSON's floating point (RFC 8259, section 6)."""


def check_extent(data: Any) -> int:
    """Raise `DocumentError` where JSON is too large, or holds a number or a character that nothing could be made of.

    Parameters
    ----------
    data : object
        Parsed JSON.

    Returns
    -------
    int
        How much it is: one for each value, and one for each character of its texts and names.

    Examples
    --------
    >>> check_extent({"title": "moss", "size": [1, 2]})
    18
    """
    size = _size_of_sound(data)
    return _size_with_places(data) if size is None else size


def _size_of_sound(data: Any) -> int | None:
    """The same where nothing is amiss, else nothing: no places are noted, as this is asked at every move of a hand."""
    values = characters = 0
    level = [data]
    for _ in range(DEEPEST + 1):
        values += len(level)
        if values > MOST:
            return None
        below: list[Any] = []
        texts: list[str] = []
        for value in level:
            kind = type(value)
            if kind is str:
                texts.append(value)
            elif kind is dict:
                texts += value
                below += value.values()
            elif kind is list:
                below += value
            elif not (value is None or kind is bool or _is_fit(value)):
                return None
        try:
            text = "".join(texts)
        except TypeError:  # a name that is none
            return None
        characters += len(text)
        if characters > LONGEST or UNFIT.search(text):
            return None
        if not below:
            return values + characters
        level = below
    return None


def _is_fit(value: Any) -> bool:
    """Whether it is a number that a document can hold."""
    return isfinite(value) if type(value) is float else type(value) is int and -EXACT <= value <= EXACT


def _size_with_places(data: Any) -> int:
    values = characters = 0
    waiting: list[tuple[Any, Path]] = [(data, ())]
    while waiting:
        value, path = waiting.pop()
        values += 1
        if len(path) > DEEPEST:
            raise _refused(path[:8], f"this is nested more than {DEEPEST} deep", "")
        if isinstance(value, dict):
            for name, each in value.items():
                characters += _text(name, path)
                waiting.append((each, (*path, name)))
        elif isinstance(value, list):
            waiting.extend((each, (*path, index)) for index, each in enumerate(value))
        elif isinstance(value, str):
            characters += _text(value, path)
        elif isinstance(value, (int, float)) and not isinstance(value, bool):
            _number(value, path)
        if values + len(waiting) > MOST:
            raise _refused((), f"this holds more than {MOST:,} values", "")
        if characters > LONGEST:
            raise _refused((), f"the texts of this are longer than {LONGEST:,} characters", "")
    return values + characters


def _refused(path: Path, reason: str, hint: str) -> DocumentError:
    return DocumentError([Problem(pointer(*path), reason, hint)])


def _text(text: Any, path: Path) -> int:
    if not isinstance(text, str):
        raise _refused(path, "a name is a text", "")
    found = UNFIT.search(text)
    if found:
        what = "the character NUL" if found[0] == "\0" else "half of a character (a lone surrogate)"
        raise _refused(path, f"the text holds {what} at {found.start() + 1}", "leave it out")
    return len(text)


def _number(value: int | float, path: Path) -> None:
    if isinstance(value, int):
        if not -EXACT <= value <= EXACT:
            raise _refused(path, "the whole number is too large", f"at most {EXACT:,}")
    elif not isfinite(value):
        raise _refused(path, f"{value} is not a number that JSON knows", "a finite one")
