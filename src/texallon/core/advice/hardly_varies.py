"""A mask that is the same nearly everywhere hides its layer, or lays it over everything."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.range_misses import RangeMisses
from texallon.core.advice.rule import Advice, Rule
from texallon.core.advice.touches_nothing import TouchesNothing

LITTLE = 0.02
"""Of difference between the 2nd and the 98th percentile: less is none."""

SMALL = 0.0005
"""Share of the view: what lies in less of it is nowhere."""


class HardlyVaries(Rule):
    name: ClassVar[str] = "hardly varies"
    about: ClassVar[str] = "A mask is there to tell one place from another (common practice, no published source)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        last = recipe.steps[-1] if recipe.steps else None
        if recipe.role != "mask" or last is None or last.values is None or last.values.count == 0:
            return
        if last.values.inner_high - last.values.inner_low > LITTLE:
            return
        if any(any(rule.check_recipe(recipe, facts)) for rule in (RangeMisses(), TouchesNothing())):
            return  # these say more
        if 1 - max(last.values.counts) / last.values.count > SMALL and last.values.high - last.values.low > 10 * LITTLE:
            return  # small, but there
        if last.op.name == "constant":
            return
        where = "shows nowhere" if last.values.mean < 0.5 else "covers everything"
        reason = (
            f"The mask of “{recipe.layer}” is {last.values.mean:.2f} nearly everywhere in view, so the layer {where}."
        )
        yield self.found("warning", recipe, last.number, reason)
