"""A picture that holds data, read as colour: its numbers are bent by a curve that was never applied to them."""

import re
from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
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


class DataAsColour(Rule):
    name: ClassVar[str] = "data as colour"
    about: ClassVar[str] = "Normals, roughness and masks are read raw (glTF 2.0, 3.9.2; common practice)."

    def check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            if not isinstance(step.op, Image) or step.op.raw:
                continue
            if step.op.role != "colour":
                where = recipe.at(step.number, "params", "read_as")
                fix = Fix("read it raw", ({"op": "add", "path": where, "value": "by role"},))
                reason = f"A picture used as {step.op.role} is read as colour, which bends its numbers."
                yield self.found("error", recipe, step.number, reason, fix)
                continue
            hint = WORD.search(step.op.file.file.lower().rpartition("/")[2])
            if hint and recipe.role != "base_color":
                role = HINTS[hint.group()]
                fix = Fix(
                    f"use it as {role}",
                    ({"op": "add", "path": recipe.at(step.number, "params", "role"), "value": role},),
                )
                reason = f"“{step.op.file.file}” sounds like a {role} map, and is read as colour."
                yield self.found("warning", recipe, step.number, reason, fix)
