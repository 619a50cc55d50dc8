"""Ground under a water surface that keeps sharp reflections of its own: it sparkles."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule

WORDS = ("under water", "below water", "underwater", "submerged")


class GlintsUnderWater(Rule):
    name: ClassVar[str] = "glints under water"
    about: ClassVar[str] = (
        "Ground under the water surface must not add its own sharp reflections, or it sparkles (common practice, no published source)."
    )

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        name = recipe.layer.lower()
        if recipe.role != "mask" or not recipe.steps or not any(word in name for word in WORDS):
            return
        look_index, look = next((i, look) for i, look in enumerate(facts.shot.looks) if look.name == recipe.look)
        number = next(i for i, layer in enumerate(look.layers) if layer.name == recipe.layer)
        last = recipe.steps[-1]
        if last.values is None or last.values.mean < 0.005 or "specular_weight" in look.layers[number].channels:
            return
        path = f"/looks/{look_index}/layers/{number}/channels/specular_weight"
        value = {"recipe": {"steps": [{"op": "constant", "params": {"value": 0.0}}]}}
        fix = Fix("take its reflections away", ({"op": "add", "path": path, "value": value},))
        reason = f"“{recipe.layer}” keeps reflections of its own under the water's surface, and will sparkle."
        yield self.found("warning", recipe, last.number, reason, fix)
