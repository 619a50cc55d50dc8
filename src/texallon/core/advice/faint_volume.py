"""A volume so thin that nothing of it is seen, or so dense that nothing within it is."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Rule
from texallon.core.document.look import Look

THIN, DENSE = 0.003, 400.0
"""Optical depths across a body: below, less than a third of a percent of the light is changed; above, the mean free path is a four hundredth of it."""


class FaintVolume(Rule):
    name: ClassVar[str] = "faint volume"
    about: ClassVar[str] = (
        "What a body's size is against the mean free path of light in it says whether anything is seen: both are looked at together (optical "
        "depth; e.g. Pharr, Jakob and Humphreys, Physically Based Rendering, chapter 11)."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        for each in facts.volumes:
            look = next(look for look in facts.shot.looks if look.name == each.look)
            found = [recipe for recipe in facts.recipes if recipe.look == each.look and recipe.role == "density"]
            if not found or not found[-1].steps or _glows(look):
                continue
            values = found[-1].steps[-1].values
            if values is None or not values.count:
                continue
            most, depth = max(values.high, 0.0) * each.size, max(values.mean, 0.0) * each.size
            if most < THIN:
                path = "no light" if values.high <= 0 else f"a mean free path of {1 / values.high:.3g} m at least"
                reason = f"Nothing is seen of {each.look}: {path} across {each.size:.3g} m."
            elif depth > DENSE and each.object:  # the air may be thick far off
                reason = f"Nothing is seen within {each.look}: its mean free path of {each.size / depth:.2g} m is small against {each.size:.3g} m."
            else:
                continue
            yield self.found("warning", found[-1], len(found[-1].steps) - 1, reason)


def _glows(look: Look) -> bool:
    lit = {"volume_emission", "point_emission"}
    return any(lit & layer.channels.keys() for layer in look.layers if layer.on)
