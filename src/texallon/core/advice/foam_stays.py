"""Foam that hardly dies: the water is soon white all over."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.ops.waves import Waves

LONG = 20.0
"""Seconds in which foam comes down to a third, beyond which it is not that of water."""

NATURAL = 4.0


class FoamStays(Rule):
    name: ClassVar[str] = "foam stays"
    about: ClassVar[str] = (
        "Whitecaps decay to 1/e in 3.9 s in salt and 2.5 s in fresh water (E. C. Monahan, C. R. Zietlow, J. Geophys. Res. 74, 1969; from memory)."
    )

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            op = step.op
            if not isinstance(op, Waves) or op.gives not in ("foam", "foam age") or op.foam_lasts <= LONG:
                continue
            path = recipe.at(step.number, "params", "foam_lasts")
            fix = Fix(f"let it last {NATURAL:g} s", ({"op": "replace", "path": path, "value": NATURAL},))
            reason = (
                f"Foam takes {op.foam_lasts:g} s to come down to a third: it hardly dies, and piles up over the water."
            )
            yield self.found("warning", recipe, step.number, reason, fix)
