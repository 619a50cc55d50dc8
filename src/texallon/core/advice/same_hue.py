"""A volume that absorbs the very colour that it scatters, or sends out: what is left of it is grey."""

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.ops.constant import Constant

SHOWN = {"scattering_color": "scatters", "volume_emission_color": "sends out"}

ALIKE, COLOURED = 0.9, 0.15
"""Cosine between what colours have beyond grey, and how much of it there must be."""


class SameHue(Rule):
    name: ClassVar[str] = "same hue"
    about: ClassVar[str] = (
        "What is absorbed is taken away: a volume shows its colour where it absorbs the opposite one (common practice, no published source)."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        for recipe in facts.recipes:
            taken = _constant(recipe) if recipe.role == "absorption_color" else None
            if taken is None:
                continue
            for other in facts.recipes:
                if other.look != recipe.look or other.role not in SHOWN:
                    continue
                shown = _constant(other)
                if shown is None or not _alike(taken, shown):
                    continue
                opposite = [round(float(each), 4) for each in taken.max() + taken.min() - taken]
                path = recipe.at(0, "params", "value")
                fix = Fix("absorb the opposite colour", ({"op": "replace", "path": path, "value": opposite},))
                reason = f"{recipe.look} absorbs the colour that it {SHOWN[other.role]}, which leaves it grey."
                yield self.found("warning", recipe, 0, reason, fix)
                break


def _constant(recipe: RecipeFacts) -> np.typing.NDArray[np.float64] | None:
    if len(recipe.steps) != 1 or not isinstance(recipe.steps[0].op, Constant):
        return None
    value = np.asarray(recipe.steps[0].op.value, np.float64)
    return value if value.shape == (3,) else None


def _alike(one: np.typing.NDArray[np.float64], other: np.typing.NDArray[np.float64]) -> bool:
    a, b = one - one.mean(), other - other.mean()
    long_a, long_b = float(np.linalg.norm(a)), float(np.linalg.norm(b))
    if long_a < COLOURED * max(one.max(), 1e-9) or long_b < COLOURED * max(other.max(), 1e-9):
        return False
    return float(a @ b) > ALIKE * long_a * long_b
