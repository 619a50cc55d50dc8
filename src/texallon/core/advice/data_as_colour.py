"""A picture read otherwise than what it holds: data bent by a curve that was never applied to it, or colours without theirs."""

import re
from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts, StepFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.ops.image import Image

HINTS = {
    "normal": "normal",
    "nrm": "normal",
    "rough": "roughness",
    "mask": "mask",
    "height": "height",
    "bump": "height",
}
WORD = re.compile("|".join(HINTS))

EIGHT_BIT = (".png", ".jpg", ".jpeg")
"""Files that keep colours by the curve of a display; the others may be linear."""


class DataAsColour(Rule):
    name: ClassVar[str] = "data as colour"
    about: ClassVar[str] = "Normals, roughness and masks are read raw (glTF 2.0, 3.9.2; common practice)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            if isinstance(step.op, Image):
                yield from self._problems(recipe, step, step.op, facts)

    def _problems(self, recipe: RecipeFacts, step: StepFacts, op: Image, facts: Facts) -> Iterator[Advice]:
        holds = facts.pictures.get(op.file.file, "colours")
        name = op.file.file.lower().rpartition("/")[2]
        if op.role != "colour" and not op.raw:
            where = recipe.at(step.number, "params", "read_as")
            fix = Fix("read it raw", ({"op": "add", "path": where, "value": "by role"},))
            reason = f"A picture used as {op.role} is read as colour, which bends its numbers."
            yield self.found("error", recipe, step.number, reason, fix)
        elif op.role == "colour" and holds == "normals":
            reason = f"“{op.file.file}” holds normals, and is read as colour."
            yield self.found("error", recipe, step.number, reason, self._as(recipe, step, "normal"))
        elif op.role == "colour" and op.raw and holds == "colours" and name.endswith(EIGHT_BIT):
            where = recipe.at(step.number, "params", "read_as")
            fix = Fix("read it as colour", ({"op": "add", "path": where, "value": "by role"},))
            reason = f"“{op.file.file}” holds colours, and is read raw: it looks washed out."
            yield self.found("warning", recipe, step.number, reason, fix)
        elif op.role == "colour" and not op.raw and holds == "grey" and not _wants_colour(recipe):
            hint = WORD.search(name)
            role = HINTS[hint.group()] if hint else "mask"
            reason = f"“{op.file.file}” holds one number a pixel, and is read as colour."
            yield self.found("warning", recipe, step.number, reason, self._as(recipe, step, role))

    def _as(self, recipe: RecipeFacts, step: StepFacts, role: str) -> Fix:
        path = recipe.at(step.number, "params", "role")
        return Fix(f"use it as {role}", ({"op": "add", "path": path, "value": role},))


def _wants_colour(recipe: RecipeFacts) -> bool:
    """Whether a recipe makes a colour that one sees: grey pictures may well be colours there."""
    channel = CHANNEL_BY_NAME.get(recipe.role)
    return channel is not None and channel.width == 3 and channel.name.endswith("color")
