"""An opacity that is neither 0 nor 1 over large areas: a hard cut-out that is really a veil, and slow to clear of noise."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.signal.statistics import BINS

MUCH = 0.35


class HalfCutOut(Rule):
    name: ClassVar[str] = "half cut out"
    about: ClassVar[str] = "A cut-out is 0 or 1 but for its edges (common practice, no published source)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        if recipe.role != "geometry_opacity" or not recipe.steps or recipe.steps[-1].values is None:
            return
        values = recipe.steps[-1].values
        if not values.count or recipe.steps[-1].op.name == "constant":
            return
        if any("view" in step.op.required_data() for step in recipe.steps):
            return  # a veil by view angle is meant: cut hard it would be an outline
        width = max(values.high - values.low, 1e-9) / BINS
        between = sum(
            count for number, count in enumerate(values.counts) if 0.1 < values.low + width * (number + 0.5) < 0.9
        )
        share = between / values.count
        if share <= MUCH:
            return
        path = recipe.at(len(recipe.recipe.steps))
        step = {"op": "threshold", "params": {"level": round(min(max(values.mean, 0.1), 0.9), 3), "width": 0.1}}
        fix = Fix("cut it hard", ({"op": "add", "path": path, "value": step},))
        reason = (
            f"{share:.0%} of what is seen of “{recipe.layer}” is neither there nor cut out, so it looks like a veil."
        )
        yield self.found("note", recipe, recipe.steps[-1].number, reason, fix)
