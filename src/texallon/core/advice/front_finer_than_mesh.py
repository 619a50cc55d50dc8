"""A front that rises within less than the mesh's own edges: it goes from corner to corner in steps."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.ids import by_id
from texallon.core.document.remembered import Growth

LEAST = 0.7
"""Of an edge's length: so much less than a whole one is said."""

MOST_DIVIDED = 8
"""Times that edges may be too long for faces to be divided in place of a wider rise: each halving makes four times as many."""


class FrontFinerThanMesh(Rule):
    name: ClassVar[str] = "front finer than the mesh"
    about: ClassVar[str] = (
        "What grows is known at a mesh's vertices, and nothing between two of them (definition of an attribute)."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        for index, item in enumerate(facts.shot.objects):
            for number, each in enumerate(item.remembers):
                edge = facts.edges.get(item.look, 0.0) * item.scale
                if not isinstance(each, Growth) or each.of != "surface" or each.speed == 0 or each.edge >= LEAST * edge:
                    continue
                path = f"/objects/{index}/remembers/{number}"
                if each.edge * MOST_DIVIDED >= edge:
                    cell = float(f"{each.edge:.2g}")
                    fix = Fix(
                        f"remember it at points {cell:g} m apart",
                        ({"op": "add", "path": f"{path}/cell", "value": cell},),
                    )
                else:
                    wanted = float(f"{edge * 1.5:.2g}")
                    fix = Fix(
                        f"let it rise within {wanted:g} m",
                        ({"op": "replace", "path": f"{path}/edge", "value": wanted},),
                    )
                reason = (
                    f"The front of “{each.name}” rises within {each.edge:g} m, and the edges of “{item.name}” are "
                    f"{edge:.2g} m long: it goes from corner to corner, unless the faces are divided."
                )
                at = by_id(facts.shot, ("objects", index))
                yield Advice(self.name, "warning", "", at, f"object · {item.name}", None, reason, fix)
