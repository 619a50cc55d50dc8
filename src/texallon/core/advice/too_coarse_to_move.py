"""A displaced object whose points lie so far apart in the picture that its outline is a row of straight lines."""

from collections.abc import Iterator
from math import ceil, log2
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.channels import DISPLACING
from texallon.core.document.displacement import MOST_LEVELS
from texallon.core.render.scene.scene import looks_of

SEEN = 12.0
"""Pixels between points from which on it is worth saying."""

ENOUGH = 3.0
"""Pixels between points that will do."""


class TooCoarseToMove(Rule):
    name: ClassVar[str] = "too coarse to move"
    about: ClassVar[str] = "Points a few pixels apart show no corners (common practice, no published source)."

    def _check(self, facts: Facts) -> Iterator[Advice]:
        noticed: set[str] = set()
        for recipe in facts.recipes:
            sample, edge = facts.footprints.get(recipe.look, 0.0), facts.edges.get(recipe.look, 0.0)
            if recipe.role not in DISPLACING or recipe.look in noticed or sample <= 0:
                continue
            for at, item in enumerate(facts.shot.objects):
                levels = 0 if item.subdivision is None else item.subdivision.levels
                if item.displacement is None or not item.visible or recipe.look not in looks_of(item):
                    continue
                pixels = edge * item.scale / sample
                if pixels < SEEN or levels >= MOST_LEVELS:
                    continue
                noticed.add(recipe.look)
                wanted = min(levels + ceil(log2(pixels / ENOUGH)), MOST_LEVELS)
                made = (
                    {"levels": wanted}
                    if item.subdivision is None
                    else item.subdivision.model_dump() | {"levels": wanted}
                )
                fix = Fix(
                    f"divide it {wanted} times", ({"op": "add", "path": f"/objects/{at}/subdivision", "value": made},)
                )
                reason = f"The points of “{item.name}” lie {pixels:.0f} pixels apart, too far for “{recipe.look}” to move it in any detail: {wanted} levels would do."
                yield self.found("warning", recipe, None, reason, fix)
                break
