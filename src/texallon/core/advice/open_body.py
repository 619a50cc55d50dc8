"""A body that is filled but has no inside: open, or with its faces the wrong way round."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Rule
from texallon.core.document.problem import pointer


class OpenBody(Rule):
    name: ClassVar[str] = "open body"
    about: ClassVar[str] = (
        "A volume fills what is closed; through a hole, or by faces that look inwards, nothing says what is inside (common "
        "practice, no published source)."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        for each in facts.volumes:
            if not each.open_edges and not each.inverted:
                continue
            index = next(at for at, item in enumerate(facts.shot.objects) if item.name == each.object)
            address = pointer("objects", index, "geometry")
            what = (
                f"has {each.open_edges} edges with one face only" if each.open_edges else "has faces that look inwards"
            )
            reason = (
                f"“{each.object}” is filled with {each.look}, but its body {what}, so light may find it full outside."
            )
            yield Advice(self.name, "warning", each.look, address, each.object, None, reason)
