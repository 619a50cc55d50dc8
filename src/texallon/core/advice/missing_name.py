"""An attribute that no geometry of the look carries, or a locator that the shot lacks: the step reads 0, or the world."""

from collections.abc import Iterable, Iterator
from difflib import get_close_matches
from typing import Any, ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts, StepFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.space import LocatorRef, SpaceRef, reference_name
from texallon.core.ops.attribute import Attribute


class MissingName(Rule):
    name: ClassVar[str] = "missing name"
    about: ClassVar[str] = "definition: what is not there reads as 0, and a missing locator as the world's origin"

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        carried = facts.attributes.get(recipe.look, frozenset().union(*facts.attributes.values()))
        for step in recipe.steps:
            if isinstance(step.op, Attribute) and step.op.attribute not in carried:
                where = f"No geometry with the look “{recipe.look}” carries" if recipe.look else "No geometry carries"
                reason = f"{where} the attribute “{step.op.attribute}”, so it reads 0 everywhere"
                path = recipe.at(step.number, "params", "attribute")
                yield self._missing(recipe, step.number, reason, path, step.op.attribute, carried, lambda name: name)
            elif isinstance(step.op, Attribute):
                yield from self._in_some(recipe, step.number, step.op.attribute, facts)
            else:
                yield from self._in_formula(recipe, step, carried)
            for field in type(step.op).model_fields:
                value = getattr(step.op, field)
                if not isinstance(value, SpaceRef):
                    continue
                kind = "locator" if isinstance(value, LocatorRef) else "object"
                known = facts.locators if kind == "locator" else facts.objects
                name = reference_name(value)
                if name not in known:
                    reason = f"This shot has no {kind} “{name}”, so it is measured from the world's origin"
                    path = recipe.at(step.number, "params", field)
                    made: Any = lambda name, kind=kind: {kind: name}  # noqa: E731
                    yield self._missing(recipe, step.number, reason, path, name, known, made)

    def _in_some(self, recipe: RecipeFacts, step: int, wanted: str, facts: Facts) -> Iterator[Advice]:
        """Objects that lack what others with the look carry: what is nearest to its name on them can be read as it."""
        lacking = {name: has for name, has in facts.carried_by.get(recipe.look, {}).items() if wanted not in has}
        if not lacking:
            return
        near = {name: next(iter(get_close_matches(wanted, sorted(has), 1, 0.5)), None) for name, has in lacking.items()}
        patch = tuple(
            {
                "op": "add",
                "path": f"/objects/{number}/attributes",
                "value": [
                    *(each.model_dump() for each in item.attributes),
                    {"attribute": near[item.name], "name": wanted},
                ],
            }
            for number, item in enumerate(facts.shot.objects)
            if near.get(item.name)
        )
        words = ", ".join(f"“{name}”" + (f" (it has “{near[name]}”)" if near[name] else "") for name in lacking)
        verb = "does" if len(lacking) == 1 else "do"
        fix = Fix(f"read that as {wanted}", patch) if len(patch) == len(lacking) else None
        yield self.found(
            "note", recipe, step, f"{words} {verb} not carry the attribute “{wanted}”, so it reads 0 there.", fix
        )

    def _in_formula(self, recipe: RecipeFacts, step: StepFacts, carried: frozenset[str]) -> Iterator[Advice]:
        """Attributes that any other op reads, such as a formula."""
        asked = sorted(
            need.removeprefix("attribute:") for need in step.op.required_data() if need.startswith("attribute:")
        )
        for name in asked:
            if name in carried:
                continue
            where = f"No geometry with the look “{recipe.look}” carries" if recipe.look else "No geometry carries"
            reason = f"{where} the attribute “{name}” that “{step.op.name}” asks for, so it reads 0 everywhere"
            text = getattr(step.op, "expression", "")
            path = recipe.at(step.number, "params", "expression")

            def made(near: str, name: str = name, text: str = text) -> str:
                return text.replace(f'"{name}"', f'"{near}"').replace(f"'{name}'", f"'{near}'")

            yield self._missing(recipe, step.number, reason, path, name, carried if text else (), made)

    def _missing(
        self, recipe: RecipeFacts, step: int, reason: str, path: str, wanted: str, known: Iterable[str], made: Any
    ) -> Advice:
        near = get_close_matches(wanted, sorted(known), n=1, cutoff=0.5)
        if not near:
            return self.found("error", recipe, step, f"{reason}.")
        fix = Fix(f"use “{near[0]}”", ({"op": "add", "path": path, "value": made(near[0])},))
        return self.found("error", recipe, step, f"{reason}; did you mean “{near[0]}”?", fix)
