"""Perfectly round spots read as computer graphics."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.ops.spots import Spots

ROUND = 0.1


class RoundSpots(Rule):
    name: ClassVar[str] = "round spots"
    about: ClassVar[str] = "Perfectly round puddles read as computer graphics (common practice, no published source)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            if isinstance(step.op, Spots) and step.op.irregular < ROUND and step.op.result != "spot":
                where = recipe.at(step.number, "params", "irregular")
                fix = Fix("make the outlines uneven", ({"op": "add", "path": where, "value": 0.5},))
                yield self.found("note", recipe, step.number, "Perfectly round spots read as computer graphics.", fix)
