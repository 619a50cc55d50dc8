"""A lamp inside an opaque object: none of its light gets out."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.ids import by_id


class ShutIn(Rule):
    name: ClassVar[str] = "shut in"
    about: ClassVar[str] = "Opaque bodies let no light out (common practice, no published source)."

    def _check(self, facts: Facts) -> Iterator[Advice]:
        for light, around in facts.around.shut_in.items():
            index = next(i for i, each in enumerate(facts.shot.lights) if each.name == light)
            fix = Fix(f"switch “{light}” off", ({"op": "add", "path": f"/lights/{index}/on", "value": False},))
            reason = f"The lamp “{light}” is inside “{around}”, which is opaque: none of its light gets out."
            yield Advice(
                self.name, "warning", "", by_id(facts.shot, ("lights", index)), f"lamp · {light}", None, reason, fix
            )
