"""Edits made up from a document: numbers, texts, lists, members taken away or doubled."""

import copy
import random
from typing import Any

HOSTILE: tuple[Any, ...] = (
    0, -1, 1e-324, 1e308, -1e308, 10**30, True, None, "", "x", "a\0b", "\ud800", [], {}, [[]], {"a": {}}, [1, 2], "0" * 300, 0.5, 1, 2, 1e-6, 1e6,
)  # fmt: skip


def places(value: Any, path: str = "") -> list[str]:
    """JSON Pointers of everything in a document."""
    found = [path] if path else []
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, each in items:
        if key != "id":
            found += places(each, f"{path}/{str(key).replace('~', '~0').replace('/', '~1')}")
    return found


def at(document: Any, path: str) -> Any:
    for token in path.split("/")[1:]:
        name = token.replace("~1", "/").replace("~0", "~")
        document = document[int(name)] if isinstance(document, list) else document[name]
    return document


def made_up(document: Any, rng: random.Random) -> list[dict[str, Any]]:
    """An edit of one to three operations."""
    operations = []
    everything = places(document)
    leaves = [path for path in everything if isinstance(at(document, path), (int, float))]
    for _ in range(rng.choice((1, 1, 1, 2, 3))):
        kind = rng.random()
        path = rng.choice(leaves if kind < 0.55 else everything)
        value = at(document, path)
        if kind < 0.55 and isinstance(value, bool):
            operations.append({"op": "replace", "path": path, "value": not value})
        elif kind < 0.55:
            new: Any = value * rng.choice((0.5, 1.1, 0.9, 2.0, -1.0))
            operations.append({"op": "replace", "path": path, "value": int(new) if isinstance(value, int) else new})
        elif kind < 0.65:
            operations.append({"op": "replace", "path": path, "value": rng.choice(HOSTILE)})
        elif kind < 0.75:
            operations.append({"op": "remove", "path": path})
        elif kind < 0.85:
            operations.append({"op": "copy", "from": path, "path": rng.choice(everything)})
        elif kind < 0.92:
            operations.append({"op": "move", "from": path, "path": rng.choice(everything)})
        else:
            operations.append(
                {"op": "add", "path": path + rng.choice(("", "/-", "/0", "/x")), "value": copy.deepcopy(value)}
            )
    return operations
