"""Octaves finer than any sample of the picture cost time and show nothing."""

from collections.abc import Iterator
from math import ceil, log
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.ops.fractal import Fractal


class TooManyOctaves(Rule):
    name: ClassVar[str] = "too many octaves"
    about: ClassVar[str] = "Detail finer than two samples can't be shown (sampling theorem: Shannon 1949)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        finest = facts.footprints.get(recipe.look, 0.0)
        for step in recipe.steps:
            op = step.op
            if (
                not isinstance(op, Fractal)
                or "size" in op.varied
                or finest <= 0
                or op.lacunarity <= 1
                or op.space in ("uv",)
            ):
                continue
            smallest = op.size * min(abs(axis) or 1.0 for axis in op.scale)
            # An octave is gone where a sample covers half of one of its features.
            shown = 1 + log(max(smallest / (2 * finest), 1.0)) / log(op.lacunarity)
            needed = max(ceil(shown), 1)
            if op.octaves <= needed + 0.5:
                continue
            spare = ceil(op.octaves - needed)
            which = "The last of" if spare == 1 else f"The last {spare} of"
            are = "is" if spare == 1 else "are"
            reason = f"{which} {op.octaves:g} octaves {are} finer than the nearest sample of the final picture."
            where = recipe.at(step.number, "params", "octaves")
            fix = Fix(f"use {needed} octaves", ({"op": "add", "path": where, "value": needed},))
            yield self.found("note", recipe, step.number, reason, fix)
