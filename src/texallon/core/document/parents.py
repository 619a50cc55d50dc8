"""What stands by what: the things whose placement another's is added to, and that none leads back to itself."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Protocol

from texallon.core.document.names import nearest
from texallon.core.document.problem import Problem, pointer

Thing = tuple[str, str]
"""Its list (`objects`, `locators`, `object_groups`) and its name."""

WORDS = {"objects": "object", "locators": "locator", "object_groups": "object group"}

LINKS: Mapping[str, Sequence[tuple[str, str]]] = {
    "objects": (("follows", "locators"), ("belongs_to", "object_groups")),
    "locators": (
        ("follows", "objects"),
        ("belongs_to", "object_groups"),
        ("along", "objects"),
        ("aims_at", "locators"),
    ),
    "object_groups": (("belongs_to", "object_groups"),),
}
"""For each list, the members that name another thing, and in which list that is."""


class _Named(Protocol):
    @property
    def name(self) -> str: ...


Lists = Mapping[str, Sequence[_Named]]


def parent_problems(lists: Lists) -> Iterator[Problem]:
    """Names that there are none of, and circles; each with its place.

    Parameters
    ----------
    lists : mapping
        The document's objects, locators and object groups.
    """
    known = {kind: {each.name for each in lists[kind]} for kind in LINKS}
    wrong = False
    leads: dict[Thing, list[Thing]] = {}
    for kind, links in LINKS.items():
        for index, each in enumerate(lists[kind]):
            for member, other in links:
                name = getattr(each, member)
                if name is None:
                    continue
                if name not in known[other]:
                    wrong = True
                    at = pointer(kind, index, member)
                    yield Problem(at, f"there is no {WORDS[other]} “{name}”", nearest(name, known[other]))
                leads.setdefault((kind, each.name), []).append((other, name))
    if not wrong:
        yield from _circles(lists, leads)


def _circles(lists: Lists, leads: Mapping[Thing, list[Thing]]) -> Iterator[Problem]:
    done: set[Thing] = set()
    for start in leads:
        trail: list[Thing] = []
        waiting: list[tuple[Thing, int]] = [(start, 0)]
        while waiting:
            thing, depth = waiting.pop()
            del trail[depth:]
            if thing in trail:
                loop = [name for _, name in (*trail[trail.index(thing) :], thing)]
                kind, name = thing
                index = next(at for at, each in enumerate(lists[kind]) if each.name == name)
                reason = f"placements go round in a circle: {' → '.join(loop)}"
                yield Problem(pointer(kind, index), reason, "let one of them stand by itself")
                return
            if thing in done:
                continue
            trail.append(thing)
            if not leads.get(thing):
                done.add(thing)
            waiting += [(each, len(trail)) for each in leads.get(thing, [])]
        done.update(trail)
        done.add(start)
