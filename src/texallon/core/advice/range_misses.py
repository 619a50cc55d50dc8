"""A range that misses the values that come in clips them all: most corrections of a mask are about this."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.ops.remap import Remap
from texallon.core.ops.threshold import Threshold


class RangeMisses(Rule):
    name: ClassVar[str] = "range misses"
    about: ClassVar[str] = "A range must meet the values that come in (common practice, no published source)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            come = step.incoming
            if come is None or come.count == 0 or step.op.varied:
                continue
            span = f"{come.low:.3g} … {come.high:.3g}"
            if isinstance(step.op, Remap) and (step.op.clamp or step.op.ease != "linear"):
                low, high = sorted((step.op.from_start, step.op.from_end))
                if come.low < high and come.high > low:
                    continue
                ends = [round(come.inner_low, 6), round(come.inner_high, 6)]
                if ends[0] == ends[1]:
                    ends = [ends[0] - 0.5, ends[1] + 0.5]
                if step.op.from_start > step.op.from_end:
                    ends.reverse()
                patch = tuple(
                    {"op": "add", "path": recipe.at(step.number, "params", name), "value": value}
                    for name, value in zip(("from_start", "from_end"), ends, strict=True)
                )
                reason = f"The range {low:.3g} … {high:.3g} misses what comes in, {span}: every value is clipped."
                yield self.found("error", recipe, step.number, reason, Fix("fit the range to the values", patch))
            if isinstance(step.op, Threshold):
                edge = step.op.width / 2
                if come.low < step.op.level + edge and come.high > step.op.level - edge:
                    continue
                where = recipe.at(step.number, "params", "level")
                fix = Fix("set the level to the mean", ({"op": "add", "path": where, "value": round(come.mean, 6)},))
                reason = f"The level {step.op.level:.3g} lies outside what comes in, {span}: the result is the same everywhere."
                yield self.found("error", recipe, step.number, reason, fix)
