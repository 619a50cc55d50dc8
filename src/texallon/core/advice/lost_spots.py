"""Spots in a volume that are finer than what it is stored in: they come out dim and soft, or not at all."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.sampling import MOST_DETAIL
from texallon.core.ops.cellular import Cellular
from texallon.core.ops.remap import Remap
from texallon.core.ops.threshold import Threshold

CELLS = 2.0
"""Cells that a spot's radius should measure at least."""

ROLES = frozenset({"volume_emission", "density", "mask"})


class LostSpots(Rule):
    name: ClassVar[str] = "lost spots"
    about: ClassVar[str] = (
        "A detail is drawn where a few samples lie across it (sampling theorem: C. E. Shannon, 1949); volumes are stored in cells of three "
        "pixels, and not finer than a part of the body."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        for each in facts.volumes:
            for recipe in facts.recipes:
                if recipe.look != each.look or recipe.role not in ROLES:
                    continue
                radius = _radius(recipe)
                if radius is None or radius >= CELLS * each.cell:
                    continue
                detail = round(facts.shot.sampling.volume_detail * CELLS * each.cell / radius + 0.05, 1)
                if radius >= CELLS * each.finest and detail <= MOST_DETAIL:
                    reason = f"Spots of {radius * 1000:.3g} mm lie in cells of {each.cell * 1000:.3g} mm, which lose them: a volume detail of {detail:g} would do."
                    sampling = facts.shot.sampling.model_copy(update={"volume_detail": detail})
                    patch = {"op": "add", "path": "/sampling", "value": sampling.model_dump(mode="json")}
                    yield self.found("warning", recipe, 0, reason, Fix(f"volume detail {detail:g}", (patch,)))
                    continue
                reason = (
                    f"Spots of {radius * 1000:.3g} mm lie in cells of {each.finest * 1000:.3g} mm at the finest, which lose them: bright points, which are "
                    "listed and never lost, would do."
                )
                yield self.found("warning", recipe, 0, reason)


def _radius(recipe: RecipeFacts) -> float | None:
    """The radius of spots that are made by cutting the distance to the nearest point short, metres."""
    steps = [step.op for step in recipe.steps]
    if len(steps) < 2 or not isinstance(steps[0], Cellular) or steps[0].result != "nearest":
        return None
    cut = steps[1]
    if isinstance(cut, Remap) and cut.to_end < cut.to_start:
        return float(max(cut.from_end, cut.from_start) * steps[0].unit())
    if isinstance(cut, Remap) and cut.from_end < cut.from_start:
        return float(cut.from_start * steps[0].unit())
    if isinstance(cut, Threshold) and cut.keep == "below":
        return float(cut.level * steps[0].unit())
    return None
