"""A glow so strong that the picture shows only white: its colour is lost."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule

WHITE = 16.0
"""Light, after the camera's exposure, beyond which the standard view shows no colour: about 6½ stops over middle grey."""

WANTED = 5.0


class BurntOut(Rule):
    name: ClassVar[str] = "burnt out"
    about: ClassVar[str] = (
        "A display's white holds some stops over middle grey; light far beyond is white whatever its colour (common practice, no "
        "published source)."
    )

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        if recipe.role != "emission_luminance" or not recipe.steps or recipe.steps[-1].values is None:
            return
        values = recipe.steps[-1].values
        stops = facts.own_effect(recipe, "emission_exposure", 0.0)
        shown = values.inner_high * 2.0 ** (facts.shot.camera.exposure + stops)
        if not values.count or shown <= WHITE:
            return
        path = recipe.at(len(recipe.recipe.steps))
        step = {"op": "multiply", "params": {"by": float(f"{WANTED / shown:.3g}")}}
        fix = Fix("bring it into what is shown", ({"op": "add", "path": path, "value": step},))
        reason = f"“{recipe.layer}” glows at {shown:.0f} times white, so that its colour can't be seen."
        yield self.found("note", recipe, recipe.steps[-1].number, reason, fix)
