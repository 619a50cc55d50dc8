"""A recipe of a volume that reads what only surfaces have: there is no normal, no curvature and no texture coordinate in the middle of a cloud."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.points import find_point_data_kind, is_attribute

HAD = frozenset({"position", "object_position", "rest_position", "footprint", "object_footprint", "distance"})
"""Kinds of point data that places in space have."""


class NoSurface(Rule):
    name: ClassVar[str] = "no surface"
    about: ClassVar[str] = (
        "Normal, curvature, crevices and texture coordinates are of surfaces; within a volume they are what stands in for them, the same "
        "everywhere (common practice, no published source)."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        volumes = {look.name for look in facts.shot.looks if look.domain == "volume"}
        for recipe in facts.recipes:
            if recipe.look not in volumes:
                continue
            for step in recipe.steps:
                lacking = sorted(name for name in step.op.required_data() if _lacks(name))
                if not lacking:
                    continue
                what = lacking[0].partition(":")[0].replace("_", " ")
                reason = f"“{step.op.name}” reads the {what}, which nothing within a volume has."
                patch = ({"op": "replace", "path": recipe.at(step.number, "on"), "value": False},)
                fix = Fix("switch the step off", patch) if step.number else None
                yield self.found("warning", recipe, step.number, reason, fix)
                break


def _lacks(name: str) -> bool:
    if is_attribute(name):
        return True
    kind = find_point_data_kind(name)
    return kind is not None and kind.name not in HAD and kind.domain not in ("object", "part")
