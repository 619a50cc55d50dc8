"""Looks that layers of other looks carry: what of a shot they are, which channels they reach, and that none carries itself."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from texallon.core.document.look import Layer, Look
from texallon.core.document.problem import Problem, pointer

DEEPEST = 12
"""How many looks may lie within each other."""

MOST_LAYERS = 512
"""Layers that a look may come to, with those of all that it carries."""


@dataclass(frozen=True)
class CarriedLook:
    """A look that a layer carries, and its position in the document."""

    number: int
    look: Look


CarriedLooks = Mapping[str, CarriedLook]
"""By name."""


def carried_looks(looks: Sequence[Look]) -> dict[str, CarriedLook]:
    """Those of a shot's looks that any layer carries, by name.

    Parameters
    ----------
    looks : sequence of Look
        All of a document, in its order.
    """
    names = {layer.look.look for look in looks for layer in look.layers if layer.look is not None}
    return {look.name: CarriedLook(number, look) for number, look in enumerate(looks) if look.name in names}


def touched_channels(look: Look, carried: CarriedLooks) -> frozenset[str]:
    """The channels that a look's layers set, with those of the looks that they carry; layers that are off don't count.

    Parameters
    ----------
    look : Look
        Of a checked document, so that it does not carry itself.
    carried : mapping
        Those that layers carry, by name.
    """
    return frozenset(name for layer in look.layers if layer.on for name in layer_channels(layer, carried))


def layer_channels(layer: Layer, carried: CarriedLooks) -> frozenset[str]:
    """The channels that a layer sets itself or by the look that it carries.

    Parameters
    ----------
    layer : Layer
        Of a checked document.
    carried : mapping
        Those that layers carry, by name.
    """
    own = frozenset(layer.channels)
    return own if layer.look is None else own | touched_channels(carried[layer.look.look].look, carried)


def seen_through(looks: Sequence[Look], index: int) -> list[int]:
    """A look and those whose layers carry it, however far up, nearest first: on what wears one of them it can be seen.

    Parameters
    ----------
    looks : sequence of Look
        All of a checked document.
    index : int
        Position of the look.
    """
    found = [index]
    for at in found:
        name = looks[at].name
        for number, look in enumerate(looks):
            if number not in found and any(layer.look and layer.look.look == name for layer in look.layers):
                found.append(number)
    return found


def carrying_problems(looks: Sequence[Look]) -> Iterator[Problem]:
    """What is wrong with the looks that layers carry: one that carries itself, or more than can be worked with.

    Parameters
    ----------
    looks : sequence of Look
        All of a document, in its order; a name that there is none of is passed over.
    """
    by_name = {look.name: look for look in looks}
    sizes: dict[str, int] = {}
    for number, look in enumerate(looks):
        loop = _way_back(look, by_name)
        if loop:
            index = next(at for at, each in enumerate(look.layers) if each.look and each.look.look == loop[1])
            at = pointer("looks", number, "layers", index, "look", "look")
            yield Problem(at, f"looks go round in a circle: {' → '.join(loop)}", "take one of these layers away")
            return
    for number, look in enumerate(looks):
        size, depth = _size(look, by_name, sizes), _depth(look, by_name, {})
        if depth > DEEPEST:
            yield Problem(pointer("looks", number), f"{depth} looks lie within each other", f"at most {DEEPEST}")
        elif size > MOST_LAYERS:
            reason = f"with the looks that its layers carry it has {size} layers"
            yield Problem(pointer("looks", number), reason, f"at most {MOST_LAYERS}")


def _inner(look: Look, by_name: Mapping[str, Look]) -> Iterator[Look]:
    for layer in look.layers:
        if layer.look is not None and layer.look.look in by_name:
            yield by_name[layer.look.look]


def _way_back(start: Look, by_name: Mapping[str, Look]) -> list[str]:
    """The names from a look to itself, through those that it carries; empty where none leads back."""
    came_from: dict[str, str] = {}
    waiting = [start]
    while waiting:
        look = waiting.pop()
        for inner in _inner(look, by_name):
            if inner.name == start.name:
                trail = [look.name]
                while trail[0] != start.name:
                    trail.insert(0, came_from[trail[0]])
                return [*trail, start.name]
            if inner.name not in came_from:
                came_from[inner.name] = look.name
                waiting.append(inner)
    return []


def _size(look: Look, by_name: Mapping[str, Look], known: dict[str, int]) -> int:
    if look.name not in known:
        known[look.name] = len(look.layers) + sum(_size(inner, by_name, known) for inner in _inner(look, by_name))
    return known[look.name]


def _depth(look: Look, by_name: Mapping[str, Look], known: dict[str, int]) -> int:
    if look.name not in known:
        known[look.name] = 1 + max((_depth(inner, by_name, known) for inner in _inner(look, by_name)), default=0)
    return known[look.name]
