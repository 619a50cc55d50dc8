"""Values beyond what a channel can be: the surface takes the nearest that it can, whatever the recipe says."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.index_below_one import INDICES
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.look import Blend

SLACK = 1e-4
"""Share of a range by which rounding may go beyond it."""


class HeldInRange(Rule):
    name: ClassVar[str] = "held in range"
    about: ClassVar[str] = (
        "Channels have ranges (OpenPBR Surface 1.1); what lies beyond is taken for the end of the range."
    )

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        channel = CHANNEL_BY_NAME.get(recipe.role)
        if channel is None or not recipe.steps or recipe.steps[-1].values is None:
            return
        look = next(look for look in facts.shot.looks if look.name == recipe.look)
        layer = next(layer for layer in look.layers if layer.name == recipe.layer)
        values = recipe.steps[-1].values
        if layer.channels[recipe.role].blend != Blend.replace or not values.count:
            return
        slack = SLACK * min(channel.high - channel.low, 1.0)
        below, above = values.low < channel.low - slack, values.high > channel.high + slack
        if not (below or above) or (below and recipe.role in INDICES):
            return
        end, asked = (channel.low, values.low) if below else (channel.high, values.high)
        clamp = {"op": "clamp", "params": {"low": channel.low, "high": channel.high}}
        fix = Fix(
            "clamp it to the range", ({"op": "add", "path": recipe.at(len(recipe.recipe.steps)), "value": clamp},)
        )
        reason = f"The {channel.label} of “{recipe.layer}” is held at {end:g} (asked for {asked:.3g})."
        yield self.found("note", recipe, recipe.steps[-1].number, reason, fix)
