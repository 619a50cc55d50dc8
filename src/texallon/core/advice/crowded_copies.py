"""Copies that are scattered closer than they are wide: they stand in each other."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.ids import by_id

MUCH = 1.6
"""Times the distance that a copy may be wide before it is worth saying: some overlap is what heaps and tufts are made of."""


class CrowdedCopies(Rule):
    name: ClassVar[str] = "crowded copies"
    about: ClassVar[str] = "Bodies can't stand nearer than they are wide (common practice, no published source)."

    def _check(self, facts: Facts) -> Iterator[Advice]:
        for crowd in facts.bodies.crowds:
            if crowd.wide <= MUCH * crowd.apart:
                continue
            index = next(i for i, each in enumerate(facts.shot.objects) if each.name == crowd.object)
            wanted = float(f"{crowd.wide:.2g}")
            fix = Fix(
                f"set them {wanted:g} m apart",
                ({"op": "replace", "path": f"/objects/{index}/array/apart", "value": wanted},),
            )
            reason = (
                f"The copies of “{crowd.object}” are {crowd.wide:.2g} m wide and scattered {crowd.apart:g} m apart, "
                "denser than they have room: they stand in each other."
            )
            at = by_id(facts.shot, ("objects", index))
            yield Advice(self.name, "note", "", at, f"object · {crowd.object}", None, reason, fix)
