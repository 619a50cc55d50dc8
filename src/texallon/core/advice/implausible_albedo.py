"""A base colour that no real surface has: it looks like a hole, or glows in its own reflections."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Rule
from texallon.core.document.look import Blend

DARKEST, BRIGHTEST = 0.015, 0.9


class ImplausibleAlbedo(Rule):
    name: ClassVar[str] = "implausible albedo"
    about: ClassVar[str] = (
        "Real surfaces give back about 0.02 to 0.9 of the light (common practice, no published source)."
    )

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        if recipe.role != "base_color" or not recipe.steps or recipe.steps[-1].values is None:
            return
        look = next(look for look in facts.shot.looks if look.name == recipe.look)
        layer = next(layer for layer in look.layers if layer.name == recipe.layer)
        if layer.channels["base_color"].blend != Blend.replace or _not_a_ground(look.name, facts):
            return
        values = recipe.steps[-1].values
        weight = facts.own_effect(recipe, "base_weight", 1.0)
        if facts.own_effect(recipe, "base_metalness", 0.0) > 0.5:
            return  # the colour of a metal is its reflectance, which for silver is 0.97
        if facts.own_effect(recipe, "subsurface_weight", 0.0) > 0.9 or weight < 0.02:
            return
        if values.count and values.inner_low * weight > BRIGHTEST:
            reason = f"The colour of “{recipe.layer}” gives back {values.mean * weight:.2f} of the light, more than fresh snow does."
            yield self.found("note", recipe, recipe.steps[-1].number, reason)
        elif values.count and values.inner_high < DARKEST:
            reason = f"The colour of “{recipe.layer}” gives back {values.mean:.3f} of the light, less than soot does."
            yield self.found("note", recipe, recipe.steps[-1].number, reason)


def _not_a_ground(look: str, facts: Facts) -> bool:
    """Whether a look is clear, glows by itself or is shown as it is, so that its base colour is no albedo that one sees."""
    roles = {each.role for each in facts.recipes if each.look == look}
    return bool(roles & {"transmission_weight", "emission_luminance", "self_lit"})
