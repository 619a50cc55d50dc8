"""Springs that swing faster than frames follow each other: they seem to stand, or to swing backwards."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.ids import by_id
from texallon.core.document.remembered import Springs

FEWEST = 4
"""Frames of a swing that show it as one."""


class SpringsTooQuick(Rule):
    name: ClassVar[str] = "springs too quick"
    about: ClassVar[str] = (
        "Of a swing at least two frames must be seen (C. Shannon, 1949), and it takes four to look like one (common practice)."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        rate = facts.shot.frames.rate
        for index, item in enumerate(facts.shot.objects):
            for number, each in enumerate(item.remembers):
                if not isinstance(each, Springs) or each.damping >= 1 or each.frequency * FEWEST <= rate:
                    continue
                wanted = float(f"{rate / (2 * FEWEST):.3g}")
                path = f"/objects/{index}/remembers/{number}/frequency"
                fix = Fix(f"swing {wanted:g} times a second", ({"op": "replace", "path": path, "value": wanted},))
                reason = (
                    f"“{each.name}” of “{item.name}” swings {each.frequency:g} times a second, and a swing lasts "
                    f"{rate / each.frequency:.2g} frames: it flickers."
                )
                at = by_id(facts.shot, ("objects", index))
                yield Advice(self.name, "warning", "", at, f"object · {item.name}", None, reason, fix)
