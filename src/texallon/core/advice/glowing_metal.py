"""Metalness left high where a surface glows: the glow looks broken."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule


class GlowingMetal(Rule):
    name: ClassVar[str] = "glowing metal"
    about: ClassVar[str] = (
        "Metal that glows looks broken until its metalness is lowered where it glows (common practice, no published source)."
    )

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        if recipe.role != "emission_luminance" or not recipe.steps:
            return
        last = recipe.steps[-1]
        look = next(look for look in facts.shot.looks if look.name == recipe.look)
        number = next(i for i, layer in enumerate(look.layers) if layer.name == recipe.layer)
        if last.values is None or last.values.high <= 0:
            return
        # Metal below this layer, and nothing in it or above it that lowers it.
        below = facts.of(recipe.look, "base_metalness", look.layers[: number + 1])
        above = facts.of(recipe.look, "base_metalness", look.layers[number:])
        high = [each for each in below if each.steps and each.steps[-1].values and each.steps[-1].values.mean > 0.5]
        lowered = any(each.steps and each.steps[-1].values and each.steps[-1].values.low < 0.5 for each in above)
        if not high or lowered:
            return
        path = f"/looks/{facts.shot.looks.index(look)}/layers/{number}/channels/base_metalness"
        value = {"recipe": {"steps": [{"op": "constant", "params": {"value": 0.0}}]}}
        fix = Fix("lower its metalness", ({"op": "add", "path": path, "value": value},)) if number else None
        reason = f"“{recipe.layer}” glows while the surface below it is still metal, which looks broken."
        yield self.found("warning", recipe, last.number, reason, fix)
