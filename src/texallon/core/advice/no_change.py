"""A step that changes nothing: left over, or doing less than somebody thinks."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule


class NoChange(Rule):
    name: ClassVar[str] = "no change"
    about: ClassVar[str] = "definition: what comes out is what came in"

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            if step.changes or step.op.kind == "source":
                continue
            fix = Fix("take the step away", ({"op": "remove", "path": recipe.at(step.number)},))
            reason = f"“{step.op.name}” changes nothing that is in view."
            if step.op.kind == "warp":
                reason = f"“{step.op.name}” bends nothing that the source is looked up by."
            yield self.found("note", recipe, step.number, reason, fix)
