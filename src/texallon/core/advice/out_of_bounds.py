"""A displacement that goes farther than the object lets it: what lies beyond becomes a flat top or floor."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.render.scene.scene import looks_of


class OutOfBounds(Rule):
    name: ClassVar[str] = "out of bounds"
    about: ClassVar[str] = "What is held at a bound is flat there (definition of the bounds of a displacement)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        values = recipe.steps[-1].values if recipe.steps else None
        if recipe.role != "displacement" or values is None or not values.count:
            return
        for at, item in enumerate(facts.shot.objects):
            bounds = item.displacement
            if bounds is None or not item.visible or recipe.look not in looks_of(item):
                continue
            farthest = max(values.high - bounds.zero, 0.0 if bounds.outwards_only else bounds.zero - values.low)
            if farthest <= bounds.most * 1.001:
                continue
            wanted = float(f"{farthest * 1.1:.2g}")
            fix = Fix(f"let it move {wanted:g} m", ({"op": "add", "path": f"/objects/{at}/displacement/most", "value": wanted},))  # fmt: skip
            reason = f"“{recipe.layer}” moves “{item.name}” up to {farthest:.3g} m, of which {bounds.most:g} m are allowed: the rest is cut flat."
            yield self.found("warning", recipe, len(recipe.steps) - 1, reason, fix)
            return
