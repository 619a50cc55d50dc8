"""Negative values into an even or fractional power: an even one turns them positive, a fractional one makes them 0."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.ops.power import Power


class NegativePower(Rule):
    name: ClassVar[str] = "negative power"
    about: ClassVar[str] = "An even exponent undoes an inversion (common practice, no published source)."

    def check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            if not isinstance(step.op, Power) or step.incoming is None or step.incoming.low >= 0:
                continue
            if step.op.varied:
                continue
            exponent = step.op.exponent
            whole = float(exponent).is_integer()
            if whole and exponent % 2 == 1:
                continue
            does = "turns them positive" if whole else "makes them 0"
            reason = f"Values down to {step.incoming.low:.3g} go into the power {exponent:g}, which {does}."
            params = {"low": 0.0, "high": max(round(step.incoming.high, 6), 1.0)}
            patch = ({"op": "add", "path": recipe.at(step.number), "value": {"op": "clamp", "params": params}},)
            yield self.found("warning", recipe, step.number, reason, Fix("clamp to 0 before it", patch))
