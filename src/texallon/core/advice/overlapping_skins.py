"""Two skins that reach into each other, of which neither comes first."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.ids import by_id


class OverlappingSkins(Rule):
    name: ClassVar[str] = "overlapping skins"
    about: ClassVar[str] = (
        "Where two clear bodies share a space one of them must come first: C. M. Schmidt, B. Budge, Journal of Graphics Tools 7 (2002)."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        numbers = {each.name: number for number, each in enumerate(facts.shot.objects)}
        for pair in facts.bodies.overlaps:
            one, other = (facts.shot.objects[numbers[name]] for name in (pair.one, pair.other))
            if one.priority != other.priority:
                continue
            at = numbers[pair.one]
            path = f"/objects/{at}/priority"
            fix = Fix(
                f"let “{pair.one}” come first", ({"op": "add", "path": path, "value": min(one.priority + 1, 100)},)
            )
            reason = (
                f"{max(pair.share, 0.01):.0%} of the skin of “{pair.one}” lies within that of “{pair.other}”, and both have the priority "
                f"{one.priority}: which of them fills the space hangs on chance."
            )
            address = by_id(facts.shot, ("objects", at))
            yield Advice(self.name, "warning", "", address, f"object · {pair.one}", None, reason, fix)
