"""Negative values into an even or fractional power: an even one turns them positive, a fractional one makes them 0."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.ops.power import Power


class NegativePower(Rule):
    name: ClassVar[str] = "negative power"
    about: ClassVar[str] = "An even exponent undoes an inversion (common practice, no published source)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            if not isinstance(step.op, Power) or step.incoming is None or step.incoming.low >= 0:
                continue
            if step.op.varied or step.op.keep_sign:
                continue
            exponent = step.op.exponent
            whole = float(exponent).is_integer()
            if whole and exponent % 2 == 1:
                continue
            if whole:
                does = "brings them back as positive ones: a product of two negative numbers"
                patch = ({"op": "add", "path": recipe.at(step.number, "params", "keep_sign"), "value": True},)
                fix = Fix("keep their sign", patch)
            else:
                does = "makes them 0"
                params = {"low": 0.0, "high": max(round(step.incoming.high, 6), 1.0)}
                patch = ({"op": "add", "path": recipe.at(step.number), "value": {"op": "clamp", "params": params}},)
                fix = Fix("clamp to 0 before it", patch)
            reason = f"Values down to {step.incoming.low:.3g} go into the power {exponent:g}, which {does}."
            # A fractional power that cuts off what lies below 0 is often meant.
            yield self.found("warning" if whole else "note", recipe, step.number, reason, fix)
