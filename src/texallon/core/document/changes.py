"""What differs between two states of a shot, in words: “wet · roughness 0.45 → 0.2”."""

from collections.abc import Iterator
from typing import Any

from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.ids import member, without_ids
from texallon.core.document.problem import tokens_of

MOST = 40
"""More changes than this are only counted."""

SILENT = {
    "recipe",
    "steps",
    "params",
    "channels",
    "layers",
    "looks",
    "signals",
    "objects",
    "object_groups",
    "numbers",
    "locators",
    "lights",
}
"""Parts of a path that say nothing to a person."""


def changes(old: Any, new: Any) -> list[str]:
    """A line for each difference between two documents as plain JSON values, in the order of the document.

    Parameters
    ----------
    old : object
        Parsed JSON before.
    new : object
        Parsed JSON after.
    """
    lines = [*_walk(_without_uses(old), _without_uses(new), ()), *_uses(old, new), *_keys(old, new)]
    return lines if len(lines) <= MOST else [*lines[:MOST], f"and {len(lines) - MOST} more"]


def in_brief(lines: list[str], most: int) -> str:
    """Lines in a row, as many as fit; how many more there are is said.

    Parameters
    ----------
    lines : list of str
        As `changes` gives them.
    most : int
        Characters.

    Examples
    --------
    >>> in_brief(["wet · roughness 0.45 → 0.2", "moss added", "title a → b"], 48)
    'wet · roughness 0.45 → 0.2; moss added; 1 more'
    """
    for count in range(len(lines), 0, -1):
        left = len(lines) - count
        text = "; ".join([*lines[:count], *([f"{left} more"] if left else [])])
        if len(text) <= most:
            return text
    return f"{len(lines)} changes"[:most] if lines else ""


def in_words(document: Any, path: str) -> str:
    """What people call the place that a JSON Pointer by ids leads to: “basin stone · wet · roughness”.

    Parameters
    ----------
    document : object
        Parsed JSON that it points into; what is not there any more is left out.
    path : str
        JSON Pointer.
    """
    words: list[str] = []
    here = document
    for token in tokens_of(path):
        listed = isinstance(here, list)
        here = member(here, token)
        if listed:
            name = here.get("name") or here.get("op") if isinstance(here, dict) else None
            words += [str(name)] if name else []
        elif token not in SILENT:
            words.append(_word(token))
    return _where(tuple(words))


def _without_uses(document: Any) -> Any:
    if not isinstance(document, dict):
        return document
    return {key: each for key, each in document.items() if key not in ("number_uses", "tracks")}


def _uses(old: Any, new: Any) -> Iterator[str]:
    before, after = (
        {use["at"]: use for use in each.get("number_uses", [])} if isinstance(each, dict) else {} for each in (old, new)
    )
    for at in before:
        if at in after:
            continue
        yield f"{in_words(old, at)} does not follow {before[at]['number']} any more"
    for at, use in after.items():
        if at not in before:
            yield f"{in_words(new, at)} follows the number {use['number']}"
        else:
            yield from _walk(before[at], use, (in_words(new, at), "named number"))


def _keys(old: Any, new: Any) -> Iterator[str]:
    before, after = (
        {track["at"]: track for track in each.get("tracks", [])} if isinstance(each, dict) else {}
        for each in (old, new)
    )
    for at in before:
        if at not in after:
            yield f"{in_words(old, at)} has no {_moved_by(before[at]).removeprefix('a ')} any more"
    for at, track in after.items():
        if at not in before:
            yield f"{in_words(new, at)} has {_moved_by(track)}"
        elif without_ids(before[at]) != without_ids(track):
            yield f"{_moved_by(track)} of {in_words(new, at)}{_shown(track.get('formula') or None, ': ')}"


def _moved_by(track: Any) -> str:
    return "a formula" if track.get("formula") else "keys"


def _walk(old: Any, new: Any, path: tuple[str, ...]) -> Iterator[str]:
    if old == new:
        return
    if isinstance(old, dict) and isinstance(new, dict):
        for key in [*old, *(key for key in new if key not in old)]:
            if key == "id":  # it stays; where it does not, what it names is another thing
                continue
            inner = path if key in SILENT else (*path, _word(key))
            if key in old and key in new:
                yield from _walk(old[key], new[key], inner)
            else:
                yield f"{_where(inner)} {'taken away' if key in old else 'added'}{_shown(new.get(key), ' ')}"
        return
    if isinstance(old, list) and isinstance(new, list) and (_named(old) or not old) and (_named(new) or not new):
        yield from _walk_named(old, new, path)
        return
    if isinstance(old, list) and isinstance(new, list) and _are_steps(old) and _are_steps(new):
        yield from _walk_steps(old, new, path)
        return
    yield f"{_where(path)}{_shown(old, ' ')} →{_shown(new, ' ')}"


def _walk_named(old: list[Any], new: list[Any], path: tuple[str, ...]) -> Iterator[str]:
    before, after = {each["name"]: each for each in old}, {each["name"]: each for each in new}
    for name in before.keys() - after.keys():
        yield f"{_where((*path, name))} taken away"
    for name, each in after.items():
        if name in before:
            yield from _walk(before[name], each, (*path, name))
        else:
            yield f"{_where((*path, name))} added"
    kept = [name for name in before if name in after]
    if kept != [name for name in after if name in before]:
        yield f"{_where(path) or 'order'} reordered"


def _walk_steps(old: list[Any], new: list[Any], path: tuple[str, ...]) -> Iterator[str]:
    if [each["op"] for each in old] == [each["op"] for each in new]:
        for a, b in zip(old, new, strict=True):
            yield from _walk({**a, "op": ""}, {**b, "op": ""}, (*path, a["op"]))
        return
    words = " → ".join(", ".join(each["op"] for each in steps) for steps in (old, new))
    yield f"{_where(path)} steps: {words}"


def _named(values: list[Any]) -> bool:
    return bool(values) and all(isinstance(each, dict) and "name" in each for each in values)


def _are_steps(values: list[Any]) -> bool:
    return bool(values) and all(isinstance(each, dict) and "op" in each for each in values)


def _word(key: str) -> str:
    channel = CHANNEL_BY_NAME.get(key)
    return channel.label if channel else key.replace("_", " ")


def _where(path: tuple[str, ...]) -> str:
    # A channel that is one constant: “wet · roughness”, not “wet · roughness · constant · value”.
    short = path[:-2] if path[-2:] == ("constant", "value") else path
    return " · ".join(short)


def _shown(value: Any, before: str) -> str:
    if isinstance(value, bool):
        return f"{before}{'on' if value else 'off'}"
    if isinstance(value, (int, float)):
        return f"{before}{value:.4g}"
    if isinstance(value, str):
        return f"{before}{value[:60]}"
    if isinstance(value, list) and all(isinstance(each, (int, float)) for each in value):
        return f"{before}{' '.join(f'{each:.3g}' for each in value)}"
    if isinstance(value, dict) and len(value) == 1 and isinstance(next(iter(value.values())), str):
        return f"{before}{next(iter(value.values()))}"
    return ""
