"""A mask that lies where its name says it should not is probably the wrong way round."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule

CLEARLY = 0.35
"""Standard deviations from the look's mean: less may be chance."""


@dataclass(frozen=True)
class Expectation:
    """Words in a layer's name, what they lean to, which way, and how to say that it is otherwise."""

    words: tuple[str, ...]
    lean: str
    sign: int
    complaint: str


EXPECTATIONS = (
    Expectation(
        ("dust", "snow", "ash", "pollen", "leaves", "rain", "frost"), "up", 1, "falls from above but lies mostly below"
    ),
    Expectation(
        ("rim", "outline", "silhouette", "halo"), "rim", 1, "belongs to the silhouette but lies facing the eye"
    ),
    Expectation(
        ("dirt", "grime", "crevice", "cavity", "crack", "soot"),
        "outside",
        -1,
        "gathers in hollows but lies on outer edges",
    ),
)


class Inverted(Rule):
    name: ClassVar[str] = "inverted"
    about: ClassVar[str] = "Dust lies on top and dirt in hollows (common practice, no published source)."

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        words = recipe.layer.lower().replace("-", " ").split()
        for each in EXPECTATIONS:
            if not any(word in words for word in each.words):
                continue
            if recipe.leans.get(each.lean, 0.0) * each.sign >= -CLEARLY:
                continue
            last = recipe.steps[-1]
            if last.op.name == "invert":
                fix = Fix("take the inversion away", ({"op": "remove", "path": recipe.at(last.number)},))
            else:
                path = recipe.at(len(recipe.recipe.steps))
                fix = Fix("invert the mask", ({"op": "add", "path": path, "value": {"op": "invert", "params": {}}},))
            reason = f"“{recipe.layer}” {each.complaint}: the mask is probably inverted."
            yield self.found("warning", recipe, last.number, reason, fix)
            return
