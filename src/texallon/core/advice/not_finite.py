"""Infinite values, or what is no number: they hide a layer or blacken pixels, and spread through every step after."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Rule


class NotFinite(Rule):
    name: ClassVar[str] = "not finite"
    about: ClassVar[str] = "definition: IEEE 754; what is no number stays none in every step after"

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            came = step.incoming.not_finite if step.incoming else 0
            if step.values is not None and step.values.not_finite > came:
                share = step.values.not_finite / max(step.values.not_finite + step.values.count, 1)
                reason = f"“{step.op.name}” makes {share:.1%} of the values in view infinite or no number at all."
                yield self.found("error", recipe, step.number, reason)
                return
