"""A contact whose object comes nowhere near what is seen."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Rule
from texallon.core.document.space import SpaceRef, reference_name
from texallon.core.ops.contact import Contact


class TouchesNothing(Rule):
    name: ClassVar[str] = "touches nothing"
    about: ClassVar[str] = "A mask of nearness is there for what comes near (common practice, no published source)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        for step in recipe.steps:
            op, values = step.op, step.values
            if not isinstance(op, Contact) or op.measure != "nearness" or values is None or not values.count:
                continue
            if values.high > 0:
                continue
            name = f"“{reference_name(op.to)}”" if isinstance(op.to, SpaceRef) else "What it is measured from"
            hidden = [item.name for item in facts.shot.objects if not item.visible]
            why = (
                " It is hidden, and what is hidden touches nothing."
                if name.strip("“”") in hidden and not op.hidden
                else ""
            )
            reason = f"{name} comes nowhere within {op.end:g} m of what is seen of “{recipe.look}”.{why}"
            yield self.found("note", recipe, step.number, reason)
