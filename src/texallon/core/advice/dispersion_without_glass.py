"""Dispersion on something that light does not pass through, or that has no inside: it does nothing."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.problem import pointer


class DispersionWithoutGlass(Rule):
    name: ClassVar[str] = "dispersion without glass"
    about: ClassVar[str] = "Only light that is refracted into a body is split by wavelength (OpenPBR Surface 1.1)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        if recipe.role != "transmission_dispersion_scale" or not recipe.steps or recipe.steps[-1].values is None:
            return
        if not recipe.steps[-1].values.count or recipe.steps[-1].values.high <= 0:
            return
        clear, thin = (
            self._most(recipe, facts, "transmission_weight"),
            self._most(recipe, facts, "geometry_thin_walled"),
        )
        if clear > 0 and thin < 0.5:
            return
        why = "opaque" if clear <= 0 else "thin-walled"
        fix = Fix("take it away", ({"op": "remove", "path": pointer(*recipe.path[:-1])},))
        reason = f"“{recipe.look}” is {why}, so the dispersion of “{recipe.layer}” does nothing."
        yield self.found("warning", recipe, recipe.steps[-1].number, reason, fix)

    def _most(self, recipe: RecipeFacts, facts: Facts, role: str) -> float:
        """The highest value that any layer of the look puts into a channel."""
        found = [each for each in facts.recipes if each.look == recipe.look and each.role == role and each.steps]
        return max((each.steps[-1].values.high for each in found if each.steps[-1].values), default=0.0)
