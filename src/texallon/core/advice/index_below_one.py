"""An index of refraction below 1, which no body has: it is taken for 1."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule

INDICES = ("specular_ior", "coat_ior", "thin_film_ior")


class IndexBelowOne(Rule):
    name: ClassVar[str] = "index below one"
    about: ClassVar[str] = (
        "Light is slower in every body than in a vacuum, so indices are 1 or more (E. Hecht, *Optics*)."
    )

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        if recipe.role not in INDICES or not recipe.steps or recipe.steps[-1].values is None:
            return
        values = recipe.steps[-1].values
        if not values.count or values.low >= 1:
            return
        path = recipe.at(len(recipe.recipe.steps))
        fix = Fix(
            "keep it at 1 or more",
            ({"op": "add", "path": path, "value": {"op": "maximum", "params": {"by": 1.0}}},),
        )
        reason = f"An index of “{recipe.layer}” is held at 1 (asked for {values.low:.3g}): no body has less."
        yield self.found("warning", recipe, recipe.steps[-1].number, reason, fix)
